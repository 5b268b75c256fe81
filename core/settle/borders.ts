import type { Bvh } from "../space/bvh";
import { buildBvh, leafCount, leafStart, NODE_LINKS } from "../space/bvh";
import { UnionFind } from "../base/union-find";
import type { Edges } from "../mesh/edges";

/** The triangles whose borders are looked at. */
interface BorderedSurface {
  /** 3 × vertexCount, metres. */
  readonly positions: Float32Array;
  /** 3 × triangleCount */
  readonly vertices: Uint32Array;
  /** Between two vertices, metres. */
  distance(a: number, b: number): number;
}

/** The open borders of what is settled, and where they are. */
export class Borders {
  /** The corner that each border edge leaves. */
  readonly corners: Uint32Array;
  /** 2 × count: from where to where each border edge runs. */
  readonly ends: Uint32Array;
  /** Vertices on borders, rising, and the mean length of the border edges at each, metres. */
  readonly vertices: Uint32Array;
  readonly mean: Float64Array;
  /** Length of the longest border edge, metres. */
  readonly longest: number;
  /** Border edges by their vertices: those of vertices[i] are atVertex[starts[i] … starts[i + 1]]. */
  private readonly starts: Uint32Array;
  private readonly atVertex: Uint32Array;
  /** vertexCount: place in `vertices`, or −1. */
  private readonly placeOf: Int32Array;
  private readonly pieces: UnionFind;
  private bvh: Bvh | null = null;
  private readonly stack: number[] = [];

  constructor(
    private readonly work: BorderedSurface,
    { uses, first }: Edges,
  ) {
    this.corners = Uint32Array.from(first.filter((_, e) => uses[e] === 1));
    const count = this.corners.length;
    this.ends = new Uint32Array(2 * count);
    this.placeOf = new Int32Array(count ? work.positions.length / 3 : 0);
    this.placeOf.fill(-1);
    this.corners.forEach((c, e) => {
      this.ends[2 * e] = work.vertices[c];
      this.ends[2 * e + 1] = work.vertices[c % 3 === 2 ? c - 2 : c + 1];
    });
    for (const v of this.ends) this.placeOf[v] = 0;
    let places = 0;
    for (let v = 0; v < this.placeOf.length; v++)
      if (this.placeOf[v] === 0) this.placeOf[v] = places++;
    this.vertices = new Uint32Array(places);
    for (let v = 0; v < this.placeOf.length; v++)
      if (this.placeOf[v] >= 0) this.vertices[this.placeOf[v]] = v;
    this.mean = new Float64Array(places);
    this.starts = new Uint32Array(places + 1);
    for (const v of this.ends) this.starts[this.placeOf[v] + 1]++;
    for (let i = 0; i < places; i++) this.starts[i + 1] += this.starts[i];
    this.atVertex = new Uint32Array(this.ends.length);
    this.pieces = new UnionFind(places);
    const at = this.starts.slice(0, -1);
    let longest = 0;
    for (let e = 0; e < count; e++) {
      const a = this.ends[2 * e];
      const b = this.ends[2 * e + 1];
      const length = work.distance(a, b);
      if (length > longest) longest = length;
      const i = this.placeOf[a];
      const j = this.placeOf[b];
      this.mean[i] += length;
      this.mean[j] += length;
      this.atVertex[at[i]++] = e;
      this.atVertex[at[j]++] = e;
      this.pieces.join(i, j);
    }
    this.longest = longest;
    for (let i = 0; i < places; i++)
      this.mean[i] /= this.starts[i + 1] - this.starts[i];
  }

  /** Border edges at a vertex. */
  edgesAt(v: number): Uint32Array {
    const i = this.placeOf[v];
    return this.atVertex.subarray(this.starts[i], this.starts[i + 1]);
  }

  /** Mean length of the border edges at a vertex, metres. */
  meanAt(v: number): number {
    return this.mean[this.placeOf[v]];
  }

  /** Whether two vertices lie on one border. */
  together(a: number, b: number): boolean {
    const { pieces, placeOf } = this;
    return pieces.find(placeOf[a]) === pieces.find(placeOf[b]);
  }

  /** Finds the border edges whose boxes a ball about a vertex touches. */
  near(v: number, radius: number, found: number[]): void {
    found.length = 0;
    if (!this.bvh) {
      const flat = new Uint32Array(3 * this.corners.length);
      for (let e = 0; e < this.corners.length; e++) {
        flat[3 * e] = this.ends[2 * e];
        flat[3 * e + 1] = flat[3 * e + 2] = this.ends[2 * e + 1];
      }
      this.bvh = buildBvh(this.work.positions, flat);
    }
    const { nodes, links, ids } = this.bvh;
    const p = this.work.positions;
    const x = p[3 * v];
    const y = p[3 * v + 1];
    const z = p[3 * v + 2];
    const { stack } = this;
    stack[0] = 0;
    let top = 1;
    while (top) {
      const at = stack[--top];
      for (let box = at; box < at + NODE_LINKS; box += 6) {
        const dx = Math.max(nodes[box] - x, x - nodes[box + 3], 0);
        const dy = Math.max(nodes[box + 1] - y, y - nodes[box + 4], 0);
        const dz = Math.max(nodes[box + 2] - z, z - nodes[box + 5], 0);
        if (!(dx * dx + dy * dy + dz * dz <= radius * radius)) continue;
        const child = links[at + NODE_LINKS + (box > at ? 1 : 0)];
        if (child >= 0) stack[top++] = child;
        else
          for (let i = 0; i < leafCount(child); i++)
            found.push(ids[leafStart(child) + i]);
      }
    }
  }
}
