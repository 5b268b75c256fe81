import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { BucketQueue } from "./bucket-queue";
import { Quadrics } from "./quadrics";
import type { Soup } from "./soup";

/** How far each phase may go to reach the budget; later ones only start where the earlier ones are stuck. */
const PHASES = [
  { keepTopology: true, flip: 0.25, sliver: 0.03 },
  { keepTopology: true, flip: 0, sliver: 0 },
  { keepTopology: false, flip: 0, sliver: 0 },
  { keepTopology: false, flip: -1, sliver: 0 },
];

/** Weight of an open border, of a hard or material edge, against the faces beside it. */
const BORDER_WEIGHT = 4;
const CREASE_WEIGHT = 1;

/** Components with this many triangles left may be given up whole. */
const SMALL_COMPONENT = 24;

export interface CollapseHooks {
  progress(share: number): void;
  check(): void;
}

/**
 * Quadric edge collapse of a triangle soup to a budget, in place.
 *
 * Garland and Heckbert 1997, with area-weighted quadrics, optimal placement held to the edge's middle along
 * free directions, border and crease planes, the link condition of Dey et al. 1999, and checks on turned and
 * thin triangles. A component that has become small competes as a whole: giving it up costs its area times the
 * mean squared distance to what would be left.
 *
 * Notes: costs only change for edges at the merged vertex, so a stamp a vertex tells whether a queued edge is
 * still true. Faces round a vertex are linked lists through the corners; that holds for any soup, manifold or
 * not. See docs/measuring.md for what else was tried.
 */
export class Collapser {
  readonly alive: Uint8Array;
  live: number;
  private readonly quadrics: Quadrics;
  private readonly queue: BucketQueue;
  private readonly firstCorner: Int32Array;
  private readonly nextCorner: Int32Array;
  private readonly stamps: Int32Array;
  private readonly seen: Int32Array;
  private seenRound = 0;
  private readonly border: Uint8Array;
  private readonly component: Uint32Array;
  private readonly componentLive: Int32Array;
  private readonly componentCost: Float64Array;
  private phase = PHASES[0];

  constructor(private readonly soup: Soup) {
    const vertices = soup.positions.length / 3;
    const count = soup.triangles.length / 3;
    this.alive = new Uint8Array(count).fill(1);
    this.live = count;
    this.quadrics = new Quadrics(vertices, soup.positions);
    this.queue = new BucketQueue(count * 2 + 16);
    this.firstCorner = new Int32Array(vertices).fill(-1);
    this.nextCorner = new Int32Array(3 * count);
    this.stamps = new Int32Array(vertices);
    this.seen = new Int32Array(vertices);
    this.border = new Uint8Array(vertices);
    for (let c = 3 * count - 1; c >= 0; c--) {
      const v = soup.triangles[c];
      this.nextCorner[c] = this.firstCorner[v];
      this.firstCorner[v] = c;
    }
    this.addFacePlanes();
    this.addEdgePlanes();
    this.component = new Uint32Array(vertices);
    this.componentLive = new Int32Array(this.nameComponents());
    this.componentCost = new Float64Array(this.componentLive.length);
    for (let t = 0; t < count; t++)
      this.componentLive[this.component[soup.triangles[3 * t]]]++;
    if (this.componentLive.length > 1) this.costComponents();
  }

  /** Collapses until at most `budget` triangles are left. */
  run(budget: number, hooks: CollapseHooks): void {
    const total = Math.max(1, this.live - budget);
    for (const phase of PHASES) {
      this.phase = phase;
      for (;;) {
        if (this.live <= budget) return;
        const before = this.live;
        this.seedQueue();
        this.drain(budget, total, hooks);
        if (before - this.live < 0.02 * before) break;
      }
    }
  }

  private drain(budget: number, total: number, hooks: CollapseHooks): void {
    const { queue, stamps, soup } = this;
    const start = this.live;
    let round = 0;
    while (this.live > budget && queue.pop()) {
      if ((++round & 8191) === 0) {
        hooks.check();
        hooks.progress(
          Math.min(
            1,
            1 - (this.live - budget) / Math.max(total, start - budget),
          ),
        );
      }
      const { a, b } = queue;
      if (b < 0) {
        this.dropComponent(a, budget);
        continue;
      }
      if (
        queue.stamp !== stamps[a] + stamps[b] ||
        stamps[a] < 0 ||
        stamps[b] < 0
      )
        continue;
      this.quadrics.place(a, b);
      const { x, y, z } = this.quadrics;
      if (!this.allowed(a, b, x, y, z)) continue;
      this.collapse(a, b);
      soup.positions[3 * a] = x;
      soup.positions[3 * a + 1] = y;
      soup.positions[3 * a + 2] = z;
      this.pushEdgesOf(a);
    }
  }

  private pushEdge(a: number, b: number): void {
    const cost = this.quadrics.place(a, b);
    this.queue.push(cost, a, b, this.stamps[a] + this.stamps[b]);
  }

  private seedQueue(): void {
    this.queue.clear();
    const { triangles } = this.soup;
    for (let t = 0; t < this.alive.length; t++) {
      if (!this.alive[t]) continue;
      for (let k = 0; k < 3; k++) {
        const a = triangles[3 * t + k];
        const b = triangles[3 * t + (k === 2 ? 0 : k + 1)];
        // Inner edges come twice, once from each side; one of them is enough.
        if (a < b || !this.joins(b, a, t)) this.pushEdge(a, b);
      }
    }
    for (let c = 0; c < this.componentLive.length; c++) this.offerComponent(c);
  }

  /** Whether a triangle other than `t` runs from a to b. */
  private joins(a: number, b: number, t: number): boolean {
    const { triangles } = this.soup;
    for (let c = this.firstCorner[a]; c >= 0; c = this.nextCorner[c]) {
      const other = (c / 3) | 0;
      if (other === t || !this.alive[other]) continue;
      const next = c - 3 * other === 2 ? 3 * other : c + 1;
      if (triangles[next] === b) return true;
    }
    return false;
  }

  private pushEdgesOf(a: number): void {
    const { triangles } = this.soup;
    const round = ++this.seenRound;
    for (let c = this.firstCorner[a]; c >= 0; c = this.nextCorner[c]) {
      const base = 3 * ((c / 3) | 0);
      for (let k = 0; k < 3; k++) {
        const w = triangles[base + k];
        if (w === a || this.seen[w] === round) continue;
        this.seen[w] = round;
        this.pushEdge(a, w);
      }
    }
  }

  /** Whether the edge may be collapsed to the point in this phase. */
  private allowed(
    a: number,
    b: number,
    x: number,
    y: number,
    z: number,
  ): boolean {
    if (this.phase.keepTopology && !this.linkCondition(a, b)) return false;
    return this.staysSound(a, b, x, y, z) && this.staysSound(b, a, x, y, z);
  }

  /** The ends may only share the neighbours that the faces at the edge give them (Dey et al. 1999). */
  private linkCondition(a: number, b: number): boolean {
    const { triangles } = this.soup;
    const { nextCorner, firstCorner, seen, alive } = this;
    const mine = ++this.seenRound;
    const both = ++this.seenRound;
    for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) {
      const t = (c / 3) | 0;
      if (!alive[t]) continue;
      seen[triangles[3 * t]] = mine;
      seen[triangles[3 * t + 1]] = mine;
      seen[triangles[3 * t + 2]] = mine;
    }
    seen[a] = both;
    seen[b] = both;
    let common = 0;
    let shared = 0;
    for (let c = firstCorner[b]; c >= 0; c = nextCorner[c]) {
      const t = (c / 3) | 0;
      if (!alive[t]) continue;
      for (let k = 0; k < 3; k++) {
        const w = triangles[3 * t + k];
        if (w === a) shared++;
        if (seen[w] === mine) {
          seen[w] = both;
          common++;
        }
      }
    }
    if (common !== shared || shared > 2) return false;
    if (shared === 2) {
      if (this.border[a] && this.border[b]) return false;
      return !this.isTetrahedron(a, b);
    }
    return true;
  }

  /** A tetrahedron passes the link condition, but its collapse leaves two faces back to back. */
  private isTetrahedron(a: number, b: number): boolean {
    return this.valence(a) === 3 && this.valence(b) === 3;
  }

  private valence(v: number): number {
    let count = 0;
    for (let c = this.firstCorner[v]; c >= 0; c = this.nextCorner[c])
      count += this.alive[(c / 3) | 0];
    return count;
  }

  /** Whether the faces of v that stay keep their side and their shape when v moves to the point. */
  private staysSound(
    v: number,
    gone: number,
    x: number,
    y: number,
    z: number,
  ): boolean {
    const { triangles, positions: p } = this.soup;
    const { flip, sliver } = this.phase;
    for (let c = this.firstCorner[v]; c >= 0; c = this.nextCorner[c]) {
      const t = (c / 3) | 0;
      if (!this.alive[t]) continue;
      const k = c - 3 * t;
      const i = triangles[3 * t + (k === 2 ? 0 : k + 1)];
      const j = triangles[3 * t + (k === 0 ? 2 : k - 1)];
      if (i === gone || j === gone) continue;
      const ix = p[3 * i];
      const iy = p[3 * i + 1];
      const iz = p[3 * i + 2];
      const ex = p[3 * j] - ix;
      const ey = p[3 * j + 1] - iy;
      const ez = p[3 * j + 2] - iz;
      const ux = p[3 * v] - ix;
      const uy = p[3 * v + 1] - iy;
      const uz = p[3 * v + 2] - iz;
      const wx = x - ix;
      const wy = y - iy;
      const wz = z - iz;
      const nx = ey * uz - ez * uy;
      const ny = ez * ux - ex * uz;
      const nz = ex * uy - ey * ux;
      const mx = ey * wz - ez * wy;
      const my = ez * wx - ex * wz;
      const mz = ex * wy - ey * wx;
      const old2 = nx * nx + ny * ny + nz * nz;
      const new2 = mx * mx + my * my + mz * mz;
      const dot = nx * mx + ny * my + nz * mz;
      if (dot <= flip * Math.sqrt(old2 * new2) && flip >= 0 && old2 > 0)
        return false;
      if (sliver > 0) {
        const edge = ex * ex + ey * ey + ez * ez;
        const sides =
          edge +
          wx * wx +
          wy * wy +
          wz * wz +
          (wx - ex) ** 2 +
          (wy - ey) ** 2 +
          (wz - ez) ** 2;
        const quality = (3.4641 * Math.sqrt(new2)) / sides;
        if (quality < sliver) {
          const was =
            edge +
            ux * ux +
            uy * uy +
            uz * uz +
            (ux - ex) ** 2 +
            (uy - ey) ** 2 +
            (uz - ez) ** 2;
          if (quality < (3.4641 * Math.sqrt(old2)) / was) return false;
        }
      }
    }
    return true;
  }

  /** Joins b to a: drops the faces at the edge, renames b, links the faces of both to a. */
  private collapse(a: number, b: number): void {
    const { triangles } = this.soup;
    const { nextCorner, firstCorner, alive } = this;
    let head = -1;
    let tail = -1;
    let gone = 0;
    for (let side = 0; side < 2; side++) {
      for (let c = firstCorner[side ? b : a]; c >= 0;) {
        const next = nextCorner[c];
        const t = (c / 3) | 0;
        if (alive[t]) {
          const i = triangles[3 * t];
          const j = triangles[3 * t + 1];
          const k = triangles[3 * t + 2];
          const other = side ? a : b;
          if (i === other || j === other || k === other) {
            alive[t] = 0;
            gone++;
          } else {
            triangles[c] = a;
            if (tail < 0) head = c;
            else nextCorner[tail] = c;
            tail = c;
          }
        }
        c = next;
      }
    }
    if (tail >= 0) nextCorner[tail] = -1;
    firstCorner[a] = head;
    firstCorner[b] = -1;
    this.border[a] |= this.border[b];
    this.quadrics.merge(a, b);
    this.stamps[a]++;
    this.stamps[b] = -(1 << 30);
    this.live -= gone;
    const component = this.component[a];
    const before = this.componentLive[component];
    this.componentLive[component] = before - gone;
    if (before > SMALL_COMPONENT || gone === 0) this.offerComponent(component);
  }

  private offerComponent(c: number): void {
    const left = this.componentLive[c];
    if (left > SMALL_COMPONENT || left <= 0 || this.componentLive.length === 1)
      return;
    this.queue.push((2 * this.componentCost[c]) / left, c, -1, 0);
  }

  private dropComponent(c: number, budget: number): void {
    const left = this.componentLive[c];
    if (left <= 0 || left > SMALL_COMPONENT) return;
    if (
      this.live - left < Math.floor(budget * 0.995) &&
      this.phase.keepTopology
    )
      return;
    const { triangles } = this.soup;
    for (let t = 0; t < this.alive.length; t++)
      if (this.alive[t] && this.component[triangles[3 * t]] === c)
        this.alive[t] = 0;
    this.live -= left;
    this.componentLive[c] = 0;
  }

  private addFacePlanes(): void {
    const { triangles, positions: p } = this.soup;
    for (let t = 0; t < this.alive.length; t++) {
      const a = 3 * triangles[3 * t];
      const b = 3 * triangles[3 * t + 1];
      const c = 3 * triangles[3 * t + 2];
      const ux = p[b] - p[a];
      const uy = p[b + 1] - p[a + 1];
      const uz = p[b + 2] - p[a + 2];
      const vx = p[c] - p[a];
      const vy = p[c + 1] - p[a + 1];
      const vz = p[c + 2] - p[a + 2];
      let nx = uy * vz - uz * vy;
      let ny = uz * vx - ux * vz;
      let nz = ux * vy - uy * vx;
      const double = Math.sqrt(nx * nx + ny * ny + nz * nz);
      if (!(double > 0)) continue;
      nx /= double;
      ny /= double;
      nz /= double;
      const d = -(nx * p[a] + ny * p[a + 1] + nz * p[a + 2]);
      for (let k = 0; k < 3; k++)
        this.quadrics.addPlane(triangles[3 * t + k], nx, ny, nz, d, double / 6);
    }
  }

  /** Planes upright on open borders, hard edges and edges between materials hold those lines in place. */
  private addEdgePlanes(): void {
    const { triangles, material, hard } = this.soup;
    for (let t = 0; t < this.alive.length; t++)
      for (let k = 0; k < 3; k++) {
        const a = triangles[3 * t + k];
        const b = triangles[3 * t + ((k + 1) % 3)];
        let uses = 0;
        let parted = hard[3 * t + k] !== 0;
        for (let c = this.firstCorner[a]; c >= 0; c = this.nextCorner[c]) {
          const other = (c / 3) | 0;
          const i = 3 * other;
          if (
            triangles[i] !== b &&
            triangles[i + 1] !== b &&
            triangles[i + 2] !== b
          )
            continue;
          uses++;
          if (material[other] !== material[t]) parted = true;
        }
        if (uses === 1) {
          this.border[a] = this.border[b] = 1;
          this.addUpright(t, a, b, BORDER_WEIGHT);
        } else if (uses > 2 || parted) this.addUpright(t, a, b, CREASE_WEIGHT);
      }
  }

  private addUpright(t: number, a: number, b: number, weight: number): void {
    const { triangles, positions: p } = this.soup;
    const c =
      triangles[3 * t] + triangles[3 * t + 1] + triangles[3 * t + 2] - a - b;
    const e = [0, 1, 2].map((k) => p[3 * b + k] - p[3 * a + k]);
    const s = [0, 1, 2].map((k) => p[3 * c + k] - p[3 * a + k]);
    const length2 = e[0] ** 2 + e[1] ** 2 + e[2] ** 2;
    if (!(length2 > 0)) return;
    // The part of the side that is square to the edge is the plane's normal.
    const along = (s[0] * e[0] + s[1] * e[1] + s[2] * e[2]) / length2;
    const n = [0, 1, 2].map((k) => s[k] - along * e[k]);
    const size = Math.hypot(n[0], n[1], n[2]);
    if (!(size > 0)) return;
    const [x, y, z] = n.map((value) => value / size);
    const d = -(x * p[3 * a] + y * p[3 * a + 1] + z * p[3 * a + 2]);
    this.quadrics.addPlane(a, x, y, z, d, (weight * length2) / 2);
    this.quadrics.addPlane(b, x, y, z, d, (weight * length2) / 2);
  }

  /** Numbers the vertices by component; returns how many components there are. */
  private nameComponents(): number {
    const { triangles } = this.soup;
    const { component, firstCorner, nextCorner } = this;
    component.fill(0xffffffff);
    const stack: number[] = [];
    let count = 0;
    for (let v = 0; v < component.length; v++) {
      if (component[v] !== 0xffffffff || firstCorner[v] < 0) continue;
      component[v] = count;
      stack.push(v);
      while (stack.length) {
        const at = stack.pop()!;
        for (let c = firstCorner[at]; c >= 0; c = nextCorner[c]) {
          const base = 3 * ((c / 3) | 0);
          for (let k = 0; k < 3; k++) {
            const w = triangles[base + k];
            if (component[w] !== 0xffffffff) continue;
            component[w] = count;
            stack.push(w);
          }
        }
      }
      count++;
    }
    return count;
  }

  /** What giving up each component would cost: area × mean squared distance to the other components. */
  private costComponents(): void {
    const { triangles, positions, owner } = this.soup;
    const points = new Float32Array(positions);
    const count = owner.length;
    const componentOf = new Uint32Array(count);
    const tally = new Uint32Array(this.componentLive.length);
    for (let t = 0; t < count; t++)
      tally[(componentOf[t] = this.component[triangles[3 * t]])]++;
    const closest = new ClosestPoint(buildBvh(points, triangles), componentOf);
    const area = new Float64Array(tally.length);
    const sum = new Float64Array(tally.length);
    const taken = new Float64Array(tally.length);
    const turn = new Uint32Array(tally.length);
    for (let t = 0; t < count; t++) {
      const c = componentOf[t];
      const size = this.areaOf(t);
      area[c] += size;
      if (turn[c]++ % Math.ceil(tally[c] / 24)) continue;
      const v = 3 * triangles[3 * t];
      closest.find(
        positions[v],
        positions[v + 1],
        positions[v + 2],
        Infinity,
        c,
      );
      sum[c] += size * Math.min(closest.distance2, 1e12);
      taken[c] += size;
    }
    for (let c = 0; c < tally.length; c++)
      this.componentCost[c] = taken[c] > 0 ? (area[c] * sum[c]) / taken[c] : 0;
  }

  private areaOf(t: number): number {
    const { triangles, positions: p } = this.soup;
    const a = 3 * triangles[3 * t];
    const b = 3 * triangles[3 * t + 1];
    const c = 3 * triangles[3 * t + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    return (
      Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2
    );
  }
}
