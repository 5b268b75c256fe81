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

const BELOW = 1;
const ABOVE = 2;

/**
 * On which sides of a plane points count: with what they are joined to, so that a face in the plane goes with the solid
 * that is behind it and not with both.
 * @param heights pointCount or more: height of every point, metres
 * @param marks pointCount or more: filled with BELOW and ABOVE, added where both
 */
function markSides(
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
function facesAlong(
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

/**
 * The part of a surface below a plane; triangles that cross it are cut (Sutherland and Hodgman 1974). The face that the
 * cut makes is told by its outline, and so are those of earlier cuts, so that their corners inside a solid are points
 * as well.
 * @param near points less far than that lie on the plane, metres; a face in it is kept where it faces the way the
 *   plane does
 */
export function partBelow(
  surface: Surface,
  plane: Plane,
  near: number,
): Surface {
  const part = new Part(surface, plane, near);
  part.cutTriangles();
  part.cutOutlines();
  return part.made();
}

/** What is below a plane, while it is gathered. */
class Part {
  private readonly heights: Float64Array;
  private readonly names: Int32Array;
  private readonly crossings = new Map<number, number>();
  private readonly positions: number[] = [];
  private readonly triangles: number[] = [];
  private readonly outlines: number[] = [];
  /** Number of the face that this cut makes. */
  private readonly face: number;

  constructor(
    private readonly from: Surface,
    private readonly plane: Plane,
    private readonly near: number,
  ) {
    const { positions: p, outlines } = from;
    const count = p.length / 3;
    this.heights = new Float64Array(count);
    this.names = new Int32Array(count).fill(-1);
    const marks = new Uint8Array(count);
    markSides(from, plane, near, this.heights, marks);
    for (let v = 0; v < count; v++) {
      if (!(marks[v] & BELOW)) continue;
      this.names[v] = this.positions.length / 3;
      this.positions.push(p[3 * v], p[3 * v + 1], p[3 * v + 2]);
    }
    let face = 0;
    for (let e = 0; e < outlines.length; e += 3)
      face = Math.max(face, outlines[e] + 1);
    this.face = face;
  }

  /**
   * The point where an edge crosses the plane: half as far below it as counts as in it, so that a second cut in the same
   * place finds it in the plane whatever the rounding.
   */
  private crossing(a: number, b: number): number {
    const count = this.heights.length;
    const key = Math.min(a, b) * count + Math.max(a, b);
    let name = this.crossings.get(key);
    if (name === undefined) {
      name = this.positions.length / 3;
      this.crossings.set(key, name);
      const { positions: p } = this.from;
      const [from, to] = [this.heights[a], this.heights[b]];
      const level = (from + this.near / 2) / (from - to);
      const share = Math.min(1, Math.max(0, level));
      for (let n = 0; n < 3; n++)
        this.positions.push(
          p[3 * a + n] + (p[3 * b + n] - p[3 * a + n]) * share,
        );
    }
    return name;
  }

  cutTriangles(): void {
    const { heights, names, near } = this;
    const { triangles } = this.from;
    const polygon: number[] = [];
    for (let t = 0; t < triangles.length; t += 3) {
      const a = triangles[t];
      const b = triangles[t + 1];
      const c = triangles[t + 2];
      const low = Math.min(heights[a], heights[b], heights[c]);
      const high = Math.max(heights[a], heights[b], heights[c]);
      if (low <= -near && high > -near) this.section(a, b, c);
      if (low > near) continue;
      if (low >= -near && !this.isKept(a, b, c)) continue;
      if (names[a] >= 0 && names[b] >= 0 && names[c] >= 0)
        this.triangles.push(names[a], names[b], names[c]);
      else {
        polygon.length = 0;
        for (let k = 0; k < 3; k++) {
          const v = triangles[t + k];
          const w = triangles[t + (k === 2 ? 0 : k + 1)];
          if (names[v] >= 0) polygon.push(names[v]);
          if (
            (heights[v] > near && heights[w] < -near) ||
            (heights[v] < -near && heights[w] > near)
          )
            polygon.push(this.crossing(v, w));
        }
        for (let k = 1; k + 1 < polygon.length; k++)
          this.triangles.push(polygon[0], polygon[k], polygon[k + 1]);
      }
    }
  }

  /** Whether a triangle that does not reach below the plane is kept: it lies in it and faces the way it does. */
  private isKept(a: number, b: number, c: number): boolean {
    const { heights, near, plane } = this;
    const high = Math.max(heights[a], heights[b], heights[c]);
    return high <= near && facesAlong(this.from.positions, a, b, c, plane);
  }

  /** The edge in which a triangle meets the plane just below it: a point is there or not, so that outlines stay closed. */
  private section(a: number, b: number, c: number): void {
    const { heights, near } = this;
    const [x, y, z] = [
      heights[a] > -near,
      heights[b] > -near,
      heights[c] > -near,
    ];
    this.outlines.push(this.face);
    if (x !== y) this.outlines.push(this.crossing(a, b));
    if (y !== z) this.outlines.push(this.crossing(b, c));
    if (z !== x) this.outlines.push(this.crossing(c, a));
  }

  /** Cuts the outlines of earlier cuts, and closes them along the plane: inside is between every second pair of crossings. */
  cutOutlines(): void {
    const { heights, names, near } = this;
    const { outlines } = this.from;
    const crossed = new Map<number, number[]>();
    for (let e = 0; e < outlines.length; e += 3) {
      const [face, a, b] = outlines.subarray(e, e + 3);
      const above = heights[a] > -near;
      if (above === heights[b] > -near) {
        if (!above && names[a] >= 0 && names[b] >= 0)
          this.outlines.push(face, names[a], names[b]);
        continue;
      }
      const at = this.crossing(a, b);
      if (names[above ? b : a] < 0) continue;
      this.outlines.push(face, above ? at : names[a], above ? names[b] : at);
      const list = crossed.get(face);
      if (list) list.push(at);
      else crossed.set(face, [at]);
    }
    for (const [face, list] of crossed) {
      const axis = this.longestAxis(list);
      list.sort(
        (a, b) => this.positions[3 * a + axis] - this.positions[3 * b + axis],
      );
      for (let k = 0; k + 1 < list.length; k += 2)
        for (const each of [face, this.face])
          this.outlines.push(each, list[k], list[k + 1]);
    }
  }

  private longestAxis(list: readonly number[]): number {
    const spans = [0, 1, 2].map((k) => {
      let low = Infinity;
      let high = -Infinity;
      for (const v of list) {
        low = Math.min(low, this.positions[3 * v + k]);
        high = Math.max(high, this.positions[3 * v + k]);
      }
      return high - low;
    });
    return spans.indexOf(Math.max(...spans));
  }

  made(): Surface {
    return {
      positions: Float64Array.from(this.positions),
      triangles: Uint32Array.from(this.triangles),
      outlines: Uint32Array.from(this.outlines),
    };
  }
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
