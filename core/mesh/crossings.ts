import { buildBvh, leafCount, leafStart, NODE_LINKS } from "../space/bvh";

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
  // The hierarchy holds only what is asked about; everything is tested against that.
  const wanted = asked && Uint32Array.from(wantedOf(faceOf, asked));
  const bvh = buildBvh(
    positions,
    wanted ? cornersOf(triangles, wanted) : triangles,
  );
  const own = new Set<number>();
  const pairs: [number, number][] = [];
  const pieces = new Set<number>();
  let pieceCount = 0;
  for (let f = 0; f < pieceOf.length; f++)
    pieceCount = Math.max(pieceCount, pieceOf[f] + 1);
  const test = new CrossingTest(positions, triangles, target);
  const { nodes, links, ids } = bvh;
  const stack = new Int32Array(256);
  const total = faceOf.length;
  for (let t = 0; t < total; t++) {
    if ((t & 16383) === 0) check();
    test.setFirst(t);
    const [lx, ly, lz] = test.low;
    const [hx, hy, hz] = test.high;
    let top = 0;
    stack[top++] = 0;
    while (top) {
      const node = stack[--top];
      for (let side = 0; side < 2; side++) {
        const box = node + 6 * side;
        if (
          nodes[box] > hx ||
          nodes[box + 1] > hy ||
          nodes[box + 2] > hz ||
          nodes[box + 3] < lx ||
          nodes[box + 4] < ly ||
          nodes[box + 5] < lz
        )
          continue;
        const child = links[node + NODE_LINKS + side];
        if (child >= 0) {
          stack[top++] = child;
          continue;
        }
        const end = leafStart(child) + leafCount(child);
        for (let i = leafStart(child); i < end; i++) {
          const u = wanted ? wanted[ids[i]] : ids[i];
          if (faceOf[u] === faceOf[t]) continue;
          if (u < t && (!asked || asked[faceOf[t]])) continue;
          const a = pieceOf[faceOf[t]];
          const b = pieceOf[faceOf[u]];
          const key = Math.min(a, b) * pieceCount + Math.max(a, b);
          if (a !== b && pieces.has(key)) continue;
          if (!test.crosses(u)) continue;
          if (a !== b) {
            pieces.add(key);
            continue;
          }
          test.noteEnds();
          own.add(faceOf[t]).add(faceOf[u]);
          pairs.push([faceOf[t], faceOf[u]]);
        }
      }
    }
  }
  const faces = [...own].sort((a, b) => a - b);
  const piercing = [...test.ends]
    .sort((a, b) => b[1] - a[1] || a[0] - b[0])
    .map(([v]) => v);
  return { faces, crossingPieces: pieces.size, piercing, pairs };
}

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
  readonly low = [0, 0, 0];
  readonly high = [0, 0, 0];
  /** How many piercing edges end in each vertex. */
  readonly ends = new Map<number, number>();
  private t = 0;
  private edge: readonly [number, number] = [0, 0];
  private readonly slack: number;

  constructor(
    private readonly p: Float32Array,
    private readonly vertices: Uint32Array,
    private readonly target: ArrayLike<number>,
  ) {
    let size = 0;
    for (let i = 0; i < p.length; i++) size = Math.max(size, Math.abs(p[i]));
    this.slack = 2e-7 * size;
  }

  setFirst(t: number): void {
    this.t = t;
    const { p, vertices } = this;
    for (let k = 0; k < 3; k++) {
      const a = p[3 * vertices[3 * t] + k];
      const b = p[3 * vertices[3 * t + 1] + k];
      const c = p[3 * vertices[3 * t + 2] + k];
      this.low[k] = Math.min(a, b, c);
      this.high[k] = Math.max(a, b, c);
    }
  }

  /** Counts the ends of the edge that pierced last. */
  noteEnds(): void {
    for (const v of this.edge) this.ends.set(v, (this.ends.get(v) ?? 0) + 1);
  }

  crosses(u: number): boolean {
    const { vertices: v, target, t } = this;
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
    if (shared === 1)
      return (
        this.pierces(t, (mine + 1) % 3, u) || this.pierces(u, (its + 1) % 3, t)
      );
    for (let k = 0; k < 3; k++)
      if (this.pierces(t, k, u) || this.pierces(u, k, t)) return true;
    return false;
  }

  /** Whether edge k of triangle s pierces triangle t inside its rim. */
  private pierces(s: number, k: number, t: number): boolean {
    const { p, vertices: v, slack } = this;
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
    const e = 3 * v[3 * s + k];
    const f = 3 * v[3 * s + ((k + 1) % 3)];
    const ex = p[e] - p[a];
    const ey = p[e + 1] - p[a + 1];
    const ez = p[e + 2] - p[a + 2];
    const fx = p[f] - p[a];
    const fy = p[f + 1] - p[a + 1];
    const fz = p[f + 2] - p[a + 2];
    const d0 = (ex * nx + ey * ny + ez * nz) / length;
    const d1 = (fx * nx + fy * ny + fz * nz) / length;
    if (d0 > 0 === d1 > 0) return false;
    const rim = Math.sqrt(length) * 1e-5 + slack;
    if (Math.abs(d0) < rim || Math.abs(d1) < rim) return false;
    const at = d0 / (d0 - d1);
    const qx = ex + at * (fx - ex);
    const qy = ey + at * (fy - ey);
    const qz = ez + at * (fz - ez);
    // Barycentric weights as areas over the whole.
    const n2 = length * length;
    const weight = (x: number, y: number, z: number) =>
      (x * nx + y * ny + z * nz) / n2;
    const w1 = weight(qy * wz - qz * wy, qz * wx - qx * wz, qx * wy - qy * wx);
    const w2 = weight(uy * qz - uz * qy, uz * qx - ux * qz, ux * qy - uy * qx);
    this.edge = [e / 3, f / 3];
    return w1 > 1e-4 && w2 > 1e-4 && w1 + w2 < 1 - 1e-4;
  }
}
