import { lengthOf } from "../../space/vector";
import type { ConvexMesh } from "../../mesh/hull";

/**
 * Four points that span a tetrahedron, to begin a hull with: the two that lie farthest apart along an axis, the one
 * farthest from their line, and the one farthest from the plane of the three.
 * @param points 3 × n, metres
 * @returns their numbers, and how far out of a face counts as outside; null where all lie in a plane
 */
export function firstTetrahedron(points: Float64Array) {
  const n = points.length / 3;
  if (n < 4) return null;
  let a = 0;
  let b = 0;
  let span = 0;
  for (let axis = 0; axis < 3; axis++) {
    let low = 0;
    let high = 0;
    for (let i = 1; i < n; i++) {
      if (points[3 * i + axis] < points[3 * low + axis]) low = i;
      if (points[3 * i + axis] > points[3 * high + axis]) high = i;
    }
    const size = points[3 * high + axis] - points[3 * low + axis];
    if (size > span) {
      span = size;
      a = low;
      b = high;
    }
  }
  const tolerance = span * 1e-6;
  if (!(span > 0)) return null;
  let c = -1;
  let most = tolerance * span;
  const ex = points[3 * b] - points[3 * a];
  const ey = points[3 * b + 1] - points[3 * a + 1];
  const ez = points[3 * b + 2] - points[3 * a + 2];
  // The normal of the widest triangle on that edge, as long as twice its area.
  let nx = 0;
  let ny = 0;
  let nz = 0;
  for (let i = 0; i < n; i++) {
    const wx = points[3 * i] - points[3 * a];
    const wy = points[3 * i + 1] - points[3 * a + 1];
    const wz = points[3 * i + 2] - points[3 * a + 2];
    const x = ey * wz - ez * wy;
    const y = ez * wx - ex * wz;
    const z = ex * wy - ey * wx;
    const area = lengthOf(x, y, z);
    if (area <= most) continue;
    most = area;
    c = i;
    nx = x;
    ny = y;
    nz = z;
  }
  if (c < 0) return null;
  let d = -1;
  let height = tolerance;
  for (let i = 0; i < n; i++) {
    const wx = points[3 * i] - points[3 * a];
    const wy = points[3 * i + 1] - points[3 * a + 1];
    const wz = points[3 * i + 2] - points[3 * a + 2];
    const h = Math.abs(nx * wx + ny * wy + nz * wz) / most;
    if (h > height) {
      height = h;
      d = i;
    }
  }
  return d < 0 ? null : { corners: [a, b, c, d], tolerance };
}

/** The faces of a hull that grows, in flat arrays whose places are used again (Quickhull, Barber et al. 1996). */
export class HullFaces {
  /** Numbers of the faces there are. */
  alive: number[] = [];
  /** How far out of the hull the farthest point lay that was let go, metres. */
  lost = 0;
  private readonly free: number[] = [];
  private top = 0;
  /** 3 × faces: points of each. */
  private corners: Int32Array;
  /** 3 × faces: the face across the edge from each corner to the next. */
  private neighbours: Int32Array;
  /** 4 × faces: outward unit normal and offset, metres. */
  private planes: Float64Array;
  /** faces: the point outside that is farthest, −1 for none, how far it is, and the first in the list of all outside. */
  private far: Int32Array;
  private distance: Float64Array;
  private first: Int32Array;
  /** points: the next in the list of points outside the same face. */
  private readonly next: Int32Array;
  /** faces: whether the point that is added sees it, while it is. */
  private seen: Uint8Array;
  /** The points that the edges round what is seen leave from, the faces beyond them, and which edge goes on from each. */
  private readonly outline: number[] = [];
  private readonly beyond: number[] = [];
  private readonly after: number[] = [];
  /** points: which edge of the outline leaves it; holds only where the outline says the same. */
  private readonly leaving: Int32Array;

  constructor(
    private readonly points: Float64Array,
    private readonly tolerance: number,
    limit: number,
  ) {
    const count = points.length / 3;
    const room = 4 * Math.min(limit, count) + 16;
    this.corners = new Int32Array(3 * room);
    this.neighbours = new Int32Array(3 * room);
    this.planes = new Float64Array(4 * room);
    this.far = new Int32Array(room);
    this.distance = new Float64Array(room);
    this.first = new Int32Array(room);
    this.next = new Int32Array(count);
    this.leaving = new Int32Array(count);
    this.seen = new Uint8Array(room);
  }

  /** A new face, and its number. */
  add(a: number, b: number, c: number): number {
    const f = this.free.pop() ?? this.top++;
    if (f >= this.far.length) this.grow();
    this.set(f, a, b, c);
    this.alive.push(f);
    return f;
  }

  private grow(): void {
    const larger = <T extends Int32Array | Float64Array | Uint8Array>(
      list: T,
    ): T => {
      const made = new (list.constructor as new (n: number) => T)(
        2 * list.length,
      );
      made.set(list);
      return made;
    };
    this.corners = larger(this.corners);
    this.neighbours = larger(this.neighbours);
    this.planes = larger(this.planes);
    this.far = larger(this.far);
    this.distance = larger(this.distance);
    this.first = larger(this.first);
    this.seen = larger(this.seen);
  }

  set(f: number, a: number, b: number, c: number): void {
    const { points: p, planes, corners } = this;
    const ux = p[3 * b] - p[3 * a];
    const uy = p[3 * b + 1] - p[3 * a + 1];
    const uz = p[3 * b + 2] - p[3 * a + 2];
    const vx = p[3 * c] - p[3 * a];
    const vy = p[3 * c + 1] - p[3 * a + 1];
    const vz = p[3 * c + 2] - p[3 * a + 2];
    let nx = uy * vz - uz * vy;
    let ny = uz * vx - ux * vz;
    let nz = ux * vy - uy * vx;
    const length = lengthOf(nx, ny, nz) || 1;
    nx /= length;
    ny /= length;
    nz /= length;
    planes[4 * f] = nx;
    planes[4 * f + 1] = ny;
    planes[4 * f + 2] = nz;
    planes[4 * f + 3] = nx * p[3 * a] + ny * p[3 * a + 1] + nz * p[3 * a + 2];
    corners[3 * f] = a;
    corners[3 * f + 1] = b;
    corners[3 * f + 2] = c;
    this.far[f] = -1;
    this.distance[f] = 0;
    this.first[f] = -1;
  }

  heightOver(f: number, i: number): number {
    const { points: p, planes: n } = this;
    const k = 4 * f;
    return (
      n[k] * p[3 * i] +
      n[k + 1] * p[3 * i + 1] +
      n[k + 2] * p[3 * i + 2] -
      n[k + 3]
    );
  }

  /** Gives a point to the first of some faces that it is outside of. */
  assign(i: number, among: readonly number[]): void {
    for (const f of among) {
      const h = this.heightOver(f, i);
      if (h <= this.tolerance) continue;
      this.next[i] = this.first[f];
      this.first[f] = i;
      if (h > this.distance[f]) {
        this.distance[f] = h;
        this.far[f] = i;
      }
      return;
    }
  }

  /** The face that a point stands out of farthest; −1 where none does. */
  farthest(): number {
    let found = -1;
    let most = 0;
    for (const f of this.alive)
      if (this.distance[f] > most) {
        most = this.distance[f];
        found = f;
      }
    return found;
  }

  /** Joins the four faces that the hull begins with. */
  start(): void {
    for (const f of this.alive)
      for (let k = 0; k < 3; k++) {
        const from = this.corners[3 * f + k];
        const to = this.corners[3 * f + ((k + 1) % 3)];
        for (const g of this.alive)
          for (let m = 0; m < 3; m++)
            if (
              this.corners[3 * g + m] === to &&
              this.corners[3 * g + ((m + 1) % 3)] === from
            )
              this.neighbours[3 * f + k] = g;
      }
  }

  /**
   * Takes away what the farthest point of a face sees and closes the hole with a fan to it. What it sees is one piece
   * about that face, so that its outline is a loop whatever the rounding.
   * @returns false where the outline meets itself: the point is let go
   */
  addPoint(from: number): boolean {
    const point = this.far[from];
    const seen = this.seenFrom(from, point);
    const edges = this.outlineOf(seen);
    if (edges < 3) {
      for (const f of seen) this.seen[f] = 0;
      this.letGo(from);
      return false;
    }
    this.forget();
    const last = this.alive.length;
    for (let i = 0; i < edges; i++)
      this.add(this.outline[i], this.outline[this.after[i]], point);
    const fan = this.alive.slice(last);
    for (let i = 0; i < edges; i++) this.joinFan(fan, i);
    const orphans = seen.map((f) => this.first[f]);
    for (const f of seen) {
      this.seen[f] = 0;
      this.free.push(f);
    }
    for (const first of orphans)
      for (let i = first; i >= 0;) {
        const after = this.next[i];
        if (i !== point) this.assign(i, fan);
        i = after;
      }
    return true;
  }

  /**
   * Gathers the outline of what is seen: from where each edge leaves, what lies beyond it, and which edge goes on from
   * where it ends.
   * @returns how many edges it has; 0 where it meets itself
   */
  private outlineOf(seen: readonly number[]): number {
    const { corners, neighbours, outline, beyond, after, leaving } = this;
    const ends: number[] = [];
    let count = 0;
    for (const f of seen)
      for (let k = 0; k < 3; k++) {
        const other = neighbours[3 * f + k];
        if (this.seen[other]) continue;
        const v = corners[3 * f + k];
        if (leaving[v] < count && outline[leaving[v]] === v) return 0;
        leaving[v] = count;
        outline[count] = v;
        beyond[count++] = other;
        ends.push(corners[3 * f + (k === 2 ? 0 : k + 1)]);
      }
    for (let i = 0; i < count; i++) after[i] = leaving[ends[i]];
    return count;
  }

  /** Takes what is seen out of the faces there are. */
  private forget(): void {
    const { alive } = this;
    let kept = 0;
    for (const f of alive) if (!this.seen[f]) alive[kept++] = f;
    alive.length = kept;
  }

  /** Joins one face of a fan over the outline to the next one and to what lies beyond. */
  private joinFan(fan: readonly number[], i: number): void {
    const f = fan[i];
    const a = this.outline[i];
    const b = this.outline[this.after[i]];
    const beyond = this.beyond[i];
    const next = fan[this.after[i]];
    this.neighbours[3 * f] = beyond;
    this.neighbours[3 * f + 1] = next;
    this.neighbours[3 * next + 2] = f;
    for (let m = 0; m < 3; m++)
      if (
        this.corners[3 * beyond + m] === b &&
        this.corners[3 * beyond + (m === 2 ? 0 : m + 1)] === a
      )
        this.neighbours[3 * beyond + m] = f;
    this.flatLike(f, beyond);
  }

  /** The faces that a point sees, joined to the one it was found by. */
  private seenFrom(from: number, point: number): number[] {
    const least = this.tolerance * 0.01;
    const seen = [from];
    this.seen[from] = 1;
    for (let i = 0; i < seen.length; i++)
      for (let k = 0; k < 3; k++) {
        const g = this.neighbours[3 * seen[i] + k];
        if (this.seen[g] || this.heightOver(g, point) <= least) continue;
        this.seen[g] = 1;
        seen.push(g);
      }
    return seen;
  }

  /** Takes the farthest point of a face off its list. */
  private letGo(f: number): void {
    const gone = this.far[f];
    this.lost = Math.max(this.lost, this.distance[f]);
    let list = this.first[f];
    this.first[f] = -1;
    this.far[f] = -1;
    this.distance[f] = 0;
    while (list >= 0) {
      const after = this.next[list];
      if (list !== gone) this.assign(list, [f]);
      list = after;
    }
  }

  /** A face without area faces as the one beyond its edge does: its corners lie on that edge. */
  private flatLike(f: number, other: number): void {
    const { planes } = this;
    if (planes[4 * f] || planes[4 * f + 1] || planes[4 * f + 2]) return;
    planes.copyWithin(4 * f, 4 * other, 4 * other + 4);
  }

  toMesh(places: ArrayLike<number>): ConvexMesh {
    const positions = new Float32Array(9 * this.alive.length);
    const triangles = new Uint32Array(3 * this.alive.length);
    const names = this.leaving.fill(-1);
    let count = 0;
    let at = 0;
    for (const f of this.alive)
      for (let k = 0; k < 3; k++) {
        const v = this.corners[3 * f + k];
        if (names[v] < 0) {
          positions[3 * count] = places[3 * v];
          positions[3 * count + 1] = places[3 * v + 1];
          positions[3 * count + 2] = places[3 * v + 2];
          names[v] = count++;
        }
        triangles[at++] = names[v];
      }
    return { positions: positions.slice(0, 3 * count), triangles };
  }
}
