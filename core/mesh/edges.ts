import type { Mesh } from "./mesh";

/** The undirected edges of a mesh; a corner stands for the edge from it to the next corner of its face. */
export interface Edges {
  readonly count: number;
  /** cornerCount: the edge that leaves each corner. */
  readonly ofCorner: Uint32Array;
  /** 2 × count: the vertices of each edge, smaller index first. */
  readonly vertices: Uint32Array;
  /** count: how many faces use each edge. 1 is an open border, 3 and more is non-manifold. */
  readonly uses: Uint32Array;
  /** count: the first and, where there is one, the second corner that uses the edge (−1 for none). */
  readonly first: Int32Array;
  readonly second: Int32Array;
}

/** Finds the edges of a mesh by open addressing on the vertex pair; edges are numbered by first use. */
export function buildEdges(mesh: Pick<Mesh, "corners" | "faceStarts">): Edges {
  const { corners, faceStarts } = mesh;
  const size = 1 << Math.max(4, Math.ceil(Math.log2(corners.length * 1.5 + 1)));
  const mask = size - 1;
  const table = new Int32Array(size).fill(-1);
  const ofCorner = new Uint32Array(corners.length);
  const vertices = new Uint32Array(corners.length * 2);
  const uses = new Uint32Array(corners.length);
  const first = new Int32Array(corners.length).fill(-1);
  const second = new Int32Array(corners.length).fill(-1);
  let count = 0;
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    const start = faceStarts[f];
    const end = faceStarts[f + 1];
    for (let c = start; c < end; c++) {
      const a = corners[c];
      const b = corners[c + 1 < end ? c + 1 : start];
      const low = a < b ? a : b;
      const high = a < b ? b : a;
      let slot = hashPair(low, high) & mask;
      let edge = table[slot];
      while (
        edge >= 0 &&
        (vertices[2 * edge] !== low || vertices[2 * edge + 1] !== high)
      ) {
        slot = (slot + 1) & mask;
        edge = table[slot];
      }
      if (edge < 0) {
        edge = count++;
        table[slot] = edge;
        vertices[2 * edge] = low;
        vertices[2 * edge + 1] = high;
        first[edge] = c;
      } else if (second[edge] < 0) second[edge] = c;
      uses[edge]++;
      ofCorner[c] = edge;
    }
  }
  return {
    count,
    ofCorner,
    vertices: vertices.slice(0, 2 * count),
    uses: uses.slice(0, count),
    first: first.slice(0, count),
    second: second.slice(0, count),
  };
}

/** A well mixed 32-bit hash of two indices. */
export function hashPair(a: number, b: number): number {
  let h = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b);
  h ^= h >>> 15;
  h = Math.imul(h, 0x2c1b3c6d);
  return (h ^ (h >>> 13)) >>> 0;
}
