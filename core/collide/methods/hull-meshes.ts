import type { Asset, Part } from "../../asset/asset";
import { faceComponents } from "../../mesh/components";
import { keepFaces } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { settledOf } from "../../settle/settled-of";

/** Which meshes hulls are made from: the game mesh where there is one, the source, or a level of detail by its number. */
export type HullsFrom = "game" | "source" | "1" | "2" | "3";

/**
 * The mesh of each part that hulls stand for: its game mesh or, where no part has one, its settled source; or what is
 * asked for.
 */
export function meshForHulls(
  asset: Asset,
  from: HullsFrom,
  check: () => void,
): (part: Part) => Mesh | null {
  const settled = ({ source }: Part) => source && settledOf(source, check).mesh;
  if (from === "source") return settled;
  if (from !== "game") return ({ levels }) => levels[Number(from) - 1] ?? null;
  const bare = asset.parts.every((each) => !each.game);
  return (part) => part.game ?? (bare ? settled(part) : null);
}

/** A mesh without its loose pieces that are smaller than a length, metres. */
export function withoutTiny(mesh: Mesh, length: number): Mesh | null {
  if (!length) return mesh;
  const { count, ofFace } = faceComponents(mesh);
  const boxes = Array.from({ length: count }, () => ({
    min: [Infinity, Infinity, Infinity],
    max: [-Infinity, -Infinity, -Infinity],
  }));
  ofFace.forEach((piece, f) => {
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      for (let k = 0; k < 3; k++) {
        const x = mesh.positions[3 * mesh.corners[c] + k];
        boxes[piece].min[k] = Math.min(boxes[piece].min[k], x);
        boxes[piece].max[k] = Math.max(boxes[piece].max[k], x);
      }
  });
  const large = boxes.map(
    ({ min, max }) => Math.hypot(...max.map((x, k) => x - min[k])) >= length,
  );
  if (large.every((is) => is)) return mesh;
  if (!large.includes(true)) return null;
  const keep = Uint8Array.from(ofFace, (piece) => Number(large[piece]));
  return keepFaces(mesh, keep);
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
