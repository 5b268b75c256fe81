import type { Hull } from "./hull";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";
import { reverseFaces } from "./change-faces";

/** 16 numbers, column by column: x' = m₀x + m₄y + m₈z + m₁₂. */
export type Matrix = readonly number[];

export const IDENTITY: Matrix = [
  1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1,
];

/** The matrix (4 × 4, by columns) that moves by x, y and z, metres. */
export const translation = (x: number, y: number, z: number): Matrix => [
  ...IDENTITY.slice(0, 12),
  x,
  y,
  z,
  1,
];

/** a · b: first b, then a. */
export function multiply(a: Matrix, b: Matrix): Matrix {
  const m = new Array<number>(16).fill(0);
  for (let column = 0; column < 4; column++)
    for (let row = 0; row < 4; row++)
      for (let k = 0; k < 4; k++)
        m[4 * column + row] += a[4 * k + row] * b[4 * column + k];
  return m;
}

/** A turn about an axis (unit length) by an angle in radians (Rodrigues). */
export function rotation(axis: readonly number[], angle: number): Matrix {
  const [x, y, z] = axis;
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const t = 1 - c;
  return [
    t * x * x + c,
    t * x * y + s * z,
    t * x * z - s * y,
    0,
    t * x * y - s * z,
    t * y * y + c,
    t * y * z + s * x,
    0,
    t * x * z + s * y,
    t * y * z - s * x,
    t * z * z + c,
    0,
    0,
    0,
    0,
    1,
  ];
}

/** Determinant of the upper 3 × 3: below 0 mirrors. */
export function determinant(m: Matrix): number {
  return (
    m[0] * (m[5] * m[10] - m[6] * m[9]) -
    m[4] * (m[1] * m[10] - m[2] * m[9]) +
    m[8] * (m[1] * m[6] - m[2] * m[5])
  );
}

/** The matrix that carries normals, up to length: cofactors of the upper 3 × 3, column by column. */
export function cofactorOf(m: ArrayLike<number>): number[] {
  const [a, b, c, d, e, f, g, h, i] = [0, 1, 2, 4, 5, 6, 8, 9, 10].map(
    (k) => m[k],
  );
  return [
    e * i - f * h,
    f * g - d * i,
    d * h - e * g,
    c * h - b * i,
    a * i - c * g,
    b * g - a * h,
    b * f - c * e,
    c * d - a * f,
    a * e - b * d,
  ];
}

/** Points (3 × n, metres) under a matrix. */
export function transformPoints(points: Float32Array, m: Matrix): Float32Array {
  const moved = new Float32Array(points.length);
  for (let i = 0; i < points.length; i += 3) {
    const x = points[i];
    const y = points[i + 1];
    const z = points[i + 2];
    for (let k = 0; k < 3; k++)
      moved[i + k] = m[k] * x + m[4 + k] * y + m[8 + k] * z + m[12 + k];
  }
  return moved;
}

/** Unit normals (3 × n) under a matrix; a mirroring one turns them about with the faces. */
function transformNormals(normals: Float32Array, m: Matrix): Float32Array {
  const c = cofactorOf(m);
  const way = determinant(m) < 0 ? -1 : 1;
  const turned = new Float32Array(normals.length);
  for (let i = 0; i < normals.length; i += 3) {
    const [x, y, z] = [normals[i], normals[i + 1], normals[i + 2]];
    const n = [0, 1, 2].map((k) => c[k] * x + c[3 + k] * y + c[6 + k] * z);
    const length = way * (Math.hypot(...n) || 1);
    for (let k = 0; k < 3; k++) turned[i + k] = n[k] / length;
  }
  return turned;
}

/** A mesh under a matrix. Where it mirrors, faces are turned over so that they still face outwards. */
export function transformMesh(mesh: Mesh, m: Matrix): Mesh {
  const moved = {
    ...mesh,
    positions: transformPoints(mesh.positions, m),
    normals: mesh.normals && transformNormals(mesh.normals, m),
    cage:
      mesh.cage && transformPoints(mesh.cage, [...m.slice(0, 12), 0, 0, 0, 1]),
  };
  return determinant(m) < 0
    ? reverseFaces(moved, new Uint8Array(faceCount(mesh)).fill(1))
    : moved;
}

/** A hull moved and turned by a matrix, its measures with it. */
export function transformHull(hull: Hull, m: Matrix, name: string): Hull {
  const triangles = hull.triangles.slice();
  if (determinant(m) < 0)
    for (let i = 0; i < triangles.length; i += 3)
      [triangles[i + 1], triangles[i + 2]] = [
        triangles[i + 2],
        triangles[i + 1],
      ];
  return {
    ...hull,
    name,
    positions: transformPoints(hull.positions, m),
    triangles,
  };
}
