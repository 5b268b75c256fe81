import type { SurfaceLook } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { tileAt, tileOfFaces, udimOf } from "../../mesh/tiles";

/** What a material is called on one of several sheets. */
export const materialOnTile = (material: string, tile: number) =>
  `${material} ${udimOf(tile)}`;

/**
 * A mesh for formats that know one sheet only: every material once for each tile its faces lie on, and all UVs
 * moved by whole sheets to the first one.
 */
export function onOneSheet(mesh: Mesh): Mesh {
  if (!mesh.uvs) return mesh;
  const tiles = tileOfFaces(mesh);
  const materials: string[] = [];
  const uvs = mesh.uvs.slice();
  const faceMaterials = Uint16Array.from(tiles, (found, f) => {
    const tile = Math.max(0, found);
    const [right, up] = tileAt(tile);
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      uvs[2 * c] -= right;
      uvs[2 * c + 1] -= up;
    }
    const name = materialOnTile(
      mesh.materials[mesh.faceMaterials?.[f] ?? 0],
      tile,
    );
    const at = materials.indexOf(name);
    return at >= 0 ? at : materials.push(name) - 1;
  });
  return { ...mesh, uvs, materials, faceMaterials };
}

/** The looks of materials, once for each tile. */
export const looksOnTiles = (
  looks: readonly SurfaceLook[],
  tiles: readonly number[],
): SurfaceLook[] =>
  looks.flatMap((look) =>
    tiles.map((tile) => ({
      ...look,
      material: materialOnTile(look.material, tile),
    })),
  );
