/** Small vectors for code outside hot loops. */
export type Vector = readonly [number, number, number];

/** Dot product of two vectors of 3. */
export const dot = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Cross product of two vectors of 3. */
export const cross = (
  a: ArrayLike<number>,
  b: ArrayLike<number>,
): [number, number, number] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** a − b, vectors of 3. */
export const subtract = (
  a: ArrayLike<number>,
  b: ArrayLike<number>,
): [number, number, number] => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];

/** A vector of length 1 the same way; zero stays zero. */
export function unit(a: ArrayLike<number>): [number, number, number] {
  const n = Math.hypot(a[0], a[1], a[2]) || 1;
  return [a[0] / n, a[1] / n, a[2] / n];
}

/** Point number i of a flat array. */
export const pointAt = (
  points: ArrayLike<number>,
  i: number,
): [number, number, number] => [
  points[3 * i],
  points[3 * i + 1],
  points[3 * i + 2],
];

/** Normal, as long as twice the area, of the triangle whose 9 coordinates begin at `i`. */
export function flatNormal(
  q: ArrayLike<number>,
  i: number,
): [number, number, number] {
  const ux = q[i + 3] - q[i];
  const uy = q[i + 4] - q[i + 1];
  const uz = q[i + 5] - q[i + 2];
  const vx = q[i + 6] - q[i];
  const vy = q[i + 7] - q[i + 1];
  const vz = q[i + 8] - q[i + 2];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}

/** The length of a vector; Math.hypot takes many times as long. */
export const lengthOf = (x: number, y: number, z: number): number =>
  Math.sqrt(x * x + y * y + z * z);
