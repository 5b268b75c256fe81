import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import type { Sheet } from "./sheet";
import type { SheetMove } from "./sheet-islands";
import {
  gatherIslands,
  markIslands,
  moveIslands,
  packable,
} from "./sheet-islands";

/** Share of an island's corners that has to lie on what was held for it to be held too. */
const MOST = 0.6;
/** How far points lie inside their faces, as a share of the way to the middle. */
const INSIDE = 0.3;
/** How far, as a share of its size, corners may end up from where they lay, on average. */
const OFF = 0.12;

/**
 * Puts islands back to where their surface lay on the sheet before, where that had been placed by hand and where
 * they still fit there: the turn, scale and shift that bring them nearest (Umeyama 1991, in the plane).
 * @param before the mesh whose islands were held, or null
 */
export function keepHeldPlaces(
  mesh: Mesh,
  before: Mesh | null,
  sheet: Sheet,
): Mesh {
  if (!before?.held || !before.uvs) return mesh;
  const split = triangulate(before);
  const closest = new ClosestPoint(buildBvh(before.positions, split.vertices));
  const islands = gatherIslands([mesh], sheet);
  const size = [sheet.width, sheet.height];
  const moves = islands.map((island): SheetMove | null => {
    if (!(packable(island).scale > 0)) return null;
    const from: number[] = [];
    const to: number[] = [];
    for (const f of island.faces) {
      const [first, end] = [mesh.faceStarts[f], mesh.faceStarts[f + 1]];
      for (let c = first; c < end; c++) {
        // A little inside the face: on a seam the nearest place may belong to the island beside it.
        const at = [0, 0, 0, 0, 0];
        for (let k = first; k < end; k++) {
          const share = (k === c ? 1 - INSIDE : 0) + INSIDE / (end - first);
          for (let i = 0; i < 3; i++)
            at[i] += share * mesh.positions[3 * mesh.corners[k] + i];
          for (let i = 0; i < 2; i++)
            at[3 + i] += share * mesh.uvs![2 * k + i] * size[i];
        }
        const t = closest.find(at[0], at[1], at[2]);
        if (t < 0 || !before.held![split.faces[t]]) continue;
        const weights = [1 - closest.u - closest.v, closest.u, closest.v];
        for (let k = 0; k < 2; k++) {
          from.push(at[3 + k]);
          to.push(
            weights.reduce(
              (sum, w, i) =>
                sum +
                w * before.uvs![2 * split.corners[3 * t + i] + k] * size[k],
              0,
            ),
          );
        }
      }
    }
    if (from.length / 2 < MOST * island.corners.length) return null;
    const { move, off } = fitMove(from, to);
    return off < OFF * Math.sqrt(island.covered) * Math.hypot(move.a, move.c)
      ? move
      : null;
  });
  const [placed] = moveIslands([mesh], islands, moves, sheet);
  const [held] = markIslands([placed], islands, "held", (_, i) =>
    moves[i] ? 1 : 0,
  );
  return held;
}

/** The turn, scale and shift that bring points nearest to others, and how far off they end up, rms. */
export function fitMove(
  from: readonly number[],
  to: readonly number[],
): { move: SheetMove; off: number } {
  const n = from.length / 2;
  const mean = [0, 0, 0, 0];
  for (let i = 0; i < n; i++)
    for (let k = 0; k < 2; k++) {
      mean[k] += from[2 * i + k] / n;
      mean[2 + k] += to[2 * i + k] / n;
    }
  let same = 0;
  let turned = 0;
  let size = 0;
  for (let i = 0; i < n; i++) {
    const x = from[2 * i] - mean[0];
    const y = from[2 * i + 1] - mean[1];
    const u = to[2 * i] - mean[2];
    const v = to[2 * i + 1] - mean[3];
    same += x * u + y * v;
    turned += x * v - y * u;
    size += x * x + y * y;
  }
  const a = size > 0 ? same / size : 1;
  const c = size > 0 ? turned / size : 0;
  const move = {
    a,
    b: -c,
    c,
    d: a,
    e: mean[2] - a * mean[0] + c * mean[1],
    f: mean[3] - c * mean[0] - a * mean[1],
  };
  let sum = 0;
  for (let i = 0; i < n; i++) {
    const x = from[2 * i];
    const y = from[2 * i + 1];
    sum +=
      (move.a * x + move.b * y + move.e - to[2 * i]) ** 2 +
      (move.c * x + move.d * y + move.f - to[2 * i + 1]) ** 2;
  }
  return { move, off: Math.sqrt(sum / Math.max(1, n)) };
}
