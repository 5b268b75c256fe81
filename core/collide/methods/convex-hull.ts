import type { ConvexMesh } from "../../mesh/hull";
import { cross } from "../../mesh/triangle-shape";
import { boundsOf } from "../../space/bounds";
import { seededRandom } from "../../base/random";
import { HullFaces, firstTetrahedron } from "./hull-faces";

/** No vertex lies farther outside one of the hull's faces than this share of its size. */
const BULGE = 1e-4;
/** Where it does, points are moved by so much of the size before the hull is built again, four times as much each time. */
const JOGGLE = 2e-6;
const TRIES = 4;
/** Faces with less area than this share of the squared size don't say which way they face. */
const SLIVER = 1e-4;

/**
 * Convex hull of points (Quickhull, Barber et al. 1996), always taking the point that stands out farthest; so
 * it can stop at a number of vertices with the largest gap closed first. Where points in one plane or line made it
 * less than convex, it is built again of points moved by next to nothing ("joggled input", section 6 there).
 * @param points 3 × n
 * @param limit most vertices, at least 4
 * @returns null where the points lie in a plane, a line or a point
 */
export function convexHull(
  points: ArrayLike<number>,
  limit = Infinity,
): ConvexMesh | null {
  return joggled(points, limit, (hull, size) => bulgeOf(hull, size));
}

/**
 * Convex hull of points with a look only at whether all of them came into it: for trying many.
 * @param points 3 × n
 * @param limit most vertices, at least 4
 */
export const roughHull = (points: ArrayLike<number>, limit: number) =>
  joggled(points, limit, () => 0);

/**
 * The hull of the points or, where that came out badly, the best of hulls of points moved by next to nothing.
 * @param fault how far a hull of that size is from convex, metres
 */
function joggled(
  points: ArrayLike<number>,
  limit: number,
  fault: (hull: ConvexMesh, size: number) => number,
): ConvexMesh | null {
  let best = quickhull(points, points, limit);
  if (!best) return null;
  const { min, max } = boundsOf(best.positions);
  const size = Math.hypot(...max.map((high, k) => high - min[k]));
  let least = Math.max(best.lost, fault(best, size));
  for (let turn = 0; turn < TRIES && least > BULGE * size; turn++) {
    const random = seededRandom(turn + 1);
    const by = JOGGLE * 4 ** turn * size;
    const moved = Float64Array.from(points, (x) => x + by * (2 * random() - 1));
    const next = quickhull(moved, points, limit);
    if (!next) continue;
    const worst = Math.max(next.lost, fault(next, size));
    if (worst >= least) continue;
    best = next;
    least = worst;
  }
  return best;
}

/** Vertices times faces that are looked at; of more only some vertices are. */
const LOOKED_AT = 4e6;

/**
 * How far a vertex lies outside a face at the most, metres.
 * @param size of the hull: faces that are slivers against it don't count
 */
export function bulgeOf(
  { positions, triangles }: ConvexMesh,
  size: number,
): number {
  let most = 0;
  const pairs = (positions.length / 3) * (triangles.length / 3);
  const stride = 3 * Math.max(1, Math.ceil(pairs / LOOKED_AT));
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = triangles.subarray(t, t + 3);
    const n = cross(positions, a, b, c);
    const length = Math.hypot(...n);
    if (length < SLIVER * size * size) continue;
    const d =
      n[0] * positions[3 * a] +
      n[1] * positions[3 * a + 1] +
      n[2] * positions[3 * a + 2];
    for (let v = 0; v < positions.length; v += stride)
      most = Math.max(
        most,
        (n[0] * positions[v] +
          n[1] * positions[v + 1] +
          n[2] * positions[v + 2] -
          d) /
          length,
      );
  }
  return most;
}

/**
 * @param places where the vertices of the result lie; `given` decide which they are
 * @returns the hull, and how far out of it points lie at most that could not be taken in, metres
 */
function quickhull(
  given: ArrayLike<number>,
  places: ArrayLike<number>,
  limit: number,
): (ConvexMesh & { lost: number }) | null {
  // Of one kind of array only: what reads several kinds is several times slower.
  const points =
    given instanceof Float64Array ? given : Float64Array.from(given);
  const start = firstTetrahedron(points);
  if (!start) return null;
  const { corners, tolerance } = start;
  const faces = new HullFaces(points, tolerance, limit);
  const [p, q, r, s] = corners;
  for (const [a, b, c, other] of [
    [p, q, r, s],
    [p, q, s, r],
    [p, r, s, q],
    [q, r, s, p],
  ]) {
    const f = faces.add(a, b, c);
    if (faces.heightOver(f, other) > 0) faces.set(f, a, c, b);
  }
  faces.start();
  for (let i = 0; i < points.length / 3; i++) faces.assign(i, faces.alive);
  let vertices = 4;
  while (vertices < limit) {
    const next = faces.farthest();
    if (next < 0) break;
    if (faces.addPoint(next)) vertices++;
  }
  return { ...faces.toMesh(places), lost: faces.lost };
}

/** Volume inside a closed triangle mesh, m³ (divergence theorem, about its first vertex for precision). */
export function volumeOf(
  p: ArrayLike<number>,
  triangles: ArrayLike<number>,
): number {
  if (!triangles.length) return 0;
  const o = 3 * triangles[0];
  let sum = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [
      3 * triangles[t],
      3 * triangles[t + 1],
      3 * triangles[t + 2],
    ];
    const ax = p[a] - p[o];
    const ay = p[a + 1] - p[o + 1];
    const az = p[a + 2] - p[o + 2];
    const bx = p[b] - p[o];
    const by = p[b + 1] - p[o + 1];
    const bz = p[b + 2] - p[o + 2];
    const cx = p[c] - p[o];
    const cy = p[c + 1] - p[o + 1];
    const cz = p[c + 2] - p[o + 2];
    sum +=
      ax * (by * cz - bz * cy) -
      ay * (bx * cz - bz * cx) +
      az * (bx * cy - by * cx);
  }
  return sum / 6;
}
