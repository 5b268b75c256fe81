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

/** Buckets up to this size are searched one by one; larger ones, of vertices with very many faces, are sorted. */
const SEARCHED = 256;

/**
 * Finds the edges of a mesh: corners are sorted by the smaller vertex of their edge, and matched by the larger one
 * within those few. Edges are numbered by first use. Against one hash table over all pairs, which leaps through
 * memory, a million triangles take a third of the time.
 */
export function buildEdges(mesh: Pick<Mesh, "corners" | "faceStarts">): Edges {
  const { corners } = mesh;
  const total = corners.length;
  const ends = endsOf(mesh);
  const rep = firstUses(ends);
  const ofCorner = new Uint32Array(total);
  let count = 0;
  for (let c = 0; c < total; c++)
    ofCorner[c] = rep[c] === c ? count++ : ofCorner[rep[c]];
  const vertices = new Uint32Array(2 * count);
  const uses = new Uint32Array(count);
  const first = new Int32Array(count);
  const second = new Int32Array(count).fill(-1);
  for (let c = 0; c < total; c++) {
    const e = ofCorner[c];
    if (uses[e] === 0) {
      vertices[2 * e] = ends[2 * c];
      vertices[2 * e + 1] = ends[2 * c + 1];
      first[e] = c;
    } else if (uses[e] === 1) second[e] = c;
    uses[e]++;
  }
  return { count, ofCorner, vertices, uses, first, second };
}

/** 2 × cornerCount: the smaller and the larger vertex of the edge from each corner. */
function endsOf({
  corners,
  faceStarts,
}: Pick<Mesh, "corners" | "faceStarts">): Uint32Array {
  const ends = new Uint32Array(2 * corners.length);
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    const start = faceStarts[f];
    const end = faceStarts[f + 1];
    for (let c = start; c < end; c++) {
      const a = corners[c];
      const b = corners[c + 1 < end ? c + 1 : start];
      ends[2 * c] = a < b ? a : b;
      ends[2 * c + 1] = a < b ? b : a;
    }
  }
  return ends;
}

/** For each corner the first one with the same edge. */
function firstUses(ends: Uint32Array): Uint32Array {
  const total = ends.length / 2;
  let most = 0;
  for (let i = 0; i < ends.length; i += 2) if (ends[i] > most) most = ends[i];
  const starts = new Uint32Array(most + 2);
  for (let i = 0; i < ends.length; i += 2) starts[ends[i] + 1]++;
  for (let v = 0; v <= most; v++) starts[v + 1] += starts[v];
  const order = new Uint32Array(total);
  const high = new Uint32Array(total);
  const at = starts.slice(0, -1);
  for (let c = 0; c < total; c++) {
    const slot = at[ends[2 * c]]++;
    order[slot] = c;
    high[slot] = ends[2 * c + 1];
  }
  const rep = new Uint32Array(total);
  for (let v = 0; v <= most; v++) {
    const begin = starts[v];
    const end = starts[v + 1];
    if (end - begin > SEARCHED) matchSorted(order, high, begin, end, rep);
    else
      for (let i = begin; i < end; i++) {
        let j = begin;
        while (high[j] !== high[i]) j++;
        rep[order[i]] = order[j];
      }
  }
  return rep;
}

function matchSorted(
  order: Uint32Array,
  high: Uint32Array,
  begin: number,
  end: number,
  rep: Uint32Array,
): void {
  const slots = new Uint32Array(end - begin).map((_, i) => begin + i);
  slots.sort((i, j) => high[i] - high[j] || i - j);
  let first = slots[0];
  for (const slot of slots) {
    if (high[slot] !== high[first]) first = slot;
    rep[order[slot]] = order[first];
  }
}

/** Mean length of the sides of all faces, metres. */
export function meanEdge({
  positions: p,
  corners,
  faceStarts,
}: Pick<Mesh, "positions" | "corners" | "faceStarts">): number {
  let sum = 0;
  for (let f = 0; f + 1 < faceStarts.length; f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      const a = 3 * corners[c];
      const b = 3 * corners[c + 1 < faceStarts[f + 1] ? c + 1 : faceStarts[f]];
      const x = p[a] - p[b];
      const y = p[a + 1] - p[b + 1];
      const z = p[a + 2] - p[b + 2];
      sum += Math.sqrt(x * x + y * y + z * z);
    }
  return sum / (corners.length || 1);
}
