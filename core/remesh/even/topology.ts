/**
 * Triangles whose edges can be collapsed and flipped without ever changing the topology: every step is refused
 * that would pinch, fold two faces together or close a hole. Small and plain, for a few hundred thousand faces.
 */
export class Topology {
  readonly alive: Uint8Array;
  private readonly around: number[][];

  constructor(
    readonly positions: Float64Array,
    readonly triangles: Uint32Array,
    private readonly border: Uint8Array,
  ) {
    this.alive = new Uint8Array(triangles.length / 3).fill(1);
    this.around = Array.from({ length: positions.length / 3 }, () => []);
    for (let c = 0; c < triangles.length; c++)
      this.around[triangles[c]].push((c / 3) | 0);
  }

  /** The faces at a vertex. */
  facesAt(v: number): readonly number[] {
    return this.around[v];
  }

  neighbours(v: number): number[] {
    const found: number[] = [];
    for (const t of this.around[v])
      for (let k = 0; k < 3; k++) {
        const w = this.triangles[3 * t + k];
        if (w !== v && !found.includes(w)) found.push(w);
      }
    return found;
  }

  /** Faces that have both vertices. */
  private shared(a: number, b: number): number[] {
    return this.around[a].filter((t) => this.has(t, b));
  }

  private has(t: number, v: number): boolean {
    const { triangles } = this;
    return (
      triangles[3 * t] === v ||
      triangles[3 * t + 1] === v ||
      triangles[3 * t + 2] === v
    );
  }

  /** Joins b to a at a place; false where that would change the topology or turn a face over. */
  collapse(a: number, b: number, place: readonly number[]): boolean {
    const { triangles, around, border } = this;
    const gone = this.shared(a, b);
    if (!gone.length || gone.length > 2) return false;
    const near = this.neighbours(a);
    let common = 0;
    for (const w of this.neighbours(b)) if (near.includes(w)) common++;
    if (common !== gone.length) return false;
    if (gone.length === 2 && border[a] && border[b]) return false;
    if (around[a].length <= 3 && around[b].length <= 3) return false;
    for (const [v, other] of [
      [a, b],
      [b, a],
    ])
      for (const t of around[v])
        if (!this.has(t, other) && this.turns(t, v, place)) return false;
    for (const t of gone) {
      this.alive[t] = 0;
      for (let k = 0; k < 3; k++) {
        const w = triangles[3 * t + k];
        around[w] = around[w].filter((s) => s !== t);
      }
    }
    for (const t of around[b]) {
      for (let k = 0; k < 3; k++)
        if (triangles[3 * t + k] === b) triangles[3 * t + k] = a;
      around[a].push(t);
    }
    around[b] = [];
    border[a] |= border[b];
    for (let k = 0; k < 3; k++) this.positions[3 * a + k] = place[k];
    return true;
  }

  /** Whether a face turns by more than about 75° when one of its vertices moves. */
  turns(t: number, v: number, place: readonly number[]): boolean {
    const before = this.normal(t);
    const old = [0, 1, 2].map((k) => this.positions[3 * v + k]);
    for (let k = 0; k < 3; k++) this.positions[3 * v + k] = place[k];
    const after = this.normal(t);
    for (let k = 0; k < 3; k++) this.positions[3 * v + k] = old[k];
    const size = Math.hypot(...before) * Math.hypot(...after);
    if (!(Math.hypot(...after) > 0)) return true;
    return (
      before[0] * after[0] + before[1] * after[1] + before[2] * after[2] <
      0.2 * size
    );
  }

  normal(t: number): [number, number, number] {
    return this.normalOf(
      this.triangles[3 * t],
      this.triangles[3 * t + 1],
      this.triangles[3 * t + 2],
    );
  }

  normalOf(a: number, b: number, c: number): [number, number, number] {
    const p = this.positions;
    const ux = p[3 * b] - p[3 * a];
    const uy = p[3 * b + 1] - p[3 * a + 1];
    const uz = p[3 * b + 2] - p[3 * a + 2];
    const vx = p[3 * c] - p[3 * a];
    const vy = p[3 * c + 1] - p[3 * a + 1];
    const vz = p[3 * c + 2] - p[3 * a + 2];
    return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  }

  /** The two faces at an edge as (a,b,c) and (b,a,d), or null where there are not just two that run so. */
  pair(
    a: number,
    b: number,
  ): { s: number; t: number; c: number; d: number } | null {
    const faces = this.shared(a, b);
    if (faces.length !== 2) return null;
    const third = (t: number) => {
      for (let k = 0; k < 3; k++)
        if (
          this.triangles[3 * t + k] === a &&
          this.triangles[3 * t + ((k + 1) % 3)] === b
        )
          return [this.triangles[3 * t + ((k + 2) % 3)], 1];
      for (let k = 0; k < 3; k++) {
        const w = this.triangles[3 * t + k];
        if (w !== a && w !== b) return [w, 0];
      }
      return [-1, 0];
    };
    const [c, first] = third(faces[0]);
    const [d, second] = third(faces[1]);
    if (first === second || c === d) return null;
    return first
      ? { s: faces[0], t: faces[1], c, d }
      : { s: faces[1], t: faces[0], c: d, d: c };
  }

  /** Flips the edge a–b to c–d; false where the faces would fold or the edge exists. */
  flip(a: number, b: number): boolean {
    const found = this.pair(a, b);
    if (!found) return false;
    const { s, t, c, d } = found;
    if (this.shared(c, d).length) return false;
    if (this.around[a].length <= 3 || this.around[b].length <= 3) return false;
    const n = this.normal(s);
    const m = this.normal(t);
    const sum = n.map((x, k) => x + m[k]);
    for (const next of [this.normalOf(a, d, c), this.normalOf(d, b, c)]) {
      const toward = next[0] * sum[0] + next[1] * sum[1] + next[2] * sum[2];
      if (toward <= 0.2 * Math.hypot(...next) * Math.hypot(...sum))
        return false;
    }
    this.triangles.set([a, d, c], 3 * s);
    this.triangles.set([d, b, c], 3 * t);
    this.around[a] = this.around[a].filter((x) => x !== t);
    this.around[b] = this.around[b].filter((x) => x !== s);
    this.around[c].push(t);
    this.around[d].push(s);
    return true;
  }

  /** Each edge once, smaller vertex first, in order of the faces. */
  edges(): [number, number][] {
    const found: [number, number][] = [];
    const seen = new Set<number>();
    const count = this.around.length;
    for (let t = 0; t < this.alive.length; t++) {
      if (!this.alive[t]) continue;
      for (let k = 0; k < 3; k++) {
        const v = this.triangles[3 * t + k];
        const w = this.triangles[3 * t + ((k + 1) % 3)];
        const key = Math.min(v, w) * count + Math.max(v, w);
        if (seen.has(key)) continue;
        seen.add(key);
        found.push([Math.min(v, w), Math.max(v, w)]);
      }
    }
    return found;
  }
}
