import type { Bvh } from "../space/bvh";
import { buildBvh, leafCount, leafStart, NODE, NODE_LINKS } from "../space/bvh";

/** Faces of one piece that pass through each other, and pieces that do. */
export interface CrossingFaces {
  /** Rising. */
  faces: number[];
  /** Pairs of pieces that pass through each other, which is how most props are built and no defect. */
  crossingPieces: number;
  /** Vertices by how many piercing edges end in them, those with most first. */
  piercing: number[];
  /** Every two of these faces that pass through each other. */
  pairs: [number, number][];
}

/**
 * Faces of one piece that pass through each other. Touching does not count, nor do neighbours that share an edge.
 * @param triangles 3 × triangleCount vertices
 * @param faceOf the face of every triangle
 * @param pieceOf the piece of every face
 * @param target for every vertex the one it counts as
 * @param check called now and then, to stop
 * @param asked by face: 1 for those that are looked at, against all others; all where left out
 */
export function crossingFaces(
  positions: Float32Array,
  triangles: Uint32Array,
  faceOf: ArrayLike<number>,
  pieceOf: ArrayLike<number>,
  target: ArrayLike<number>,
  check: () => void = () => {},
  asked: ArrayLike<number> | null = null,
): CrossingFaces {
  const test = new CrossingTest(positions, triangles, target);
  const search = new CrossingSearch(test, faceOf, pieceOf, check);
  if (!asked) search.among(buildBvh(positions, triangles), null);
  else {
    // The hierarchy holds only what is asked about; all else is tested against that.
    const wanted = Uint32Array.from(wantedOf(faceOf, asked));
    const bvh = buildBvh(positions, cornersOf(triangles, wanted));
    search.among(bvh, wanted);
    for (let t = 0; t < faceOf.length; t++)
      if (!asked[faceOf[t]]) search.against(bvh, wanted, t);
  }
  return search.found();
}

/** Looks for crossing triangles by a hierarchy: walks it against itself, or against single triangles. */
class CrossingSearch {
  private readonly own = new Set<number>();
  private readonly pairs: [number, number][] = [];
  private readonly pieces = new Set<number>();
  private readonly pieceCount: number;
  /** Boxes whose contents are still to be compared, two and two. */
  private readonly stack: number[] = [];
  private met = 0;

  constructor(
    private readonly test: CrossingTest,
    private readonly faceOf: ArrayLike<number>,
    private readonly pieceOf: ArrayLike<number>,
    private readonly check: () => void,
  ) {
    let count = 0;
    for (let f = 0; f < pieceOf.length; f++)
      count = Math.max(count, pieceOf[f] + 1);
    this.pieceCount = count;
  }

  /** Compares all triangles of a hierarchy with each other; `names` gives their numbers, where those are not its own. */
  among(bvh: Bvh, names: Uint32Array | null): void {
    const { nodes, links, ids } = bvh;
    const { stack } = this;
    const nameOf = (i: number) => (names ? names[ids[i]] : ids[i]);
    /** The child of the box at `slot`: boxes lie at 0 and 6 of their node. */
    const childOf = (slot: number) => {
      const side = slot % NODE === 0 ? 0 : 1;
      return links[slot - 6 * side + NODE_LINKS + side];
    };
    const apart = (a: number, b: number) =>
      nodes[a] > nodes[b + 3] ||
      nodes[a + 1] > nodes[b + 4] ||
      nodes[a + 2] > nodes[b + 5] ||
      nodes[a + 3] < nodes[b] ||
      nodes[a + 4] < nodes[b + 1] ||
      nodes[a + 5] < nodes[b + 2];
    stack.push(0, 0, 6, 6, 0, 6);
    while (stack.length) {
      const b = stack.pop()!;
      const a = stack.pop()!;
      if (a !== b && apart(a, b)) continue;
      const left = childOf(a);
      const right = a === b ? left : childOf(b);
      if (left >= 0 && a === b)
        stack.push(left, left, left + 6, left + 6, left, left + 6);
      else if (left >= 0 && (right < 0 || sizeOf(nodes, a) > sizeOf(nodes, b)))
        stack.push(left, b, left + 6, b);
      else if (right >= 0) stack.push(a, right, a, right + 6);
      else {
        const end = leafStart(left) + leafCount(left);
        const last = leafStart(right) + leafCount(right);
        for (let i = leafStart(left); i < end; i++)
          for (let j = a === b ? i + 1 : leafStart(right); j < last; j++) {
            const t = nameOf(i);
            const u = nameOf(j);
            this.meet(Math.min(t, u), Math.max(t, u));
          }
      }
    }
  }

  /** Compares a triangle with those of a hierarchy. */
  against({ nodes, links, ids }: Bvh, names: Uint32Array, t: number): void {
    const { stack, test } = this;
    const { boxes } = test;
    const own = 6 * t;
    stack.push(0);
    while (stack.length) {
      const node = stack.pop()!;
      for (let side = 0; side < 2; side++) {
        const box = node + 6 * side;
        if (
          nodes[box] > boxes[own + 3] ||
          nodes[box + 1] > boxes[own + 4] ||
          nodes[box + 2] > boxes[own + 5] ||
          nodes[box + 3] < boxes[own] ||
          nodes[box + 4] < boxes[own + 1] ||
          nodes[box + 5] < boxes[own + 2]
        )
          continue;
        const child = links[node + NODE_LINKS + side];
        if (child >= 0) {
          stack.push(child);
          continue;
        }
        const end = leafStart(child) + leafCount(child);
        for (let i = leafStart(child); i < end; i++)
          this.meet(t, names[ids[i]]);
      }
    }
  }

  private meet(t: number, u: number): void {
    const { faceOf, pieceOf, test, pieces } = this;
    if ((++this.met & 0xfffff) === 0) this.check();
    if (faceOf[u] === faceOf[t] || test.apart(t, u)) return;
    const a = pieceOf[faceOf[t]];
    const b = pieceOf[faceOf[u]];
    if (a === b) {
      if (!test.crosses(t, u)) return;
      test.noteEnds();
      this.own.add(faceOf[t]).add(faceOf[u]);
      this.pairs.push([faceOf[t], faceOf[u]]);
      return;
    }
    const key = Math.min(a, b) * this.pieceCount + Math.max(a, b);
    if (!pieces.has(key) && test.crosses(t, u)) pieces.add(key);
  }

  found(): CrossingFaces {
    return {
      faces: [...this.own].sort((a, b) => a - b),
      crossingPieces: this.pieces.size,
      piercing: [...this.test.ends]
        .sort((a, b) => b[1] - a[1] || a[0] - b[0])
        .map(([v]) => v),
      pairs: this.pairs.sort((a, b) => a[0] - b[0] || a[1] - b[1]),
    };
  }
}

/** Half the girth of a box. */
const sizeOf = (nodes: Float32Array, box: number) =>
  nodes[box + 3] -
  nodes[box] +
  (nodes[box + 4] - nodes[box + 1]) +
  (nodes[box + 5] - nodes[box + 2]);

/** Triangles of the faces that are asked about. */
function* wantedOf(
  faceOf: ArrayLike<number>,
  asked: ArrayLike<number>,
): Generator<number> {
  for (let t = 0; t < faceOf.length; t++) if (asked[faceOf[t]]) yield t;
}

function cornersOf(triangles: Uint32Array, some: Uint32Array): Uint32Array {
  const corners = new Uint32Array(3 * some.length);
  for (let i = 0; i < corners.length; i++)
    corners[i] = triangles[3 * some[(i / 3) | 0] + (i % 3)];
  return corners;
}

/** Whether two triangles pass through each other: an edge of one pierces the other, not just at its rim. */
class CrossingTest {
  /** 6 × triangleCount: least x y z, then greatest. */
  readonly boxes: Float32Array;
  /** How many piercing edges end in each vertex. */
  readonly ends = new Map<number, number>();
  private first = 0;
  private second = 0;
  private readonly slack: number;
  /** Distances of the corners of each triangle from the other's plane. */
  private readonly off = new Float64Array(6);

  constructor(
    private readonly p: Float32Array,
    private readonly vertices: Uint32Array,
    private readonly target: ArrayLike<number>,
  ) {
    let size = 0;
    for (let i = 0; i < p.length; i++) size = Math.max(size, Math.abs(p[i]));
    this.slack = 2e-7 * size;
    this.boxes = triangleBoxes(p, vertices);
  }

  /** Whether the boxes of two triangles do not meet. */
  apart(t: number, u: number): boolean {
    const { boxes } = this;
    const a = 6 * t;
    const b = 6 * u;
    return (
      boxes[a] > boxes[b + 3] ||
      boxes[a + 1] > boxes[b + 4] ||
      boxes[a + 2] > boxes[b + 5] ||
      boxes[a + 3] < boxes[b] ||
      boxes[a + 4] < boxes[b + 1] ||
      boxes[a + 5] < boxes[b + 2]
    );
  }

  /** Counts the ends of the edge that pierced last. */
  noteEnds(): void {
    const { ends, first, second } = this;
    ends.set(first, (ends.get(first) ?? 0) + 1);
    ends.set(second, (ends.get(second) ?? 0) + 1);
  }

  crosses(t: number, u: number): boolean {
    const { vertices: v, target } = this;
    let shared = 0;
    let mine = -1;
    let its = -1;
    for (let i = 0; i < 3; i++)
      for (let j = 0; j < 3; j++)
        if (target[v[3 * t + i]] === target[v[3 * u + j]]) {
          shared++;
          mine = i;
          its = j;
        }
    if (shared > 1) return false;
    // Only where a plane has corners of the other triangle on both sides can an edge of that pierce it.
    const through = this.parts(t, u, 0);
    const back = this.parts(u, t, 3);
    if (!through && !back) return false;
    if (shared === 1)
      return (
        (through && this.pierces(t, (mine + 1) % 3, u, 0)) ||
        (back && this.pierces(u, (its + 1) % 3, t, 3))
      );
    for (let k = 0; k < 3; k++)
      if (
        (through && this.pierces(t, k, u, 0)) ||
        (back && this.pierces(u, k, t, 3))
      )
        return true;
    return false;
  }

  /** Whether the plane of t parts the corners of s; notes how far these are off it. */
  private parts(s: number, t: number, into: number): boolean {
    const { p, vertices: v, off } = this;
    const a = 3 * v[3 * t];
    const b = 3 * v[3 * t + 1];
    const c = 3 * v[3 * t + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const wx = p[c] - p[a];
    const wy = p[c + 1] - p[a + 1];
    const wz = p[c + 2] - p[a + 2];
    const nx = uy * wz - uz * wy;
    const ny = uz * wx - ux * wz;
    const nz = ux * wy - uy * wx;
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz);
    if (length === 0) return false;
    let above = 0;
    for (let k = 0; k < 3; k++) {
      const e = 3 * v[3 * s + k];
      const d =
        ((p[e] - p[a]) * nx +
          (p[e + 1] - p[a + 1]) * ny +
          (p[e + 2] - p[a + 2]) * nz) /
        length;
      off[into + k] = d;
      if (d > 0) above++;
    }
    return above > 0 && above < 3;
  }

  /** Whether edge k of triangle s pierces triangle t inside its rim, by what `parts` noted. */
  private pierces(s: number, k: number, t: number, noted: number): boolean {
    const { p, vertices: v, slack, off } = this;
    const d0 = off[noted + k];
    const d1 = off[noted + ((k + 1) % 3)];
    if (d0 > 0 === d1 > 0) return false;
    const a = 3 * v[3 * t];
    const b = 3 * v[3 * t + 1];
    const c = 3 * v[3 * t + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const wx = p[c] - p[a];
    const wy = p[c + 1] - p[a + 1];
    const wz = p[c + 2] - p[a + 2];
    const nx = uy * wz - uz * wy;
    const ny = uz * wx - ux * wz;
    const nz = ux * wy - uy * wx;
    const length = Math.sqrt(nx * nx + ny * ny + nz * nz);
    const rim = Math.sqrt(length) * 1e-5 + slack;
    if (Math.abs(d0) < rim || Math.abs(d1) < rim) return false;
    const e = 3 * v[3 * s + k];
    const f = 3 * v[3 * s + ((k + 1) % 3)];
    const ex = p[e] - p[a];
    const ey = p[e + 1] - p[a + 1];
    const ez = p[e + 2] - p[a + 2];
    const at = d0 / (d0 - d1);
    const qx = ex + at * (p[f] - p[a] - ex);
    const qy = ey + at * (p[f + 1] - p[a + 1] - ey);
    const qz = ez + at * (p[f + 2] - p[a + 2] - ez);
    // Barycentric weights as areas over the whole.
    const n2 = length * length;
    const w1 =
      ((qy * wz - qz * wy) * nx +
        (qz * wx - qx * wz) * ny +
        (qx * wy - qy * wx) * nz) /
      n2;
    const w2 =
      ((uy * qz - uz * qy) * nx +
        (uz * qx - ux * qz) * ny +
        (ux * qy - uy * qx) * nz) /
      n2;
    this.first = e / 3;
    this.second = f / 3;
    return w1 > 1e-4 && w2 > 1e-4 && w1 + w2 < 1 - 1e-4;
  }
}

function triangleBoxes(p: Float32Array, vertices: Uint32Array): Float32Array {
  const boxes = new Float32Array(2 * vertices.length);
  for (let t = 0; 3 * t < vertices.length; t++)
    for (let k = 0; k < 3; k++) {
      const a = p[3 * vertices[3 * t] + k];
      const b = p[3 * vertices[3 * t + 1] + k];
      const c = p[3 * vertices[3 * t + 2] + k];
      boxes[6 * t + k] = Math.min(a, b, c);
      boxes[6 * t + 3 + k] = Math.max(a, b, c);
    }
  return boxes;
}
