import { outlineShares } from "../space/outline";
import { triangleArea } from "../space/sample";
import { BucketQueue } from "../base/bucket-queue";
import { cheapest } from "./cheapest";
import { LAST, LEVELS } from "./collapse-levels";
import type { CollapseHooks, CollapseOptions } from "./collapse-options";
import type { CollapseRecord } from "./collapse-record";
import { RecordWriter } from "./collapse-record";
import { EdgeCollapses } from "./edge-collapses";
import type { Soup } from "./soup";
import { trianglesOf } from "./soup";

/** The level of a queued edge is kept above the number of its second vertex. */
const LEVEL_SHIFT = 28;
const VERTEX = (1 << LEVEL_SHIFT) - 1;

/** How the distance of the last collapses fades with each one that goes less far. */
const FADE = 0.9995;

/** From this many triangles on, this many times the goal or this many more, every collapse goes through the queue. */
const QUEUE_FROM = 24_000;
const QUEUE_TIMES = 5;
const QUEUE_MORE = 100_000;

/**
 * Where passes stall with more triangles than this left, they go on with what they refused, penalised. With fewer the queue
 * takes over, which finds a better order: a crate of planks at 500 triangles came out 0.60 × the simplifier's rms that
 * way, and 0.82 × by passes.
 */
const STALLS_FROM = 150_000;
/** A pass that takes a smaller share of the triangles has stalled. */
const STALLED = 0.1;

/** Share of all edges that a pass may take at most: those that cost least. */
const PASS_SHARE = 0.35;

/** What lies on the outline from everywhere is so many times as dear. */
const OUTLINE_TIMES = 24;

/**
 * Quadric edge collapse of a triangle soup, in place.
 *
 * Garland and Heckbert 1997, with area-weighted quadrics, optimal placement held to the edge's middle along
 * free directions, border and crease planes, the link condition of Dey et al. 1999, and checks on turned and
 * thin triangles. A component that has become small competes as a whole: giving it up costs its area times the
 * mean squared distance to what would be left.
 *
 * Far above the goal it goes in passes: all edges are costed in order of memory, the cheapest third sorted, and
 * those collapsed whose ends no collapse of the pass has touched; the arrays are packed after each. Near the goal
 * every collapse goes through a queue. Costs only change for edges at the merged vertex, so a stamp a vertex
 * tells whether a queued edge is still true. Faces round a vertex are linked lists through the corners; that
 * holds for any soup, manifold or not. See docs/measuring.md for what else was tried.
 */
export class Collapser {
  private readonly work: EdgeCollapses;
  private queue: BucketQueue | null = null;
  private readonly visitStamp: Int32Array;
  private visits = 0;
  private passStamp = 0;
  /** The largest mean squared distance that the last collapses came to, metres². */
  private reached2 = 0;
  /** Components and what they are worth that wait until an edge that costs more has gone. */
  private waiting: number[] = [];
  private readonly start: number;
  /** By mesh, metres². */
  private readonly area: Float64Array;
  private levels = LEVELS;

  /** @param soup is changed: packed as it goes */
  constructor(
    private readonly soup: Soup,
    meshes: number,
    private readonly options: CollapseOptions = {},
  ) {
    this.work = new EdgeCollapses(soup, options);
    this.start = this.work.live;
    this.visitStamp = new Int32Array(soup.positions.length / 3);
    this.area = new Float64Array(meshes);
    for (let t = 0; t < soup.owner.length; t++)
      this.area[soup.owner[t]] += triangleArea(
        soup.positions,
        soup.triangles,
        t,
      );
  }

  /** Triangles left. */
  get live(): number {
    return this.work.live;
  }

  /** Collapses until at most `budget` triangles are left. */
  run(budget: number, hooks: CollapseHooks): void {
    this.goDown(queueFrom(budget), budget, hooks);
    this.settle(budget, budget, hooks);
  }

  /**
   * Collapses down to `from` triangles, then on to the last ones and records every step on the way.
   * @param budget the count that matters most: from five times as many on, every step is taken in order
   */
  record(from: number, budget: number, hooks: CollapseHooks): CollapseRecord {
    const { soup } = this;
    const before = trianglesOf(soup, this.area.length);
    this.goDown(from, budget, hooks);
    const now = trianglesOf(soup, this.area.length);
    const nameOf = new Int32Array(soup.positions.length / 3).fill(-1);
    const vertices = new Uint32Array(
      Math.min(nameOf.length, 3 * this.work.live),
    );
    let named = 0;
    const errors = new Float64Array(this.area.length);
    for (let c = 0; c < soup.triangles.length; c++) {
      const v = soup.triangles[c];
      if (nameOf[v] >= 0) continue;
      nameOf[v] = named;
      vertices[named++] = v;
      errors[soup.owner[(c / 3) | 0]] += this.work.quadrics.errorAt(v);
    }
    this.work.writer = new RecordWriter(
      soup,
      nameOf,
      vertices.subarray(0, named),
      this.work.pieces.live.length,
      errors,
    );
    this.work.baseOf = new Uint32Array(this.work.live).map((_, t) => t);
    this.goDown(queueFrom(budget), budget, hooks);
    this.settle(0, budget, hooks);
    return this.work.writer.finish(
      this.area,
      Uint8Array.from(before, (n, m) => (now[m] < n ? 1 : 0)),
    );
  }

  /** Collapses in passes while that is far from done. */
  private goDown(goal: number, budget: number, hooks: CollapseHooks): void {
    if (this.work.live <= 1.02 * goal) return;
    this.work.costs = new Float32Array(3 * this.work.live).fill(NaN);
    this.work.levelOf = new Uint8Array(3 * this.work.live);
    let stalled = false;
    let idle = 0;
    while (this.work.live > 1.02 * goal) {
      hooks.check();
      hooks.progress(this.shareOfWay(budget));
      const gone = this.pass(goal, stalled);
      this.work.pack();
      idle = gone < 0.01 * this.work.live ? idle + 1 : 0;
      stalled ||=
        this.work.live > STALLS_FROM && gone < STALLED * this.work.live;
      // What comes back penalised is asked about a pass later, once a level.
      if (idle > (stalled ? LEVELS.length : 0)) break;
    }
    this.work.costs = null;
    this.work.levelOf = new Uint8Array(0);
  }

  /** Collapses by the queue, phase after phase. */
  private settle(goal: number, budget: number, hooks: CollapseHooks): void {
    this.weighOutline();
    this.queue ??= new BucketQueue(this.work.live * 4 + 16);
    this.work.pieces.weigh();
    for (const levels of [LEVELS, [LAST[0]], [LAST[1]]]) {
      this.levels = levels;
      this.work.considerate = levels === LEVELS;
      for (;;) {
        if (this.work.live <= goal) return this.work.pack();
        const before = this.work.live;
        this.seedQueue();
        this.drain(goal, budget, hooks);
        // Where nothing is left there is nothing to gain either.
        if (before - this.work.live <= 0.02 * before) break;
      }
    }
    this.work.pack();
  }

  /** Late, as the outline of a light mesh is that of the dense one, and an edge costs what both its ends do. */
  private weighOutline(): void {
    const { outline } = this.options;
    if (!outline || !(outline.weight > 0) || this.queue) return;
    const { soup } = this;
    const { quadrics } = this.work;
    const shares = outlineShares(
      Float32Array.from(soup.positions),
      soup.triangles,
      outline.from,
    );
    const used = new Uint8Array(shares.length);
    for (const v of soup.triangles) used[v] = 1;
    for (let v = 0; v < shares.length; v++)
      if (used[v])
        quadrics.scale(v, 1 + OUTLINE_TIMES * outline.weight * shares[v]);
  }

  private shareOfWay(budget: number): number {
    const start = Math.max(this.start, budget + 1);
    return Math.min(
      1,
      Math.log(start / Math.max(1, this.work.live)) /
        Math.log(start / Math.max(1, budget)),
    );
  }

  /**
   * Takes the cheapest edges whose ends nothing has touched yet; returns how many triangles went.
   * @param stalled whether edges that are refused come back penalised: they would be the cheapest again in every pass, and
   *   crowd out what can go
   */
  private pass(goal: number, stalled: boolean): number {
    const { soup } = this;
    const { stamps } = this.work;
    const { triangles } = soup;
    const before = this.work.live;
    const known = this.work.costs!;
    const { levelOf } = this.work;
    const corners = 3 * before;
    for (let c = 0; c < corners; c++) {
      if (known[c] === known[c]) continue;
      levelOf[c] = 0;
      const a = triangles[c];
      const b = triangles[c % 3 === 2 ? c - 2 : c + 1];
      // Inner edges come twice, once from each side; one of them is enough.
      const twin =
        a > b &&
        (!(this.work.border[a] && this.work.border[b]) ||
          this.work.joins(b, a, (c / 3) | 0));
      known[c] = twin ? Infinity : this.work.quadrics.place(a, b);
    }
    const order = cheapest(
      known,
      corners,
      Math.ceil(1.5 * before * PASS_SHARE),
    );
    const stamp = ++this.passStamp;
    for (const c of order) {
      const a = triangles[c];
      const b = triangles[c % 3 === 2 ? c - 2 : c + 1];
      if (!this.work.alive[(c / 3) | 0] || known[c] === Infinity) continue;
      if (stamps[a] === stamp || stamps[b] === stamp || stamps[b] < 0) continue;
      if (stamps[a] < 0) continue;
      const cost = this.work.place(a, b);
      const { x, y, z, spread, area } = this.work.quadrics;
      if (!this.work.allowed(a, b, x, y, z, LEVELS[levelOf[c]])) {
        if (!stalled) continue;
        const next = this.work.misshaped ? LEVELS[++levelOf[c]] : undefined;
        known[c] = next
          ? this.work.pieces.penalised(a, cost, spread, area, next)
          : Infinity;
        continue;
      }
      this.collapse(a, b, x, y, z, cost);
      stamps[a] = stamp;
      if (this.work.live <= goal) break;
    }
    return before - this.work.live;
  }

  private drain(goal: number, budget: number, hooks: CollapseHooks): void {
    const { levels } = this;
    const { stamps } = this.work;
    const queue = this.queue!;
    let round = 0;
    while (this.work.live > goal && queue.pop()) {
      if ((++round & 8191) === 0) {
        hooks.check();
        hooks.progress(this.shareOfWay(budget));
      }
      const { a } = queue;
      if (queue.b < 0) {
        const removalCost = this.work.pieces.removalCost(a, this.reached2);
        if (this.work.considerate && removalCost > 1.05 * queue.cost)
          queue.push(removalCost, a, -1, 0);
        else if (this.work.considerate) this.waiting.push(a, queue.cost);
        else this.dropComponent(a, queue.cost, goal);
        continue;
      }
      const b = queue.b & VERTEX;
      const level = queue.b >> LEVEL_SHIFT;
      if (
        queue.stamp !== stamps[a] + stamps[b] ||
        stamps[a] < 0 ||
        stamps[b] < 0
      )
        continue;
      const cost = this.work.place(a, b);
      const { x, y, z, spread, area } = this.work.quadrics;
      if (!this.work.allowed(a, b, x, y, z, levels[level])) {
        const next = levels[level + 1];
        if (this.work.misshaped && next)
          queue.push(
            this.work.pieces.penalised(a, cost, spread, area, next),
            a,
            b | ((level + 1) << LEVEL_SHIFT),
            queue.stamp,
          );
        continue;
      }
      this.reached2 = Math.max(
        FADE * this.reached2,
        this.work.quadrics.distance2(a, b, cost),
      );
      this.collapse(a, b, x, y, z, cost);
      this.pushEdgesOf(a);
      while (this.waiting.length && this.waiting[1] <= queue.cost) {
        const [component, worth] = this.waiting.splice(0, 2);
        this.dropComponent(component, worth, goal);
      }
    }
  }

  private pushEdge(a: number, b: number): void {
    const cost = this.work.place(a, b);
    this.queue!.push(cost, a, b, this.work.stamps[a] + this.work.stamps[b]);
  }

  private seedQueue(): void {
    this.queue!.clear();
    this.waiting = [];
    const { triangles } = this.soup;
    for (let t = 0; t < this.work.alive.length; t++) {
      if (!this.work.alive[t]) continue;
      for (let k = 0; k < 3; k++) {
        const a = triangles[3 * t + k];
        const b = triangles[3 * t + (k === 2 ? 0 : k + 1)];
        // Inner edges come twice, once from each side; one of them is enough.
        if (a < b || !this.work.joins(b, a, t)) this.pushEdge(a, b);
      }
    }
    for (let c = 0; c < this.work.pieces.live.length; c++)
      this.offerComponent(c);
  }

  private pushEdgesOf(a: number): void {
    const { triangles } = this.soup;
    const round = ++this.visits;
    for (
      let c = this.work.firstCorner[a];
      c >= 0;
      c = this.work.nextCorner[c]
    ) {
      const base = 3 * ((c / 3) | 0);
      for (let k = 0; k < 3; k++) {
        const w = triangles[base + k];
        if (w === a || this.visitStamp[w] === round) continue;
        this.visitStamp[w] = round;
        this.pushEdge(a, w);
      }
    }
  }

  private collapse(
    a: number,
    b: number,
    x: number,
    y: number,
    z: number,
    cost: number,
  ): void {
    const { pieces } = this.work;
    const component = pieces.of[a];
    const gone = this.work.collapse(a, b, x, y, z, cost);
    const before = pieces.live[component] + gone;
    if (before > pieces.droppedFrom(component) || gone === 0)
      this.offerComponent(component);
  }

  private offerComponent(c: number): void {
    const left = this.work.pieces.live[c];
    if (this.options.keepsPieces) return;
    if (!this.queue || left > this.work.pieces.droppedFrom(c) || left <= 0)
      return;
    if (this.work.pieces.live.length === 1) return;
    this.queue.push(this.work.pieces.leastRemovalCost(c), c, -1, 0);
  }

  private dropComponent(c: number, cost: number, budget: number): void {
    const left = this.work.pieces.live[c];
    if (left <= 0 || left > this.work.pieces.droppedFrom(c)) return;
    if (
      this.work.live - left < Math.floor(budget * 0.995) &&
      this.work.considerate
    )
      return;
    this.work.dropComponent(c, cost);
  }
}

const queueFrom = (budget: number) =>
  Math.max(QUEUE_FROM, Math.min(QUEUE_TIMES * budget, budget + QUEUE_MORE));
