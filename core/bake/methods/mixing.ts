import { lengthOf } from "../../space/vector";

/** Whether the point of a triangle with weights u and v of its second and third corner lies on an open side or corner. */
export function onBorder(open: number, u: number, v: number): boolean {
  const near = 1e-5;
  return (
    ((open & 1) !== 0 && v < near) ||
    ((open & 2) !== 0 && u + v > 1 - near) ||
    ((open & 4) !== 0 && u < near) ||
    ((open & 8) !== 0 && u + v < near) ||
    ((open & 16) !== 0 && u > 1 - near) ||
    ((open & 32) !== 0 && v > 1 - near)
  );
}

/**
 * Weighted sum of the three corners' values.
 * @param values `stride` numbers per corner, whatever their unit
 * @param into as many numbers as a corner has
 */
export function mix(
  values: Float32Array,
  at: number,
  stride: number,
  a: number,
  b: number,
  c: number,
  into: Float64Array,
): void {
  into[0] =
    a * values[at] + b * values[at + stride] + c * values[at + 2 * stride];
  into[1] =
    a * values[at + 1] +
    b * values[at + stride + 1] +
    c * values[at + 2 * stride + 1];
  into[2] =
    a * values[at + 2] +
    b * values[at + stride + 2] +
    c * values[at + 2 * stride + 2];
}

/** Makes a vector of 3 a unit vector; one without length stays as it is. 3 numbers per vector. */
export function normalize(v: Float64Array): void {
  const length = lengthOf(v[0], v[1], v[2]);
  if (!(length > 0)) return;
  v[0] /= length;
  v[1] /= length;
  v[2] /= length;
}

/**
 * Copies rows of numbers by their place.
 * @param from `width` numbers each, weights or places in metres; @param index which row comes next, as many as `into` has rows
 */
export function gather(
  into: Float32Array,
  from: Float32Array,
  index: Uint32Array,
  width: number,
): void {
  for (let i = 0; i < index.length; i++)
    for (let k = 0; k < width; k++)
      into[width * i + k] = from[width * index[i] + k];
}
