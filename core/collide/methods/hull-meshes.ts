import type { Asset, Part } from "../../asset/asset";
import { piecesIn } from "../../asset/pieces";
import { keepFaces } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { settledOf } from "../../settle/settled-of";

/** Which meshes hulls are made from: the game mesh where there is one, the source, or a level of detail by its number. */
export type HullsFrom = "game" | "source" | `${number}`;

/** Which meshes hulls stand for, and what of them has no say. */
export interface HullMeshes {
  from: HullsFrom;
  /** Loose pieces that are smaller are left out, millimetres; 0 for those under a hundredth of the asset. */
  smallestPiece: number;
  /** Whether pieces count that nobody sees, where it was looked for what is seen. */
  unseenToo: boolean;
}

/** What is smaller than this share of the asset's diagonal has no say where nothing was said of it. */
const TINY = 0.01;

/**
 * The mesh of each part that hulls stand for: its game mesh or, where no part has one, its settled source; or what is
 * asked for. Pieces that are tiny or seen by nobody are left out, unless there is nothing else.
 */
export function meshForHulls(
  asset: Asset,
  { from, smallestPiece, unseenToo }: HullMeshes,
  check: () => void,
): (part: Part) => Mesh | null {
  const settled = ({ source }: Part) => source && settledOf(source, check).mesh;
  const bare = asset.parts.every((each) => !each.game);
  const whole = (part: Part): Mesh | null => {
    if (from === "source") return settled(part);
    if (from === "game") return part.game ?? (bare ? settled(part) : null);
    return part.levels[Number(from) - 1] ?? null;
  };
  const all = asset.parts.flatMap((part) => whole(part) ?? []);
  const length = smallestPiece
    ? smallestPiece / 1000
    : TINY * diagonalOf(boundsOf(...all.map((mesh) => mesh.positions)));
  const found = new Map<Mesh, Mesh | null>();
  const without = (mesh: Mesh) => {
    if (!found.has(mesh))
      found.set(mesh, withoutDetail(mesh, length, !unseenToo));
    return found.get(mesh)!;
  };
  const nothing = !smallestPiece && all.every((mesh) => !without(mesh));
  return (part) => {
    const mesh = whole(part);
    return mesh && !nothing ? without(mesh) : mesh;
  };
}

/** A mesh without loose pieces that are smaller than a length in metres or that nobody sees; null where none is left. */
function withoutDetail(
  mesh: Mesh,
  length: number,
  seenOnly: boolean,
): Mesh | null {
  const { visibility } = mesh;
  const keep = new Uint8Array(faceCount(mesh));
  for (const { faces, diagonal } of piecesIn("", mesh))
    if (
      diagonal >= length &&
      !(seenOnly && visibility && faces.every((f) => visibility[f] === 0))
    )
      for (const f of faces) keep[f] = 1;
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
