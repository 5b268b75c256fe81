import type { Axes } from "../space/principal-axes";
import { acrossAxis } from "../space/round-bounds";
import type { ConvexMesh, Hull } from "./hull";

type Vector3 = readonly [number, number, number];

/** What a physics engine takes for a hull, in the terms of KHR_implicit_shapes: lengths in metres. */
export type ColliderShape =
  | { type: "box"; size: Vector3; centre: Vector3; axes: Axes }
  | { type: "sphere"; radius: number; centre: Vector3 }
  /** Its height lies between the middles of its ends, along its axis. */
  | {
      type: "capsule";
      radius: number;
      height: number;
      centre: Vector3;
      axis: Vector3;
    }
  /** The hull as it is: a convex body, or a surface that never moves. */
  | { type: "mesh"; convex: boolean };

/** The shape that a hull stands for, holding all of it. */
export function shapeOf({ kind, positions }: Hull): ColliderShape {
  if (kind === "sphere" || kind === "capsule") {
    const { a, axis, length } = longest(positions);
    const centre = a.map(
      (x, k) => x + (length / 2) * axis[k],
    ) as unknown as Vector3;
    if (kind === "sphere")
      return {
        type: "sphere",
        radius: farthestFrom(positions, centre, null),
        centre,
      };
    const radius = farthestFrom(positions, centre, axis);
    return {
      type: "capsule",
      radius,
      height: Math.max(0, length - 2 * radius),
      centre,
      axis,
    };
  }
  const axes = kind === "box" && boxAxes(positions);
  if (!axes) return { type: "mesh", convex: kind !== "ground" };
  const extents = axes.map((axis) => {
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < positions.length; i += 3) {
      const at =
        positions[i] * axis[0] +
        positions[i + 1] * axis[1] +
        positions[i + 2] * axis[2];
      low = Math.min(low, at);
      high = Math.max(high, at);
    }
    return [low, high];
  });
  return {
    type: "box",
    size: extents.map(([low, high]) => high - low) as unknown as Vector3,
    centre: [0, 1, 2].map((k) =>
      axes.reduce(
        (sum, axis, a) => sum + (axis[k] * (extents[a][0] + extents[a][1])) / 2,
        0,
      ),
    ) as unknown as Vector3,
    axes,
  };
}

/** The way between the two points farthest apart: of a round shape its poles. @param p 3 numbers each */
function longest(p: Float32Array) {
  let from = 0;
  let to = 0;
  let most = -1;
  for (let i = 0; i < p.length; i += 3)
    for (let j = 0; j < i; j += 3) {
      const length =
        (p[i] - p[j]) ** 2 +
        (p[i + 1] - p[j + 1]) ** 2 +
        (p[i + 2] - p[j + 2]) ** 2;
      if (length > most) {
        most = length;
        from = j;
        to = i;
      }
    }
  const length = Math.sqrt(Math.max(0, most));
  const axis = (length > 0
    ? [0, 1, 2].map((k) => (p[to + k] - p[from + k]) / length)
    : [0, 1, 0]) as unknown as Vector3;
  return { a: Array.from(p.subarray(from, from + 3)), axis, length };
}

/** How far the farthest point is from a place, or from an axis through it. @param p 3 numbers each */
function farthestFrom(
  p: Float32Array,
  centre: Vector3,
  axis: Vector3 | null,
): number {
  let most = 0;
  for (let i = 0; i < p.length; i += 3) {
    const x = p[i] - centre[0];
    const y = p[i + 1] - centre[1];
    const z = p[i + 2] - centre[2];
    const along = axis ? x * axis[0] + y * axis[1] + z * axis[2] : 0;
    most = Math.max(most, x * x + y * y + z * z - along * along);
  }
  return Math.sqrt(most);
}

/** How far corners of a box may be off a right angle: what 32 bits make of it far from the origin. */
const SQUARE = 1e-3;

/** The directions of the edges of a box, right-handed; null where eight points are none. @param p 3 numbers each */
function boxAxes(p: Float32Array): Axes | null {
  if (p.length !== 24) return null;
  const edge = (i: number) => [p[i] - p[0], p[i + 1] - p[1], p[i + 2] - p[2]];
  let best: number[][] | null = null;
  let least = SQUARE;
  for (let i = 3; i < 24; i += 3)
    for (let j = i + 3; j < 24; j += 3)
      for (let k = j + 3; k < 24; k += 3) {
        const units = [edge(i), edge(j), edge(k)].map((v) => {
          const length = Math.hypot(...v);
          return v.map((x) => x / (length || 1));
        });
        const across = (a: number, b: number) =>
          Math.abs(units[a].reduce((sum, x, n) => sum + x * units[b][n], 0));
        const off = Math.max(across(0, 1), across(0, 2), across(1, 2));
        if (off < least) {
          least = off;
          best = units;
        }
      }
  if (!best) return null;
  const [u, v] = best;
  const w = [
    u[1] * v[2] - u[2] * v[1],
    u[2] * v[0] - u[0] * v[2],
    u[0] * v[1] - u[1] * v[0],
  ];
  return [u, v, w] as unknown as Axes;
}

/** A shape as a mesh. Round ones are drawn inside themselves, so that points of the mesh lie on them. */
export function meshOfShape(
  shape: Exclude<ColliderShape, { type: "mesh" }>,
): ConvexMesh {
  const { centre } = shape;
  if (shape.type === "sphere") return capsuleMesh(centre, centre, shape.radius);
  if (shape.type === "capsule") {
    const end = (way: number) =>
      centre.map((x, k) => x + (way * shape.axis[k] * shape.height) / 2);
    return capsuleMesh(end(-1), end(1), shape.radius);
  }
  return boxMesh(
    shape.axes,
    shape.axes.map((axis, a): [number, number] => {
      const middle = axis.reduce((sum, x, k) => sum + x * centre[k], 0);
      return [middle - shape.size[a] / 2, middle + shape.size[a] / 2];
    }),
  );
}

/** The sides of a box, two for each axis, by its corners: the kth bit of a corner says at which end of axis k it lies. */
export const BOX_QUADS: readonly (readonly number[])[] = [
  [0, 4, 6, 2],
  [1, 3, 7, 5],
  [0, 1, 5, 4],
  [2, 6, 7, 3],
  [0, 2, 3, 1],
  [4, 5, 7, 6],
];

/** A box as a mesh. @param extents from where to where along each axis, metres */
export function boxMesh(axes: Axes, extents: [number, number][]): ConvexMesh {
  const positions = new Float32Array(24);
  for (let corner = 0; corner < 8; corner++)
    for (let k = 0; k < 3; k++)
      positions[3 * corner + k] = [0, 1, 2].reduce(
        (sum, axis) =>
          sum + axes[axis][k] * extents[axis][(corner >> axis) & 1],
        0,
      );
  return {
    positions,
    triangles: new Uint32Array(
      BOX_QUADS.flatMap(([a, b, c, d]) => [a, b, c, a, c, d]),
    ),
  };
}

const AROUND = 16;
const RINGS = 5;

/** A capsule as a mesh whose points lie on it; a sphere where both ends are one. @param radius metres */
export function capsuleMesh(
  a: readonly number[],
  b: readonly number[],
  radius: number,
): ConvexMesh {
  const length = Math.hypot(...[0, 1, 2].map((k) => b[k] - a[k]));
  const axis =
    length > 1e-12 ? [0, 1, 2].map((k) => (b[k] - a[k]) / length) : [0, 1, 0];
  const [u, v] = acrossAxis(axis);
  const points: number[] = [];
  const ring = (end: readonly number[], lift: number, around: number) => {
    for (let i = 0; i < around; i++) {
      const turn = (2 * Math.PI * i) / AROUND;
      for (let k = 0; k < 3; k++)
        points.push(
          end[k] +
            radius *
              (Math.cos(lift) *
                (Math.cos(turn) * u[k] + Math.sin(turn) * v[k]) +
                Math.sin(lift) * axis[k]),
        );
    }
  };
  const lifted = (r: number) => (Math.PI / 2) * (r / RINGS);
  ring(a, -lifted(RINGS), 1);
  for (let r = RINGS - 1; r >= 0; r--) ring(a, -lifted(r), AROUND);
  // A sphere has one widest ring, not two.
  for (let r = length > 1e-12 ? 0 : 1; r < RINGS; r++)
    ring(b, lifted(r), AROUND);
  ring(b, lifted(RINGS), 1);
  const last = points.length / 3 - 1;
  const rings = (last - 1) / AROUND;
  const triangles: number[] = [];
  for (let i = 0; i < AROUND; i++) {
    const next = (i + 1) % AROUND;
    triangles.push(0, 1 + next, 1 + i);
    for (let r = 0; r + 1 < rings; r++) {
      const low = 1 + r * AROUND;
      const high = low + AROUND;
      triangles.push(low + i, low + next, high + next);
      triangles.push(low + i, high + next, high + i);
    }
    const top = last - AROUND;
    triangles.push(last, top + i, top + next);
  }
  return {
    positions: Float32Array.from(points),
    triangles: Uint32Array.from(triangles),
  };
}
