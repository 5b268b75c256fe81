import type { ConvexMesh } from "./convex-hull";
import { convexHull } from "./convex-hull";

type Axes = [number[], number[], number[]];

const along = (p: ArrayLike<number>, i: number, axis: readonly number[]) =>
  p[i] * axis[0] + p[i + 1] * axis[1] + p[i + 2] * axis[2];

/** The smallest of: the box along the axes, along the principal axes, and those turned about each of them. */
export function fitBox(points: ArrayLike<number>): ConvexMesh {
  const hull = convexHull(points, 64)?.positions ?? points;
  const candidates: Axes[] = [];
  for (const base of [IDENTITY, principalAxes(points)])
    for (let fixed = 0; fixed < 3; fixed++)
      for (let k = 0; k < 30; k++)
        candidates.push(turnAbout(base, fixed, (Math.PI / 2) * (k / 30)));
  let best = candidates[0];
  let least = Infinity;
  for (const axes of candidates) {
    const volume = extentsAlong(hull, axes).reduce(
      (product, [low, high]) => product * (high - low),
      1,
    );
    if (volume < least * 0.9999) {
      least = volume;
      best = axes;
    }
  }
  return boxMesh(best, extentsAlong(points, best));
}

const IDENTITY: Axes = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

function turnAbout(axes: Axes, fixed: number, angle: number): Axes {
  const [u, v] = [(fixed + 1) % 3, (fixed + 2) % 3];
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const turned = axes.map((axis) => axis.slice()) as Axes;
  for (let k = 0; k < 3; k++) {
    turned[u][k] = cos * axes[u][k] + sin * axes[v][k];
    turned[v][k] = -sin * axes[u][k] + cos * axes[v][k];
  }
  return turned;
}

function extentsAlong(
  points: ArrayLike<number>,
  axes: Axes,
): [number, number][] {
  return axes.map((axis) => {
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < points.length; i += 3) {
      const x = along(points, i, axis);
      if (x < low) low = x;
      if (x > high) high = x;
    }
    return [low, high];
  });
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

/** Principal axes of points, longest first (Jacobi rotations on the covariance). */
export function principalAxes(points: ArrayLike<number>): Axes {
  const n = points.length / 3;
  const mean = [0, 0, 0];
  for (let i = 0; i < points.length; i++) mean[i % 3] += points[i] / n;
  const m = [
    [0, 0, 0],
    [0, 0, 0],
    [0, 0, 0],
  ];
  for (let i = 0; i < points.length; i += 3)
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++)
        m[r][c] += (points[i + r] - mean[r]) * (points[i + c] - mean[c]);
  const v = IDENTITY.map((axis) => axis.slice());
  for (let sweep = 0; sweep < 24; sweep++)
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ]) {
      if (Math.abs(m[p][q]) < 1e-30) continue;
      const theta = (m[q][q] - m[p][p]) / (2 * m[p][q]);
      const t =
        Math.sign(theta || 1) /
        (Math.abs(theta) + Math.sqrt(theta * theta + 1));
      const c = 1 / Math.sqrt(t * t + 1);
      const s = t * c;
      for (let k = 0; k < 3; k++)
        [m[k][p], m[k][q]] = [
          c * m[k][p] - s * m[k][q],
          s * m[k][p] + c * m[k][q],
        ];
      for (let k = 0; k < 3; k++)
        [m[p][k], m[q][k]] = [
          c * m[p][k] - s * m[q][k],
          s * m[p][k] + c * m[q][k],
        ];
      for (let k = 0; k < 3; k++)
        [v[p][k], v[q][k]] = [
          c * v[p][k] - s * v[q][k],
          s * v[p][k] + c * v[q][k],
        ];
    }
  const order = [0, 1, 2].sort((a, b) => m[b][b] - m[a][a]);
  const [x, y] = order.map((k) => v[k]);
  // The third axis closes a right-handed frame.
  return [
    x,
    y,
    [
      x[1] * y[2] - x[2] * y[1],
      x[2] * y[0] - x[0] * y[2],
      x[0] * y[1] - x[1] * y[0],
    ],
  ];
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

/** The smallest sphere as a mesh whose vertices lie on it. */
export function fitSphere(points: ArrayLike<number>): ConvexMesh {
  const { centre, radius } = boundingSphere(points);
  return capsuleMesh(centre, centre, radius);
}

/** A capsule along the principal axis that gives the least volume, with ends drawn in as far as the points allow. */
export function fitCapsule(points: ArrayLike<number>): ConvexMesh {
  let best: { a: number[]; b: number[]; radius: number } | null = null;
  let least = Infinity;
  for (const axes of [principalAxes(points), IDENTITY])
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
  return capsuleMesh(best!.a, best!.b, best!.radius);
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
