import { WORLD_AXES, principalAxes } from "../../space/principal-axes";
import { convexOutline } from "../../space/convex-outline";
import { frameOf } from "../../space/directions";
import type { ConvexMesh } from "../../mesh/hull";

type Place = readonly [number, number];

/**
 * The smallest prism round points, of those along the axes of the world and the points' own: the outline of all points,
 * seen along the axis, with no more than some sides, between the lowest and the highest.
 * @param points 3 × n, metres, not in one plane
 * @param sides of the outline at the most, 3 or more
 */
export function fitPrism(points: ArrayLike<number>, sides: number): ConvexMesh {
  let best: ConvexMesh | null = null;
  let least = Infinity;
  for (const [x, y, z] of [...principalAxes(points), ...WORLD_AXES]) {
    const made = prismAlong(points, [x, y, z], sides);
    // The next axis must be better by more than rounding.
    if (made.volume >= least * 0.9999) continue;
    least = made.volume;
    best = made.mesh;
  }
  return best!;
}

function prismAlong(
  points: ArrayLike<number>,
  axis: readonly [number, number, number],
  sides: number,
): { mesh: ConvexMesh; volume: number } {
  const [u, v] = frameOf(axis);
  const flat = new Float64Array((2 * points.length) / 3);
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, z] = [points[i], points[i + 1], points[i + 2]];
    flat[(2 * i) / 3] = x * u[0] + y * u[1] + z * u[2];
    flat[(2 * i) / 3 + 1] = x * v[0] + y * v[1] + z * v[2];
    const h = x * axis[0] + y * axis[1] + z * axis[2];
    low = Math.min(low, h);
    high = Math.max(high, h);
  }
  const flatOutline = convexOutline(flat);
  const around = Array.from(
    { length: flatOutline.length / 2 },
    (_, i): Place => [flatOutline[2 * i], flatOutline[2 * i + 1]],
  );
  const outline = withSides(around, sides);
  const n = outline.length;
  const positions = new Float32Array(6 * n);
  [low, high].forEach((h, end) =>
    outline.forEach(([a, b], i) => {
      for (let k = 0; k < 3; k++)
        positions[3 * (end * n + i) + k] = a * u[k] + b * v[k] + h * axis[k];
    }),
  );
  const triangles: number[] = [];
  for (let i = 0; i < n; i++) {
    const next = (i + 1) % n;
    triangles.push(i, next, n + next, i, n + next, n + i);
    if (i > 0 && next > 0) {
      triangles.push(0, next, i);
      triangles.push(n, n + i, n + next);
    }
  }
  // The frame may be left-handed about the axis.
  const turn =
    axis[0] * (u[1] * v[2] - u[2] * v[1]) +
    axis[1] * (u[2] * v[0] - u[0] * v[2]) +
    axis[2] * (u[0] * v[1] - u[1] * v[0]);
  if (turn < 0)
    for (let t = 0; t < triangles.length; t += 3)
      [triangles[t + 1], triangles[t + 2]] = [
        triangles[t + 2],
        triangles[t + 1],
      ];
  return {
    mesh: { positions, triangles: Uint32Array.from(triangles) },
    volume: Math.abs(areaOf(outline)) * (high - low),
  };
}

/** Positive where one turns left at b on the way from a to c. */
const turn = (a: Place, b: Place, c: Place): number =>
  (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

const areaOf = (outline: readonly Place[]): number =>
  outline.reduce((sum, [x, y], i) => {
    const [nextX, nextY] = outline[(i + 1) % outline.length];
    return sum + (x * nextY - nextX * y) / 2;
  }, 0);

/** An outline round another with no more than some sides: the side goes whose neighbours meet with least area added. */
function withSides(outline: Place[], sides: number): Place[] {
  const left = [...outline];
  while (left.length > Math.max(3, sides)) {
    let best: { at: number; meet: Place } | null = null;
    let least = Infinity;
    for (let i = 0; i < left.length; i++) {
      const [a, b, c, d] = [0, 1, 2, 3].map((k) => left[(i + k) % left.length]);
      const meet = crossing(a, b, d, c);
      if (!meet) continue;
      const added = turn(b, meet, c) / 2;
      if (added < 0 || added >= least) continue;
      least = added;
      best = { at: i, meet };
    }
    if (!best) break;
    const first = (best.at + 1) % left.length;
    left[first] = best.meet;
    left.splice((first + 1) % left.length, 1);
  }
  return left;
}

/** Where the line on from a to b meets the one on from d to c; null where they part. */
function crossing(a: Place, b: Place, d: Place, c: Place): Place | null {
  const [ux, uy] = [b[0] - a[0], b[1] - a[1]];
  const [vx, vy] = [c[0] - d[0], c[1] - d[1]];
  const cross = ux * vy - uy * vx;
  if (!(cross < -1e-12 * Math.hypot(ux, uy) * Math.hypot(vx, vy))) return null;
  const t = ((d[0] - a[0]) * vy - (d[1] - a[1]) * vx) / cross;
  return t >= 1 ? [a[0] + ux * t, a[1] + uy * t] : null;
}
