import type { Edges } from "../../mesh/edges";

/** The half-edge after, and before, one of its triangle. */
export const after = (h: number) => (h % 3 === 2 ? h - 2 : h + 1);

/** The half-edge before one in its triangle. */
export const before = (h: number) => (h % 3 === 0 ? h + 2 : h - 1);

/** The triangle that a half-edge belongs to. */
export const triangleOf = (h: number) => (h / 3) | 0;

/** Triangles by their half-edges, three each, which can be cut along loops and closed again. */
export class HalfEdges {
  /** The vertex that each half-edge leaves. */
  origin: Uint32Array;
  /** The half-edge on the other side, −1 at borders and where more than two triangles meet. */
  opposite: Int32Array;
  /** x, y and z of each vertex, metres. */
  points: Float64Array;
  triangles: number;
  vertices: number;
  /** A half-edge that leaves each vertex, −1 for none. */
  private leaving: Int32Array;

  constructor(positions: Float64Array, corners: Uint32Array, edges: Edges) {
    this.points = positions.slice();
    this.origin = corners.slice();
    this.triangles = corners.length / 3;
    this.vertices = positions.length / 3;
    this.opposite = new Int32Array(corners.length).fill(-1);
    this.leaving = new Int32Array(this.vertices).fill(-1);
    for (let h = corners.length - 1; h >= 0; h--) this.leaving[corners[h]] = h;
    for (let e = 0; e < edges.count; e++) {
      const [h, g] = [edges.first[e], edges.second[e]];
      if (edges.uses[e] === 2 && corners[h] !== corners[g]) this.pair(h, g);
    }
  }

  target = (h: number): number => this.origin[after(h)];

  length(h: number): number {
    const { points } = this;
    const [a, b] = [3 * this.origin[h], 3 * this.target(h)];
    const x = points[a] - points[b];
    const y = points[a + 1] - points[b + 1];
    const z = points[a + 2] - points[b + 2];
    return Math.sqrt(x * x + y * y + z * z);
  }

  /** The half-edges that leave a vertex, with a triangle on either side each, as far as they hang together. */
  around(v: number): number[] {
    const found: number[] = [];
    const start = this.leaving[v];
    for (let h = start; h >= 0;) {
      if (this.opposite[h] >= 0) found.push(h);
      h = this.opposite[before(h)];
      if (h === start) return found;
    }
    // Met a border: on from the start the other way round.
    for (let h = start; h >= 0 && this.opposite[h] >= 0;) {
      h = after(this.opposite[h]);
      if (this.opposite[h] >= 0) found.push(h);
    }
    return found;
  }

  /** The half-edges that leave a vertex between two of its own, on the left of both; null where a border lies there. */
  fan(out: number, into: number): number[] | null {
    const found: number[] = [];
    for (let h = out; h >= 0; h = this.opposite[before(h)]) {
      found.push(h);
      if (before(h) === into) return found;
    }
    return null;
  }

  /** A new vertex where an old one is. */
  copyOf(v: number): number {
    return this.addVertex(this.points.slice(3 * v, 3 * v + 3));
  }

  addVertex(at: ArrayLike<number>): number {
    const v = this.vertices++;
    this.points = withRoom(this.points, 3 * v + 3);
    this.leaving = withRoom(this.leaving, v + 1);
    this.points.set(at, 3 * v);
    this.leaving[v] = -1;
    return v;
  }

  /** Lets half-edges leave another vertex. */
  lead(halfEdges: readonly number[], v: number): void {
    for (const h of halfEdges) this.origin[h] = v;
    this.leaving[v] = halfEdges[0];
  }

  addTriangle(a: number, b: number, c: number): number {
    const h = 3 * this.triangles++;
    this.origin = withRoom(this.origin, h + 3);
    this.opposite = withRoom(this.opposite, h + 3);
    [a, b, c].forEach((v, k) => {
      this.origin[h + k] = v;
      this.opposite[h + k] = -1;
      if (this.leaving[v] < 0) this.leaving[v] = h + k;
    });
    return h;
  }

  pair(h: number, g: number): void {
    this.opposite[h] = g;
    this.opposite[g] = h;
  }
}

/** An array of at least so many numbers, with those it had. */
function withRoom<T extends Float64Array | Int32Array | Uint32Array>(
  values: T,
  count: number,
): T {
  if (count <= values.length) return values;
  const more = new (values.constructor as new (n: number) => T)(
    Math.ceil(1.2 * count) + 64,
  );
  more.set(values);
  return more;
}
