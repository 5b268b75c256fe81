import { BucketQueue } from "../base/bucket-queue";
import { cross } from "./triangle-shape";

/** Rings up to this length are triangulated with least area, longer ones by clipping their shortest cuts. */
const LONGEST_EXACT = 90;

/** Sum of the cross products of a ring's fan: its direction, and twice the area that it closes off. */
export function ringNormalOf(points: ArrayLike<number>): number[] {
  const sum = [0, 0, 0];
  for (let i = 1; i + 1 < points.length / 3; i++) {
    const n = cross(points, 0, i, i + 1);
    for (let k = 0; k < 3; k++) sum[k] += n[k];
  }
  return sum;
}

/** Whether a ring lies in one plane and turns the same way all round, so that one face can fill it. */
export function isFlatRing(points: ArrayLike<number>): boolean {
  const n = points.length / 3;
  const normal = ringNormalOf(points);
  const length = Math.hypot(...normal);
  if (!length) return false;
  let around = 0;
  for (let i = 0; i < n; i++) around += distance(points, i, (i + 1) % n);
  for (let i = 0; i < n; i++) {
    let off = 0;
    for (let k = 0; k < 3; k++)
      off += (points[3 * i + k] - points[k]) * normal[k];
    if (Math.abs(off) / length > 1e-4 * around) return false;
    const turn = cross(points, i, (i + 1) % n, (i + 2) % n);
    if (
      turn[0] * normal[0] + turn[1] * normal[1] + turn[2] * normal[2] <
      -1e-9 * length * length
    )
      return false;
  }
  return true;
}

/**
 * Triangles that close a ring without new vertices: those of least area (Barequet and Sharir 1995, "Filling gaps in
 * the boundary of a polyhedron", section 4), or on long rings by the shortest cut again and again.
 * @param joined whether no cut may run between two vertices of the ring
 * @returns three ring vertices for each, or null where every way needs a cut that may not be
 */
export function leastAreaCuts(
  points: ArrayLike<number>,
  joined: (i: number, j: number) => boolean,
): number[] | null {
  return points.length / 3 <= LONGEST_EXACT
    ? leastArea(points, joined)
    : shortestCuts(points, joined);
}

const distance = (p: ArrayLike<number>, a: number, b: number) =>
  Math.hypot(
    p[3 * a] - p[3 * b],
    p[3 * a + 1] - p[3 * b + 1],
    p[3 * a + 2] - p[3 * b + 2],
  );

/** Dynamic programming over all spans of the ring. */
function leastArea(
  p: ArrayLike<number>,
  joined: (i: number, j: number) => boolean,
): number[] | null {
  const n = p.length / 3;
  const cost = new Float64Array(n * n);
  const cut = new Int32Array(n * n).fill(-1);
  for (let span = 2; span < n; span++)
    for (let i = 0; i + span < n; i++) {
      const j = i + span;
      let best = Infinity;
      if (span === n - 1 || !joined(i, j))
        for (let k = i + 1; k < j; k++) {
          const area =
            cost[i * n + k] +
            cost[k * n + j] +
            Math.hypot(...cross(p, i, k, j));
          if (area < best) {
            best = area;
            cut[i * n + j] = k;
          }
        }
      cost[i * n + j] = best;
    }
  if (cost[n - 1] === Infinity) return null;
  const found: number[] = [];
  const waiting: [number, number][] = [[0, n - 1]];
  while (waiting.length) {
    const [i, j] = waiting.pop()!;
    const k = cut[i * n + j];
    if (k < 0) continue;
    found.push(i, k, j);
    waiting.push([i, k], [k, j]);
  }
  return found;
}

/** Takes the corner with the shortest cut off again and again: even triangles on long rings. */
function shortestCuts(
  p: ArrayLike<number>,
  joined: (i: number, j: number) => boolean,
): number[] | null {
  const n = p.length / 3;
  const next = Int32Array.from({ length: n }, (_, i) => (i + 1) % n);
  const before = Int32Array.from({ length: n }, (_, i) => (i + n - 1) % n);
  const stamps = new Int32Array(n);
  const queue = new BucketQueue(3 * n);
  const offer = (i: number) => {
    stamps[i]++;
    if (!joined(before[i], next[i]))
      queue.push(distance(p, before[i], next[i]), i, -1, stamps[i]);
  };
  for (let i = 0; i < n; i++) offer(i);
  const found: number[] = [];
  let last = 0;
  for (let left = n; left > 3;) {
    if (!queue.pop()) return null;
    const i = queue.a;
    if (queue.stamp !== stamps[i]) continue;
    const a = before[i];
    const b = next[i];
    found.push(a, i, b);
    next[a] = b;
    before[b] = a;
    stamps[i] = -1;
    offer(a);
    offer(b);
    last = a;
    left--;
  }
  found.push(before[last], last, next[last]);
  return found;
}
