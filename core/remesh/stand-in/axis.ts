import { frameOf } from "../../space/directions";
import { WORLD_AXES, principalAxes } from "../../space/principal-axes";
import type { Vector } from "../../space/vector";
import { cross, dot, unit } from "../../space/vector";
import type { Cloud } from "./cloud";

/** A line that a piece is turned about. */
export interface Axis {
  way: Vector;
  /** A point of it. */
  at: Vector;
  /** Two directions square to it, right-handed with it. */
  u: Vector;
  v: Vector;
}

/**
 * An axis through a point, with a frame across it.
 * @param way unit vector
 */
export function axisOf(way: Vector, at: Vector): Axis {
  const [u, v] = frameOf(way);
  return { way, at, u, v };
}

/** A point in an axis's own coordinates: along it, away from it, and the angle about it. */
export function aboutAxis(axis: Axis, p: ArrayLike<number>, i: number) {
  const x = [p[i] - axis.at[0], p[i + 1] - axis.at[1], p[i + 2] - axis.at[2]];
  const a = dot(x, axis.u);
  const b = dot(x, axis.v);
  return {
    h: dot(x, axis.way),
    r: Math.sqrt(a * a + b * b),
    angle: Math.atan2(b, a),
  };
}

/** Slices in which radii are compared. */
const SLICES = 24;

/**
 * The axis a piece is turned about best: the line that its normals meet (line geometry after Pottmann and
 * Randrup 1998), or a main direction of it, whichever leaves radii most alike; then moved and tilted a little as
 * long as that helps.
 */
export function fitAxis(cloud: Cloud): Axis {
  const { centre } = cloud;
  const candidates = [...principalAxes(cloud.points), ...WORLD_AXES].map(
    (way) => axisOf(unit(way), centre),
  );
  const met = metByNormals(cloud);
  if (met) candidates.unshift(met);
  let best = candidates[0];
  let least = Infinity;
  for (const axis of candidates) {
    const rest = unlikeness(cloud, axis);
    if (rest < 0.98 * least) {
      least = rest;
      best = axis;
    }
  }
  for (let step = 0.05; step > 0.0004; step /= 2)
    for (let moved = true; moved;) {
      moved = false;
      for (const axis of nearby(best, step, cloud.size)) {
        const rest = unlikeness(cloud, axis);
        if (rest < 0.999 * least) {
          least = rest;
          best = axis;
          moved = true;
        }
      }
    }
  return squared(best);
}

/** An axis that all but runs along x, y or z is taken to run along it. */
function squared(axis: Axis): Axis {
  for (const way of WORLD_AXES) {
    const along = dot(axis.way, way);
    if (Math.abs(along) > 0.99985)
      return axisOf(
        [
          way[0] * Math.sign(along),
          way[1] * Math.sign(along),
          way[2] * Math.sign(along),
        ],
        axis.at,
      );
  }
  return axis;
}

function nearby(axis: Axis, step: number, size: number): Axis[] {
  const found: Axis[] = [];
  for (const way of [axis.u, axis.v])
    for (const sign of [-1, 1]) {
      const move = (by: number, p: Vector): Vector => [
        p[0] + by * way[0],
        p[1] + by * way[1],
        p[2] + by * way[2],
      ];
      found.push(axisOf(axis.way, move(sign * step * size * 0.2, axis.at)));
      found.push(axisOf(unit(move(sign * step, axis.way)), axis.at));
    }
  return found;
}

/** How unlike the radii of one slice are, as a share of the piece's size. Ends, whose normals run along, count little. */
function unlikeness(cloud: Cloud, axis: Axis): number {
  const { points, normals, count, size } = cloud;
  const weight = new Float64Array(SLICES);
  const sum = new Float64Array(SLICES);
  const squares = new Float64Array(SLICES);
  let low = Infinity;
  let high = -Infinity;
  const heights = new Float64Array(count);
  const { way, at, u, v } = axis;
  for (let i = 0; i < count; i++) {
    const h =
      (points[3 * i] - at[0]) * way[0] +
      (points[3 * i + 1] - at[1]) * way[1] +
      (points[3 * i + 2] - at[2]) * way[2];
    heights[i] = h;
    if (h < low) low = h;
    if (h > high) high = h;
  }
  for (let i = 0; i < count; i++) {
    const k = 3 * i;
    const n =
      normals[k] * way[0] + normals[k + 1] * way[1] + normals[k + 2] * way[2];
    const w = 1 - n * n;
    const slice = Math.min(
      SLICES - 1,
      Math.floor((SLICES * (heights[i] - low)) / (high - low || 1)),
    );
    const x = points[k] - at[0];
    const y = points[k + 1] - at[1];
    const z = points[k + 2] - at[2];
    const a = x * u[0] + y * u[1] + z * u[2];
    const b = x * v[0] + y * v[1] + z * v[2];
    const r = Math.sqrt(a * a + b * b);
    weight[slice] += w;
    sum[slice] += w * r;
    squares[slice] += w * r * r;
  }
  let all = 0;
  let rest = 0;
  for (let s = 0; s < SLICES; s++) {
    if (!weight[s]) continue;
    all += weight[s];
    rest += Math.max(0, squares[s] - (sum[s] * sum[s]) / weight[s]);
  }
  // An axis along which nearly everything is an end says nothing.
  if (all < 0.05 * count) return Infinity;
  return Math.sqrt(rest / all) / size;
}

/** The line that comes nearest to meeting all normals, or null where none is better than others. */
function metByNormals(cloud: Cloud): Axis | null {
  const { points, normals, count, size, centre } = cloud;
  // Moments m = p × n and directions n: axis (a, moment b) with a·m + b·n = 0 for all, |a| = 1.
  const mm = zero();
  const mn = zero();
  const nn = zero();
  for (let i = 0; i < count; i++) {
    const p = [0, 1, 2].map((k) => (points[3 * i + k] - centre[k]) / size);
    const n = [normals[3 * i], normals[3 * i + 1], normals[3 * i + 2]];
    const m = cross(p, n);
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++) {
        mm[r][c] += m[r] * m[c];
        mn[r][c] += m[r] * n[c];
        nn[r][c] += n[r] * n[c];
      }
  }
  for (let k = 0; k < 3; k++) nn[k][k] += 1e-6 * count;
  const inverse = inverseOf(nn);
  if (!inverse) return null;
  const back = times(mn, inverse);
  const reduced = zero();
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++)
      reduced[r][c] =
        mm[r][c] - [0, 1, 2].reduce((sum, k) => sum + back[r][k] * mn[c][k], 0);
  const way = leastVector(reduced);
  const moment = [0, 1, 2].map(
    (k) => -[0, 1, 2].reduce((sum, r) => sum + back[r][k] * way[r], 0),
  );
  const at = cross(way, moment);
  return axisOf(
    way,
    [0, 1, 2].map((k) => centre[k] + size * at[k]) as unknown as Vector,
  );
}

type Matrix3 = number[][];
const zero = (): Matrix3 => [
  [0, 0, 0],
  [0, 0, 0],
  [0, 0, 0],
];

function times(a: Matrix3, b: Matrix3): Matrix3 {
  return a.map((row) =>
    [0, 1, 2].map((c) => row.reduce((sum, x, k) => sum + x * b[k][c], 0)),
  );
}

function inverseOf(m: Matrix3): Matrix3 | null {
  const rows = [cross(m[1], m[2]), cross(m[2], m[0]), cross(m[0], m[1])];
  const det = dot(m[0], rows[0]);
  if (!(Math.abs(det) > 1e-30)) return null;
  return [0, 1, 2].map((r) => rows.map((row) => row[r] / det));
}

/** The direction in which a symmetric matrix is least: its inverse applied again and again. */
function leastVector(m: Matrix3): Vector {
  const trace = m[0][0] + m[1][1] + m[2][2];
  const lifted = m.map((row, r) =>
    row.map((x, c) => x + (r === c ? 1e-9 * trace + 1e-15 : 0)),
  );
  const inverse = inverseOf(lifted);
  let x: Vector = unit([0.48, 0.62, 0.41]);
  for (let round = 0; inverse && round < 60; round++)
    x = unit(inverse.map((row) => dot(row, x)));
  return x;
}
