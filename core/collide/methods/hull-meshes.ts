import type { Asset, Part } from "../../asset/asset";
import { piecesIn } from "../../asset/pieces";
import { keepFaces } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { settledOf } from "../../settle/settled-of";

/** Which meshes hulls are made from: the game mesh where there is one, the source, or a level of detail by its number. */
export type HullsFrom = "game" | "source" | "1" | "2" | "3";

/**
 * The mesh of each part that hulls stand for: its game mesh or, where no part has one, its settled source; or what is
 * asked for.
 * @param smallestPiece loose pieces that are smaller are left out, millimetres
 */
export function meshForHulls(
  asset: Asset,
  { from, smallestPiece }: { from: HullsFrom; smallestPiece: number },
  check: () => void,
): (part: Part) => Mesh | null {
  const settled = ({ source }: Part) => source && settledOf(source, check).mesh;
  const bare = asset.parts.every((each) => !each.game);
  const whole = (part: Part): Mesh | null => {
    if (from === "source") return settled(part);
    if (from === "game") return part.game ?? (bare ? settled(part) : null);
    return part.levels[Number(from) - 1] ?? null;
  };
  const found = new Map<Mesh, Mesh | null>();
  return (part) => {
    const mesh = whole(part);
    if (!mesh || !smallestPiece) return mesh;
    if (!found.has(mesh)) found.set(mesh, withoutTiny(mesh, smallestPiece));
    return found.get(mesh)!;
  };
}

/** A mesh without its loose pieces that are smaller than a length in millimetres; null where nothing is left. */
function withoutTiny(mesh: Mesh, length: number): Mesh | null {
  const keep = new Uint8Array(faceCount(mesh));
  for (const { faces, diagonal } of piecesIn("", mesh))
    if (1000 * diagonal >= length) for (const f of faces) keep[f] = 1;
  if (!keep.includes(1)) return null;
  return keep.includes(0) ? keepFaces(mesh, keep) : mesh;
}

/** The points of all meshes: 3 × n, metres. */
export function pointsOf(meshes: readonly Mesh[]): Float32Array {
  const points = new Float32Array(
    meshes.reduce((sum, mesh) => sum + mesh.positions.length, 0),
  );
  let at = 0;
  for (const mesh of meshes) {
    points.set(mesh.positions, at);
    at += mesh.positions.length;
  }
  return points;
}
