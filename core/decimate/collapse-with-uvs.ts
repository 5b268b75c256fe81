import { inner, unit, scaleOf, nameWedges } from "./wedges";
import { UvQuadrics } from "./uv-quadrics";
import { BucketQueue } from "../base/bucket-queue";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { triangulate } from "../mesh/triangulate";

/** Planes that hold borders, seams and hard edges, against the faces beside them. */
const LINE_WEIGHT = 20;

export interface UvCollapseOptions {
  /** Leaves every vertex on an open border where it is, so that neighbours still meet it. */
  holdBorders: boolean;
}

/**
 * Reduces an unwrapped mesh so that its UVs and maps still serve: a vertex is joined into a neighbour with that
 * one's place and UV, never moved, and only where each of its UVs has one to go to. Quadrics over place and UV
 * together (Garland and Heckbert 1998) choose what drifts least; seams, hard edges, borders and lines between
 * materials are held by planes of their own.
 * @returns one mesh for each budget, in the order given, which must fall; the finest one is where it starts
 */
export function collapseWithUvs(
  mesh: Mesh,
  budgets: readonly number[],
  options: UvCollapseOptions,
  check: () => void,
): Mesh[] {
  const work = new UvCollapser(mesh, options);
  return budgets.map((budget) => {
    check();
    work.run(budget);
    return work.mesh();
  });
}

class UvCollapser {
  private readonly p: Float32Array;
  private readonly vertices: Uint32Array;
  /** 3 × triangleCount: corners with the same place and UV share a wedge. */
  private readonly wedges: Uint32Array;
  private readonly wedgeUv: Float64Array;
  private readonly faces: Uint32Array;
  private readonly alive: Uint8Array;
  private live: number;
  private readonly around: Set<number>[];
  private readonly quadrics: UvQuadrics;
  private readonly border: Uint8Array;
  private readonly hard = new Set<number>();
  private readonly stamps: Int32Array;
  private readonly uvScale: number;
  private readonly queue: BucketQueue;
  /** Whether seams and held borders may give way. */
  private loose = false;

  constructor(
    private readonly source: Mesh,
    private readonly options: UvCollapseOptions,
  ) {
    const { vertices, corners, faces } = triangulate(source);
    this.p = source.positions;
    this.vertices = vertices.slice();
    this.faces = faces;
    this.live = faces.length;
    this.alive = new Uint8Array(this.live).fill(1);
    const count = this.p.length / 3;
    const named = nameWedges(source, vertices, corners);
    this.wedges = named.wedges;
    this.wedgeUv = named.uvs;
    this.uvScale = scaleOf(source, vertices, corners);
    this.around = Array.from({ length: count }, () => new Set<number>());
    for (let c = 0; c < vertices.length; c++)
      this.around[vertices[c]].add((c / 3) | 0);
    this.quadrics = new UvQuadrics(this.wedgeUv.length / 2);
    this.border = new Uint8Array(count);
    this.stamps = new Int32Array(count);
    this.queue = new BucketQueue(8 * this.live + 16);
    this.addFaces();
    this.addLines(corners);
  }

  private key(a: number, b: number): number {
    return Math.min(a, b) * (this.p.length / 3) + Math.max(a, b);
  }

  private point(v: number, wedge: number): number[] {
    return [
      this.p[3 * v],
      this.p[3 * v + 1],
      this.p[3 * v + 2],
      this.uvScale * this.wedgeUv[2 * wedge],
      this.uvScale * this.wedgeUv[2 * wedge + 1],
    ];
  }

  private addFaces(): void {
    for (let t = 0; t < this.faces.length; t++) {
      const x = [0, 1, 2].map((k) =>
        this.point(this.vertices[3 * t + k], this.wedges[3 * t + k]),
      );
      this.quadrics.addFace(this.wedges.subarray(3 * t, 3 * t + 3), x);
    }
  }

  private addLines(corners: Uint32Array): void {
    const { source, vertices, wedges } = this;
    const faceStarts = new Uint32Array(this.faces.length + 1).map(
      (_, t) => 3 * t,
    );
    const edges = buildEdges({ corners: vertices, faceStarts });
    const next = (c: number) => (c % 3 === 2 ? c - 2 : c + 1);
    for (let e = 0; e < edges.count; e++) {
      const c = edges.first[e];
      const d = edges.second[e];
      const open = edges.uses[e] !== 2;
      const isHard = !open && this.markedHard(corners, c);
      if (isHard) this.hard.add(this.key(vertices[c], vertices[next(c)]));
      const seam =
        !open &&
        (wedges[c] !== wedges[next(d)] || wedges[next(c)] !== wedges[d]);
      const parted =
        !open &&
        source.faceMaterials !== null &&
        source.faceMaterials[this.faces[(c / 3) | 0]] !==
          source.faceMaterials[this.faces[(d / 3) | 0]];
      if (open) this.border[vertices[c]] = this.border[vertices[next(c)]] = 1;
      if (!open && !isHard && !seam && !parted) continue;
      for (const corner of open ? [c] : [c, d]) this.addUpright(corner);
    }
  }

  /** Whether the edge from a corner of a triangle is an edge of its face, and marked. */
  private markedHard(corners: Uint32Array, c: number): boolean {
    const { hard, faceStarts } = this.source;
    if (!hard) return false;
    const t = (c / 3) | 0;
    const from = corners[c];
    const to = corners[c % 3 === 2 ? c - 2 : c + 1];
    const begin = faceStarts[this.faces[t]];
    const end = faceStarts[this.faces[t] + 1];
    const follows = to === (from + 1 === end ? begin : from + 1);
    return follows && hard[from] !== 0;
  }

  private addUpright(c: number): void {
    const { vertices, p, wedges } = this;
    const next = c % 3 === 2 ? c - 2 : c + 1;
    const third = next % 3 === 2 ? next - 2 : next + 1;
    const [a, b, o] = [vertices[c], vertices[next], vertices[third]];
    const e = [0, 1, 2].map((k) => p[3 * b + k] - p[3 * a + k]);
    const s = [0, 1, 2].map((k) => p[3 * o + k] - p[3 * a + k]);
    const length2 = inner(e, e);
    if (!(length2 > 0)) return;
    const along = inner(s, e) / length2;
    const normal = unit(s.map((x, k) => x - along * e[k]));
    const at = [p[3 * a], p[3 * a + 1], p[3 * a + 2]];
    for (const corner of [c, next])
      this.quadrics.addPlane(
        wedges[corner],
        normal,
        at,
        (LINE_WEIGHT * length2) / 2,
      );
  }

  run(budget: number): void {
    // What the seams and held borders leave is not always little enough: then they give way, cheapest first.
    for (const loose of [false, true]) {
      this.loose = loose;
      for (let before = Infinity; this.live > budget && this.live < before;) {
        before = this.live;
        this.drain(budget);
      }
    }
  }

  private drain(budget: number): void {
    this.queue.clear();
    for (let v = 0; v < this.around.length; v++) this.offer(v);
    while (this.live > budget && this.queue.pop()) {
      const { a, b, stamp } = this.queue;
      if (stamp !== this.stamps[a] + this.stamps[b]) continue;
      const ways = this.ways(a, b);
      if (!ways || !this.sound(a, b)) continue;
      this.collapse(a, b, ways);
    }
  }

  private neighbours(v: number): Set<number> {
    const found = new Set<number>();
    for (const t of this.around[v])
      for (let k = 0; k < 3; k++) found.add(this.vertices[3 * t + k]);
    found.delete(v);
    return found;
  }

  /** Queues every way to give v up. */
  private offer(v: number): void {
    if (this.options.holdBorders && this.border[v] && !this.loose) return;
    for (const a of this.neighbours(v)) {
      const ways = this.ways(a, v);
      if (ways)
        this.queue.push(
          this.cost(a, ways),
          a,
          v,
          this.stamps[a] + this.stamps[v],
        );
    }
  }

  /** For each wedge of b the wedge of a it goes to, or null where one has none. */
  private ways(a: number, b: number): Map<number, number> | null {
    const ways = new Map<number, number>();
    let shared = 0;
    for (const t of this.around[b]) {
      let from = -1;
      let to = -1;
      for (let k = 0; k < 3; k++) {
        if (this.vertices[3 * t + k] === b) from = this.wedges[3 * t + k];
        if (this.vertices[3 * t + k] === a) to = this.wedges[3 * t + k];
      }
      if (to < 0) continue;
      shared++;
      const before = ways.get(from);
      if (before !== undefined && before !== to && !this.loose) return null;
      ways.set(from, to);
    }
    if (!shared || shared > 2) return null;
    if (this.border[b] && !(this.border[a] && shared === 1)) return null;
    if (shared === 2 && this.border[a] && this.border[b]) return null;
    for (const t of this.around[b])
      for (let k = 0; k < 3; k++)
        if (
          this.vertices[3 * t + k] === b &&
          !ways.has(this.wedges[3 * t + k])
        ) {
          if (!this.loose) return null;
          ways.set(
            this.wedges[3 * t + k],
            this.nearestWedge(a, this.wedges[3 * t + k]),
          );
        }
    return ways;
  }

  /** The wedge of a vertex whose UV is nearest to another wedge's. */
  private nearestWedge(a: number, wedge: number): number {
    const { wedgeUv: uv } = this;
    let best = -1;
    let least = Infinity;
    for (const t of this.around[a])
      for (let k = 0; k < 3; k++) {
        const other = this.wedges[3 * t + k];
        if (this.vertices[3 * t + k] !== a) continue;
        const far =
          (uv[2 * other] - uv[2 * wedge]) ** 2 +
          (uv[2 * other + 1] - uv[2 * wedge + 1]) ** 2;
        if (far >= least) continue;
        least = far;
        best = other;
      }
    return best;
  }

  private cost(a: number, ways: ReadonlyMap<number, number>): number {
    let sum = 0;
    for (const [from, to] of ways) {
      const x = this.point(a, to);
      sum += this.quadrics.valueAt(from, x) + this.quadrics.valueAt(to, x);
    }
    return Math.max(0, sum);
  }

  /** The link condition, and no face turned by more than about 75° or folded over in the sheet. */
  private sound(a: number, b: number): boolean {
    const near = this.neighbours(a);
    let common = 0;
    for (const w of this.neighbours(b)) if (near.has(w)) common++;
    let shared = 0;
    for (const t of this.around[b]) if (this.around[a].has(t)) shared++;
    if (common !== shared) return false;
    if (this.around[a].size <= 3 && this.around[b].size <= 3) return false;
    for (const t of this.around[b]) {
      if (this.around[a].has(t)) continue;
      const ring = [0, 1, 2].map((k) => this.vertices[3 * t + k]);
      const before = this.normal(ring);
      const after = this.normal(ring.map((v) => (v === b ? a : v)));
      if (
        inner(before, after) <=
        0.25 * Math.sqrt(inner(before, before) * inner(after, after))
      )
        return false;
    }
    return true;
  }

  private normal(ring: readonly number[]): number[] {
    const { p } = this;
    const [a, b, c] = ring.map((v) => 3 * v);
    const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
    return [
      u[1] * v[2] - u[2] * v[1],
      u[2] * v[0] - u[0] * v[2],
      u[0] * v[1] - u[1] * v[0],
    ];
  }

  private collapse(
    a: number,
    b: number,
    ways: ReadonlyMap<number, number>,
  ): void {
    const { vertices, wedges, around } = this;
    for (const w of this.neighbours(b)) {
      if (w === a || !this.hard.delete(this.key(b, w))) continue;
      this.hard.add(this.key(a, w));
    }
    for (const t of [...around[b]]) {
      if (around[a].has(t)) {
        this.alive[t] = 0;
        this.live--;
        for (let k = 0; k < 3; k++) around[vertices[3 * t + k]].delete(t);
        continue;
      }
      for (let k = 0; k < 3; k++) {
        const c = 3 * t + k;
        if (vertices[c] !== b) continue;
        vertices[c] = a;
        wedges[c] = ways.get(wedges[c])!;
      }
      around[a].add(t);
    }
    around[b].clear();
    for (const [from, to] of ways) this.quadrics.merge(to, from);
    this.stamps[a]++;
    this.stamps[b] = -(1 << 30);
    for (const w of this.neighbours(a)) this.offer(w);
    this.offer(a);
  }

  /** The present state with its UVs and hard edges. */
  mesh(): Mesh {
    const { vertices, wedges, source } = this;
    const name = new Int32Array(this.p.length / 3).fill(-1);
    const points: number[] = [];
    const corners: number[] = [];
    const uvs: number[] = [];
    const hard: number[] = [];
    const faces: number[] = [];
    this.alive.forEach((alive, t) => {
      if (!alive) return;
      faces.push(this.faces[t]);
      for (let k = 0; k < 3; k++) {
        const v = vertices[3 * t + k];
        const w = wedges[3 * t + k];
        if (name[v] < 0) {
          name[v] = points.length / 3;
          for (let i = 0; i < 3; i++) points.push(this.p[3 * v + i]);
        }
        corners.push(name[v]);
        uvs.push(this.wedgeUv[2 * w], this.wedgeUv[2 * w + 1]);
        hard.push(
          this.hard.has(this.key(v, vertices[3 * t + ((k + 1) % 3)])) ? 1 : 0,
        );
      }
    });
    const { faceMaterials, ids } = source;
    return meshFromTriangles(
      Float32Array.from(points),
      Uint32Array.from(corners),
      {
        uvs: source.uvs && Float32Array.from(uvs),
        hard: source.hard && Uint8Array.from(hard),
        materials: source.materials,
        faceMaterials:
          faceMaterials && Uint16Array.from(faces, (f) => faceMaterials[f]),
        ids: ids && Uint16Array.from(faces, (f) => ids[f]),
      },
    );
  }
}
