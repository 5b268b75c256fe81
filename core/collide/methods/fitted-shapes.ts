import { WORLD_AXES, principalAxes } from "../../space/principal-axes";
import type { Axes } from "../../space/principal-axes";
import { smallestBox } from "../../space/smallest-box";
import type { ConvexMesh } from "../../mesh/hull";
import { planesOf } from "./containment";
import { convexHull } from "./convex-hull";

const along = (p: ArrayLike<number>, i: number, axis: readonly number[]) =>
  p[i] * axis[0] + p[i + 1] * axis[1] + p[i + 2] * axis[2];

/** The smallest box round points, see core/space/smallest-box.ts. */
export function fitBox(points: ArrayLike<number>): ConvexMesh {
  const { axes, extents } = smallestBox(points);
  return boxMesh(axes, extents);
}

function boxMesh(axes: Axes, extents: [number, number][]): ConvexMesh {
  const positions = new Float32Array(24);
  for (let corner = 0; corner < 8; corner++)
    for (let k = 0; k < 3; k++)
      positions[3 * corner + k] = [0, 1, 2].reduce(
        (sum, axis) =>
          sum + axes[axis][k] * extents[axis][(corner >> axis) & 1],
        0,
      );
  const quads = [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ];
  return {
    positions,
    triangles: new Uint32Array(
      quads.flatMap(([a, b, c, d]) => [a, b, c, a, c, d]),
    ),
  };
}

/** Smallest sphere round points, to a thousandth (Bădoiu and Clarkson 2003). */
export function boundingSphere(points: ArrayLike<number>): {
  centre: number[];
  radius: number;
} {
  const centre = [points[0], points[1], points[2]];
  const farthest = () => {
    let at = 0;
    let most = -1;
    for (let i = 0; i < points.length; i += 3) {
      const d =
        (points[i] - centre[0]) ** 2 +
        (points[i + 1] - centre[1]) ** 2 +
        (points[i + 2] - centre[2]) ** 2;
      if (d > most) {
        most = d;
        at = i;
      }
    }
    return { at, radius: Math.sqrt(most) };
  };
  for (let round = 1; round <= 1000; round++) {
    const { at } = farthest();
    for (let k = 0; k < 3; k++)
      centre[k] += (points[at + k] - centre[k]) / (round + 1);
  }
  return { centre, radius: farthest().radius };
}

/** The smallest sphere as a mesh that holds all points. */
export function fitSphere(points: ArrayLike<number>): ConvexMesh {
  const { centre, radius } = boundingSphere(points);
  return capsuleRound(points, centre, centre, radius);
}

/** A capsule along the principal axis that gives the least volume, with ends drawn in as far as the points allow. */
export function fitCapsule(points: ArrayLike<number>): ConvexMesh {
  let best: { a: number[]; b: number[]; radius: number } | null = null;
  let least = Infinity;
  for (const axes of [principalAxes(points), WORLD_AXES])
    for (const axis of axes) {
      const capsule = capsuleAlong(points, axis);
      const length = Math.hypot(
        ...[0, 1, 2].map((k) => capsule.b[k] - capsule.a[k]),
      );
      const volume =
        Math.PI * capsule.radius ** 2 * (length + (4 / 3) * capsule.radius);
      if (volume < least) {
        least = volume;
        best = capsule;
      }
    }
  return capsuleRound(points, best!.a, best!.b, best!.radius);
}

function capsuleAlong(points: ArrayLike<number>, axis: readonly number[]) {
  const helper = Math.abs(axis[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0];
  let u = [
    axis[1] * helper[2] - axis[2] * helper[1],
    axis[2] * helper[0] - axis[0] * helper[2],
    axis[0] * helper[1] - axis[1] * helper[0],
  ];
  const size = Math.hypot(...u);
  u = u.map((x) => x / size);
  const v = [
    axis[1] * u[2] - axis[2] * u[1],
    axis[2] * u[0] - axis[0] * u[2],
    axis[0] * u[1] - axis[1] * u[0],
  ];
  const flat = new Float64Array(points.length);
  for (let i = 0; i < points.length; i += 3) {
    flat[i] = along(points, i, u);
    flat[i + 1] = along(points, i, v);
  }
  const { centre, radius } = boundingSphere(flat);
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < points.length; i += 3) {
    const off = Math.hypot(flat[i] - centre[0], flat[i + 1] - centre[1]);
    const rise = Math.sqrt(Math.max(0, radius * radius - off * off));
    const h = along(points, i, axis);
    low = Math.min(low, h + rise);
    high = Math.max(high, h - rise);
  }
  if (low > high) low = high = (low + high) / 2;
  const at = (h: number) =>
    [0, 1, 2].map((k) => centre[0] * u[k] + centre[1] * v[k] + h * axis[k]);
  return { a: at(low), b: at(high), radius };
}

/**
 * A capsule as a mesh that holds all points: its flat faces cut into the round shape, which is made larger by as much as
 * points stand out of them. A flat face's distance from the axis grows with the radius, whatever the length.
 */
function capsuleRound(
  points: ArrayLike<number>,
  a: readonly number[],
  b: readonly number[],
  radius: number,
): ConvexMesh {
  const first = capsuleMesh(a, b, radius);
  const planes = planesOf(first);
  let larger = 1;
  for (let k = 0; k < planes.length; k += 4) {
    const [x, y, z, d] = planes.subarray(k, k + 4);
    const axis = Math.max(
      x * a[0] + y * a[1] + z * a[2],
      x * b[0] + y * b[1] + z * b[2],
    );
    for (let i = 0; i < points.length; i += 3)
      larger = Math.max(
        larger,
        (x * points[i] + y * points[i + 1] + z * points[i + 2] - axis) /
          (d - axis),
      );
  }
  return larger > 1 ? capsuleMesh(a, b, radius * larger * 1.000001) : first;
}

const AROUND = 16;
const RINGS = 5;

function capsuleMesh(
  a: readonly number[],
  b: readonly number[],
  radius: number,
): ConvexMesh {
  const length = Math.hypot(...[0, 1, 2].map((k) => b[k] - a[k]));
  const axis =
    length > 1e-12 ? [0, 1, 2].map((k) => (b[k] - a[k]) / length) : [0, 1, 0];
  const helper = Math.abs(axis[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0];
  let u = [
    axis[1] * helper[2] - axis[2] * helper[1],
    axis[2] * helper[0] - axis[0] * helper[2],
    axis[0] * helper[1] - axis[1] * helper[0],
  ];
  const size = Math.hypot(...u);
  u = u.map((x) => x / size);
  const v = [
    axis[1] * u[2] - axis[2] * u[1],
    axis[2] * u[0] - axis[0] * u[2],
    axis[0] * u[1] - axis[1] * u[0],
  ];
  const points: number[] = [];
  for (const [end, way] of [
    [a, -1],
    [b, 1],
  ] as const)
    for (let ring = 0; ring <= RINGS; ring++) {
      const lift = (Math.PI / 2) * (ring / RINGS);
      for (let i = 0; i < (ring === RINGS ? 1 : AROUND); i++) {
        const turn = (2 * Math.PI * i) / AROUND;
        for (let k = 0; k < 3; k++)
          points.push(
            end[k] +
              radius *
                (Math.cos(lift) *
                  (Math.cos(turn) * u[k] + Math.sin(turn) * v[k]) +
                  way * Math.sin(lift) * axis[k]),
          );
      }
    }
  return (
    convexHull(points) ?? {
      positions: new Float32Array(0),
      triangles: new Uint32Array(0),
    }
  );
}
