/** A plane n·x = d with the unit normal n: what lies at n·x ≤ d is below it. Metres. */
export type Plane = readonly [number, number, number, number];

/** Triangles over shared points, and what was cut from them. */
export interface Surface {
  /** 3 × pointCount, metres. */
  positions: Float64Array;
  /** 3 × triangleCount: points of each. */
  triangles: Uint32Array;
  /** Outlines of the faces that cuts made: of each a number and two points, 3 × edgeCount. */
  outlines: Uint32Array;
}

/** Points nearer to a plane than this share of a solid's size lie in it. */
export const NEAR = 1e-7;

/** Height of a point over a plane, metres. */
export const heightOf = (
  plane: Plane,
  p: ArrayLike<number>,
  i: number,
): number =>
  plane[0] * p[3 * i] +
  plane[1] * p[3 * i + 1] +
  plane[2] * p[3 * i + 2] -
  plane[3];

/** The plane seen from its other side. */
export const flipped = ([x, y, z, d]: Plane): Plane => [-x, -y, -z, -d];

/** Marks of points that count on a side of a plane. */
export const BELOW = 1;
const ABOVE = 2;

/**
 * On which sides of a plane points count: with what they are joined to, so that a face in the plane goes with the solid
 * that is behind it and not with both.
 * @param heights pointCount or more: height of every point, metres
 * @param marks pointCount or more: filled with BELOW and ABOVE, added where both
 */
export function markSides(
  { positions: p, triangles, outlines }: Surface,
  plane: Plane,
  near: number,
  heights: Float64Array,
  marks: Uint8Array,
): void {
  const count = p.length / 3;
  for (let v = 0; v < count; v++) {
    const h = heightOf(plane, p, v);
    heights[v] = h;
    marks[v] = h < -near ? BELOW : h > near ? ABOVE : 0;
  }
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t];
    const b = triangles[t + 1];
    const c = triangles[t + 2];
    const low = Math.min(heights[a], heights[b], heights[c]);
    const high = Math.max(heights[a], heights[b], heights[c]);
    if (low < -near && high < -near) continue;
    if (low > near) continue;
    let sides = (low < -near ? BELOW : 0) | (high > near ? ABOVE : 0);
    if (!sides) sides = facesAlong(p, a, b, c, plane) ? BELOW : ABOVE;
    if (Math.abs(heights[a]) <= near) marks[a] |= sides;
    if (Math.abs(heights[b]) <= near) marks[b] |= sides;
    if (Math.abs(heights[c]) <= near) marks[c] |= sides;
  }
  for (let e = 0; e < outlines.length; e += 3) {
    const a = outlines[e + 1];
    const b = outlines[e + 2];
    if (Math.abs(heights[a]) <= near) marks[a] |= marks[b];
    if (Math.abs(heights[b]) <= near) marks[b] |= marks[a];
  }
}

/** Whether a triangle faces the way that a plane does. */
export function facesAlong(
  p: ArrayLike<number>,
  a: number,
  b: number,
  c: number,
  plane: Plane,
): boolean {
  const ux = p[3 * b] - p[3 * a];
  const uy = p[3 * b + 1] - p[3 * a + 1];
  const uz = p[3 * b + 2] - p[3 * a + 2];
  const vx = p[3 * c] - p[3 * a];
  const vy = p[3 * c + 1] - p[3 * a + 1];
  const vz = p[3 * c + 2] - p[3 * a + 2];
  return (
    plane[0] * (uy * vz - uz * vy) +
      plane[1] * (uz * vx - ux * vz) +
      plane[2] * (ux * vy - uy * vx) >
    0
  );
}

/** Points that are gathered one by one, in room that is used again. */
class Gathered {
  private room = new Float64Array(4096);
  private used = 0;

  clear(): void {
    this.used = 0;
  }

  push(x: number, y: number, z: number): void {
    if (this.used + 3 > this.room.length) {
      const larger = new Float64Array(2 * this.room.length);
      larger.set(this.room);
      this.room = larger;
    }
    this.room[this.used++] = x;
    this.room[this.used++] = y;
    this.room[this.used++] = z;
  }

  /** 3 × n coordinates, until the next are gathered. */
  get points(): Float64Array {
    return this.room.subarray(0, this.used);
  }
}

/** Room for the heights and sides of points, used again from plane to plane. */
export class SideRoom {
  /** As many as points or more. */
  heights = new Float64Array(1024);
  marks = new Uint8Array(1024);
  readonly below = new Gathered();
  readonly above = new Gathered();

  fit(count: number): void {
    this.below.clear();
    this.above.clear();
    if (this.marks.length >= count) return;
    this.heights = new Float64Array(2 * count);
    this.marks = new Uint8Array(2 * count);
  }
}

/**
 * The points that the convex hulls of both sides of a plane are made of: those of the surface, and where its edges
 * cross the plane.
 * @param near points less far than that lie on the plane, metres
 * @returns 3 × n each: below and above, metres, until `room` is used again
 */
export function sidesOf(
  surface: Surface,
  plane: Plane,
  near: number,
  room: SideRoom,
): [Float64Array, Float64Array] {
  const { positions: p, triangles, outlines } = surface;
  const count = p.length / 3;
  room.fit(count);
  const { heights, marks, below, above } = room;
  markSides(surface, plane, near, heights, marks);
  for (let v = 0; v < count; v++) {
    if (marks[v] & BELOW) below.push(p[3 * v], p[3 * v + 1], p[3 * v + 2]);
    if (marks[v] & ABOVE) above.push(p[3 * v], p[3 * v + 1], p[3 * v + 2]);
  }
  const cross = (a: number, b: number) => {
    const from = heights[a];
    const to = heights[b];
    if (!((from < -near && to > near) || (from > near && to < -near))) return;
    const share = from / (from - to);
    const x = p[3 * a] + (p[3 * b] - p[3 * a]) * share;
    const y = p[3 * a + 1] + (p[3 * b + 1] - p[3 * a + 1]) * share;
    const z = p[3 * a + 2] + (p[3 * b + 2] - p[3 * a + 2]) * share;
    below.push(x, y, z);
    above.push(x, y, z);
  };
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t];
    const b = triangles[t + 1];
    const c = triangles[t + 2];
    cross(a, b);
    cross(b, c);
    cross(c, a);
  }
  for (let e = 0; e < outlines.length; e += 3)
    cross(outlines[e + 1], outlines[e + 2]);
  return [below.points, above.points];
}

/** Two surfaces as one; the faces that cuts made stay apart. */
export function joinSurfaces(one: Surface, other: Surface): Surface {
  const first = one.positions.length / 3;
  let face = 0;
  for (let e = 0; e < one.outlines.length; e += 3)
    face = Math.max(face, one.outlines[e] + 1);
  const positions = new Float64Array(
    one.positions.length + other.positions.length,
  );
  positions.set(one.positions);
  positions.set(other.positions, one.positions.length);
  const triangles = new Uint32Array(
    one.triangles.length + other.triangles.length,
  );
  triangles.set(one.triangles);
  triangles.set(
    other.triangles.map((v) => v + first),
    one.triangles.length,
  );
  const outlines = new Uint32Array(one.outlines.length + other.outlines.length);
  outlines.set(one.outlines);
  outlines.set(
    other.outlines.map((x, i) => x + (i % 3 ? first : face)),
    one.outlines.length,
  );
  return { positions, triangles, outlines };
}
