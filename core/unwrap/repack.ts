import { chosenParts } from "../asset/asset";
import { gameMeshes, withGameMeshes } from "../asset/parts";
import { MissingInputError } from "../errors";
import type { Mesh } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";
import { defineOperation, field } from "../operation";
import { triangleArea } from "../space/sample";
import { islandsOf } from "./measure";
import { packIslands } from "./pack";
import { reportUnwrap, sheetOf } from "./unwrap";
import { seamsFromUvs } from "./unwrap-parts";

class RepackOptions {
  @field({
    kind: "integer",
    label: "Sheet",
    help: "Edge of the sheet; 0 takes the brief's.",
    unit: "px",
    min: 0,
    max: 8192,
  })
  size = 0;

  @field({
    kind: "integer",
    label: "Padding",
    help: "Free texels round every island; −1 takes the brief's.",
    unit: "px",
    min: -1,
    max: 64,
  })
  padding = -1;

  @field({
    kind: "number",
    label: "Texel density",
    help: "Texels per metre; −1 takes the brief's, 0 as many as fit.",
    unit: "texels/m",
    min: -1,
    max: 100000,
  })
  density = -1;
}

export const repackIslands = defineOperation({
  id: "unwrap/pack",
  stage: "unwrap",
  title: "Pack only",
  about:
    "Keeps the islands as they are, gives all the same texel density and packs them again.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  Options: RepackOptions,
  run(asset, options, context) {
    const parts = gameMeshes(asset, chosenParts(asset, [])).filter(
      ({ mesh }) => mesh.uvs,
    );
    if (!parts.length)
      throw new MissingInputError("no game mesh has UVs yet: unwrap first");
    const start = performance.now();
    const sheet = sheetOf(asset, options);
    const islands = parts.flatMap(({ mesh }, m) =>
      gatherIslands(mesh).map((island) => ({ ...island, m })),
    );
    context.progress(0.2, `packing ${islands.length} islands`);
    const { placements, texelsPerMetre } = packIslands(islands, sheet, () =>
      context.check(),
    );
    const uvs = parts.map(({ mesh }) => mesh.uvs!.slice());
    islands.forEach(({ m, corners, scale }, i) => {
      const { angle, x, y } = placements[i];
      const cos = texelsPerMetre * Math.cos(angle) * scale;
      const sin = texelsPerMetre * Math.sin(angle) * scale;
      const old = parts[m].mesh.uvs!;
      for (const c of corners) {
        uvs[m][2 * c] =
          (x + cos * old[2 * c] - sin * old[2 * c + 1]) / sheet.size;
        uvs[m][2 * c + 1] =
          (y + sin * old[2 * c] + cos * old[2 * c + 1]) / sheet.size;
      }
    });
    const seconds = (performance.now() - start) / 1000;
    const meshes = parts.map(({ name, mesh }, m): [string, Mesh] => [
      name,
      { ...mesh, uvs: uvs[m], seams: seamsFromUvs(mesh, uvs[m]) },
    ]);
    const next = withGameMeshes(asset, new Map(meshes));
    return { asset: next, ...reportUnwrap(next, sheet.size, seconds) };
  },
});

/** The islands of an unwrapped mesh, scaled to their size in metres. */
function gatherIslands(mesh: Mesh) {
  const { count, ofFace } = islandsOf(mesh);
  const { corners, vertices, faces } = triangulate(mesh);
  const flat: number[][] = Array.from({ length: count }, () => []);
  const area = new Float64Array(count);
  const covered = new Float64Array(count);
  const used: Set<number>[] = Array.from({ length: count }, () => new Set());
  const uvs = mesh.uvs!;
  for (let t = 0; t < faces.length; t++) {
    const island = ofFace[faces[t]];
    const q = [0, 1, 2].flatMap((k) => [
      uvs[2 * corners[3 * t + k]],
      uvs[2 * corners[3 * t + k] + 1],
    ]);
    flat[island].push(...q);
    covered[island] +=
      Math.abs((q[2] - q[0]) * (q[5] - q[1]) - (q[4] - q[0]) * (q[3] - q[1])) /
      2;
    area[island] += triangleArea(mesh.positions, vertices, t);
  }
  for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      used[ofFace[f]].add(c);
  return flat.map((list, i) => {
    const scale = covered[i] > 0 ? Math.sqrt(area[i] / covered[i]) : 0;
    return {
      triangles: Float64Array.from(list, (x) => x * scale),
      scale,
      corners: used[i],
    };
  });
}
