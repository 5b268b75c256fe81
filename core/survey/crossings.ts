import { faceComponents } from "../mesh/components";
import type { Mesh } from "../mesh/mesh";
import { faceCount, faceOfCorners, keepFaces } from "../mesh/mesh";
import { grow } from "../mesh/select";
import { buildBvh, leafCount, leafStart, NODE_LINKS } from "../space/bvh";
import { fillHoles } from "./borders";
import type { Named } from "./finding";
import { dropDuplicateFaces, weldTargets } from "./leftovers";
import { LookedAt } from "./looked-at";
import { splitNonManifold } from "./non-manifold";

export interface Crossings extends Named {
  /** Pairs of pieces that pass through each other, which is how most props are built and no defect. */
  crossingPieces: number;
  /** Vertices by how many piercing edges end in them, those with most first. */
  piercing: number[];
}

/**
 * Faces of one piece that pass through each other. Touching does not count, nor do neighbours that share an edge.
 * @param check called now and then, to stop
 */
export function findCrossings(
  look: LookedAt,
  check: () => void = () => {},
): Crossings {
  const { mesh, split } = look;
  const target = weldTargets(look);
  const bvh = buildBvh(mesh.positions, split.vertices);
  const { ofFace } = faceComponents({
    ...mesh,
    corners: mesh.corners.map((v) => target[v]),
  });
  const own = new Set<number>();
  const pieces = new Set<number>();
  const pieceCount = ofFace.reduce((most, c) => Math.max(most, c + 1), 0);
  const test = new CrossingTest(mesh.positions, split.vertices, target);
  const { nodes, links, ids } = bvh;
  const stack = new Int32Array(256);
  const total = split.faces.length;
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
          const u = ids[i];
          if (u <= t || split.faces[u] === split.faces[t]) continue;
          const a = ofFace[split.faces[t]];
          const b = ofFace[split.faces[u]];
          const key = Math.min(a, b) * pieceCount + Math.max(a, b);
          if (a !== b && pieces.has(key)) continue;
          if (!test.crosses(u)) continue;
          if (a !== b) pieces.add(key);
          else test.noteEnds();
          if (a === b) own.add(split.faces[t]).add(split.faces[u]);
        }
      }
    }
  }
  const faces = [...own].sort((a, b) => a - b);
  const piercing = [...test.ends]
    .sort((a, b) => b[1] - a[1] || a[0] - b[0])
    .map(([v]) => v);
  return { count: faces.length, faces, crossingPieces: pieces.size, piercing };
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
    private readonly target: Uint32Array,
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

/**
 * Takes faces that pass through others of their piece out and closes the holes, a ring wider each time where that
 * was not enough (after Attene 2010, "A lightweight approach to repairing digitized polygon meshes").
 * @returns the mesh and how many crossing faces are left
 */
export function mendCrossings(
  mesh: Mesh,
  check: () => void = () => {},
): { mesh: Mesh; mended: number; left: number } {
  const before = findCrossings(new LookedAt(mesh, 0), check).count;
  let { mesh: best, left } = withoutSpikes(mesh, before, check);
  for (let ring = 0; ring < 5 && left > 0; ring++) {
    const { faces = [] } = findCrossings(new LookedAt(best, 0), check);
    let marks = new Uint8Array(faceCount(best));
    for (const f of faces) marks[f] = 1;
    for (let k = 0; k < ring; k++) marks = grow(best, marks) as typeof marks;
    const keep = marks.map((mark) => 1 - mark);
    if (!keep.some((kept) => kept)) break;
    const open = splitNonManifold(withoutCrumbs(keepFaces(best, keep))).mesh;
    const closed = fillHoles(open).mesh;
    const now = findCrossings(new LookedAt(closed, 0), check).count;
    if (now >= left) continue;
    best = closed;
    left = now;
  }
  if (best !== mesh) {
    const { mesh: single } = dropDuplicateFaces(best, 0);
    best = fillHoles(splitNonManifold(single).mesh).mesh;
    left = findCrossings(new LookedAt(best, 0), check).count;
  }
  return { mesh: best, mended: before - left, left };
}

/** Takes out the vertex whose edges pierce most, with its faces, as long as that leaves fewer crossings. */
function withoutSpikes(
  mesh: Mesh,
  crossings: number,
  check: () => void,
): { mesh: Mesh; left: number } {
  let best = mesh;
  let left = crossings;
  for (let round = 0; round < 40 && left > 0; round++) {
    const { piercing } = findCrossings(new LookedAt(best, 0), check);
    const better = piercing.slice(0, 4).some((vertex) => {
      const keep = new Uint8Array(faceCount(best)).fill(1);
      faceOfCorners(best).forEach((f, c) => {
        if (best.corners[c] === vertex) keep[f] = 0;
      });
      if (!keep.some((kept) => kept)) return false;
      const closed = fillHoles(keepFaces(best, keep)).mesh;
      const now = findCrossings(new LookedAt(closed, 0), check).count;
      if (now >= left) return false;
      best = closed;
      left = now;
      return true;
    });
    if (!better) break;
  }
  return { mesh: best, left };
}

/** Leaves out pieces of fewer than four faces, which cutting left behind. */
function withoutCrumbs(mesh: Mesh): Mesh {
  const { count, ofFace } = faceComponents(mesh);
  const size = new Uint32Array(count);
  for (const c of ofFace) size[c]++;
  const keep = Uint8Array.from(ofFace, (c) => (size[c] >= 4 ? 1 : 0));
  return keep.every((kept) => kept) || !keep.some((kept) => kept)
    ? mesh
    : keepFaces(mesh, keep);
}
