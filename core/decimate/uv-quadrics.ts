import { inner, uvTriangleArea, unit } from "./wedges";

/** Numbers of a quadric over place and UV: 15 of the symmetric matrix, 5 of the vector, the constant. */
const SIZE = 21;
const DIMENSIONS = 5;
/** Error quadrics of wedges over place and UV together (Garland and Heckbert 1998). */
export class UvQuadrics {
  private readonly q: Float64Array;

  /** @param wedges how many there are */
  constructor(wedges: number) {
    this.q = new Float64Array(SIZE * wedges);
  }

  /** Adds the squared distance to the plane of a face in five dimensions, by area. @param x its corners */
  addFace(wedges: ArrayLike<number>, x: readonly number[][]): void {
    const e1 = unit(x[1].map((value, k) => value - x[0][k]));
    const side = x[2].map((value, k) => value - x[0][k]);
    const along = inner(side, e1);
    const e2 = unit(side.map((value, k) => value - along * e1[k]));
    const area = uvTriangleArea(x);
    for (let k = 0; k < 3; k++) this.addFlat(wedges[k], x[0], e1, e2, area / 3);
  }

  /** A = I − e1e1ᵀ − e2e2ᵀ about a point. */
  private addFlat(
    wedge: number,
    at: readonly number[],
    e1: readonly number[],
    e2: readonly number[],
    weight: number,
  ): void {
    const d1 = inner(at, e1);
    const d2 = inner(at, e2);
    let n = SIZE * wedge;
    for (let i = 0; i < DIMENSIONS; i++)
      for (let j = i; j < DIMENSIONS; j++)
        this.q[n++] +=
          weight * ((i === j ? 1 : 0) - e1[i] * e1[j] - e2[i] * e2[j]);
    for (let i = 0; i < DIMENSIONS; i++)
      this.q[n++] += weight * (d1 * e1[i] + d2 * e2[i] - at[i]);
    this.q[n] += weight * (inner(at, at) - d1 * d1 - d2 * d2);
  }

  /** Adds the squared distance to a plane in space, by weight. */
  addPlane(
    wedge: number,
    normal: readonly number[],
    at: readonly number[],
    weight: number,
  ): void {
    const d = -(normal[0] * at[0] + normal[1] * at[1] + normal[2] * at[2]);
    let n = SIZE * wedge;
    for (let i = 0; i < DIMENSIONS; i++)
      for (let j = i; j < DIMENSIONS; j++)
        this.q[n++] += i < 3 && j < 3 ? weight * normal[i] * normal[j] : 0;
    for (let i = 0; i < DIMENSIONS; i++)
      this.q[n++] += i < 3 ? weight * d * normal[i] : 0;
    this.q[n] += weight * d * d;
  }

  /** What it costs that a wedge is at a point of five dimensions. */
  valueAt(wedge: number, x: readonly number[]): number {
    let n = SIZE * wedge;
    let sum = 0;
    for (let i = 0; i < DIMENSIONS; i++)
      for (let j = i; j < DIMENSIONS; j++)
        sum += (i === j ? 1 : 2) * this.q[n++] * x[i] * x[j];
    for (let i = 0; i < DIMENSIONS; i++) sum += 2 * this.q[n++] * x[i];
    return sum + this.q[n];
  }

  /** Adds the quadric of one wedge to another's. */
  merge(to: number, from: number): void {
    const { q } = this;
    for (let k = 0; k < SIZE; k++) q[SIZE * to + k] += q[SIZE * from + k];
  }
}
