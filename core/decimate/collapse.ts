import type { Side } from "../space/directions";
import { outlineShares } from "../space/outline";
import { triangleArea } from "../space/sample";
import { BucketQueue } from "../base/bucket-queue";
import { costComponents, nameComponents } from "./collapse-components";
import { CollapseTopology } from "./collapse-topology";
import type { CollapseWeights } from "./collapse-planes";
import {
  addEdgePlanes,
  addFacePlanes,
  DEFAULT_WEIGHTS,
} from "./collapse-planes";
import type { CollapseRecord } from "./collapse-record";
import { RecordWriter } from "./collapse-record";
import { FaceSides } from "./face-sides";
import { Quadrics } from "./quadrics";
import type { Soup } from "./soup";
import { qualityOf, SLIVER } from "../mesh/triangle-shape";

interface Level {
  flip: number;
  sliver: number;
  times: number;
  spread: number;
  /** The same where components have few triangles left. */
  few?: { times: number; spread: number };
}

/**
 * How far a collapse may go. An edge that is refused comes back with the next level, penalised: `times` its cost
 * and `spread` times the area at the edge × its squared length. So thin and steep triangles are made where
 * everything else would cost more, and nowhere else. Pieces of few triangles are nearly their own boxes: their
 * sides are as thin as they are, and to even them out would cost more shape than it is worth.
 */
const LEVELS: Level[] = [
  { flip: 0.25, sliver: 0.15, times: 1, spread: 0 },
  {
    flip: 0.25,
    sliver: 0.03,
    times: 4,
    spread: 5e-4,
    few: { times: 2, spread: 5e-6 },
  },
  {
    flip: 0,
    sliver: 0,
    times: 16,
    spread: 5e-3,
    few: { times: 4, spread: 5e-5 },
  },
];
/**
 * What is allowed where nothing else leads to the budget: holes of three edges close, and pieces go. Even then no
 * surfaces are joined and nothing opens.
 */
const LAST: Level[] = [
  { flip: 0, sliver: 0, times: 1, spread: 0 },
  { flip: -1, sliver: 0, times: 1, spread: 0 },
];

/** A component has few triangles up to here, and many from here on. */
const FEW = 24;
const MANY = 90;

/** The level of a queued edge is kept above the number of its second vertex. */
const LEVEL_SHIFT = 28;
const VERTEX = (1 << LEVEL_SHIFT) - 1;

/** Components with this many triangles left may be given up whole; those worth next to nothing with so many. */
const SMALL_COMPONENT = 24;
const WORTHLESS_COMPONENT = 50_000;
const WORTHLESS = 1e-4;

/** A closed piece with fewer triangles is a shard: it goes whole, unless it came with so few. */
const FEWEST_CLOSED = 6;

/**
 * A piece that goes is missed so many times as much as its distance to what is left says: it leaves a gap. Where
 * it is farther from what is left than the last collapses went, its gap would be the largest distance of all: then
 * it is missed more, by that ratio to this power, up to a ratio of `GAP_MOST`.
 */
const MISSED = 6;
const GAP_POWER = 8;
const GAP_MOST = 1.5;
/** How the distance of the last collapses fades with each one that goes less far. */
const FADE = 0.9995;

/**
 * A thin triangle is worth no more than being this share of the whole size off: where shape costs more than that,
 * it goes first. Where a component came in slivers already, as flat sides of CAD do, it is worth less: `SHAPE_FADED`
 * from a share of `ALL_THIN` on.
 */
const SHAPE_FIRST = 3e-3;
const SHAPE_FADED = 1e-4;
const ALL_THIN = 0.3;

/** No triangle is made thinner than this. */
const NO_AREA = 1e-5;

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

/** Turning normals cost as much as being this share of the whole size off. */
const TURN_REACH = 0.005;

export interface CollapseHooks {
  progress(share: number): void;
  check(): void;
}

export interface CollapseOptions {
  weights?: Partial<CollapseWeights>;
  /** triangleCount: how dear the shape of each triangle is, 1 where nobody said. */
  faceWeight?: Float32Array | null;
  /** triangleCount: 1 for triangles that stay as they are while anything else can go. */
  locked?: Uint8Array | null;
  /** Holds vertices that lie in a plane n·x = d (about the soup's centre) in it. */
  mirror?: { normal: readonly [number, number, number]; d: number } | null;
  /** Gives up no component whole. */
  keepsPieces?: boolean;
  /** How much dearer what shows on the outline is, and from where it is looked at. */
  outline?: { weight: number; from: Side } | null;
}

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
  alive: Uint8Array;
  live: number;
  private readonly weights: CollapseWeights;
  private readonly quadrics: Quadrics;
  private queue: BucketQueue | null = null;
  readonly firstCorner: Int32Array;
  readonly nextCorner: Int32Array;
  private readonly stamps: Int32Array;
  private readonly topology: CollapseTopology;
  private readonly seen: Int32Array;
  private seenRound = 0;
  private passStamp = 0;
  /** The largest mean squared distance that the last collapses came to, metres². */
  private reached2 = 0;
  /** Components and what they are worth that wait until an edge that costs more has gone. */
  private waiting: number[] = [];
  /** By component: the squared distance that a thin triangle is worth at most, metres². */
  private readonly far2: Float64Array;
  private readonly start: number;
  readonly border: Uint8Array;
  /** Which way the surface faces where a triangle is too thin to say. */
  private readonly sides: FaceSides;
  private readonly inMirror: Uint8Array | null;
  /** vertexCount: 1 at triangles that are left as they are. */
  private readonly locked: Uint8Array | null;
  private readonly component: Uint32Array;
  private readonly componentLive: Int32Array;
  /** 1 for components without a border. */
  private readonly closed: Uint8Array;
  /** What the shape of each component is worth, 1 where nobody said. */
  private readonly componentWorth: Float64Array;
  private componentCost: Float64Array | null = null;
  private componentArea: Float64Array = new Float64Array(0);
  private readonly area: Float64Array;
  private levels = LEVELS;
  /** Whether what is to be left as it is still is, and components are kept that lead far below the budget. */
  private considerate = true;
  /** Whether the last edge asked about was refused for its shape, and may come again. */
  private misshaped = false;
  private writer: RecordWriter | null = null;
  /** 3 × triangleCount, during passes: the cost of the edge from each corner, NaN where it has to be found. */
  private costs: Float32Array | null = null;
  /** The same: the level at which each edge is asked about next. */
  private levelOf = new Uint8Array(0);
  /** Triangles of the record's base by present number, while one is written. */
  private baseOf: Uint32Array | null = null;

  /** @param soup is changed: packed as it goes */
  constructor(
    private readonly soup: Soup,
    meshes: number,
    private readonly options: CollapseOptions = {},
  ) {
    this.weights = { ...DEFAULT_WEIGHTS, ...options.weights };
    const vertices = soup.positions.length / 3;
    const count = soup.owner.length;
    const reach = reachOf(soup);
    this.alive = new Uint8Array(count).fill(1);
    this.live = count;
    this.start = count;
    this.quadrics = new Quadrics(vertices, soup.positions, {
      evenness: this.weights.evenness,
      turnCost: this.weights.normals * (TURN_REACH * reach) ** 2,
    });
    this.firstCorner = new Int32Array(vertices);
    this.nextCorner = new Int32Array(3 * count);
    this.stamps = new Int32Array(vertices);
    this.seen = new Int32Array(vertices);
    this.border = new Uint8Array(vertices);
    this.linkCorners();
    this.sides = new FaceSides(soup, this);
    this.topology = new CollapseTopology(soup, this);
    addFacePlanes(soup, this.quadrics, options.faceWeight ?? null);
    addEdgePlanes(
      soup,
      this.quadrics,
      this,
      this.weights,
      this.border,
      options.faceWeight ?? null,
    );
    this.inMirror = this.findMirrored();
    this.locked = options.locked ? new Uint8Array(vertices) : null;
    if (this.locked)
      for (let c = 0; c < soup.triangles.length; c++)
        this.locked[soup.triangles[c]] |= options.locked![(c / 3) | 0];
    this.component = new Uint32Array(vertices);
    this.componentLive = new Int32Array(
      nameComponents(soup, this, this.component),
    );
    this.closed = new Uint8Array(this.componentLive.length).fill(1);
    for (let v = 0; v < vertices; v++)
      if (this.border[v]) this.closed[this.component[v]] = 0;
    this.componentWorth = new Float64Array(this.componentLive.length);
    this.far2 = new Float64Array(this.componentLive.length);
    for (let t = 0; t < count; t++) {
      const c = this.component[soup.triangles[3 * t]];
      this.componentLive[c]++;
      this.componentWorth[c] += options.faceWeight?.[t] ?? 1;
      if (qualityOf(soup.positions, soup.triangles, t) < SLIVER) this.far2[c]++;
    }
    this.far2.forEach((thin, c) => {
      const faded = Math.min(1, thin / (ALL_THIN * this.componentLive[c]));
      this.far2[c] =
        (2 * reach * SHAPE_FIRST * (SHAPE_FADED / SHAPE_FIRST) ** faded) ** 2;
    });
    this.componentWorth.forEach(
      (sum, c) => (this.componentWorth[c] = sum / this.componentLive[c]),
    );
    this.area = new Float64Array(meshes);
    for (let t = 0; t < count; t++)
      this.area[soup.owner[t]] += triangleArea(
        soup.positions,
        soup.triangles,
        t,
      );
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
    const vertices = new Uint32Array(Math.min(nameOf.length, 3 * this.live));
    let named = 0;
    const errors = new Float64Array(this.area.length);
    for (let c = 0; c < soup.triangles.length; c++) {
      const v = soup.triangles[c];
      if (nameOf[v] >= 0) continue;
      nameOf[v] = named;
      vertices[named++] = v;
      errors[soup.owner[(c / 3) | 0]] += this.quadrics.errorAt(v);
    }
    this.writer = new RecordWriter(
      soup,
      nameOf,
      vertices.subarray(0, named),
      this.componentLive.length,
      errors,
    );
    this.baseOf = new Uint32Array(this.live).map((_, t) => t);
    this.goDown(queueFrom(budget), budget, hooks);
    this.settle(0, budget, hooks);
    return this.writer.finish(
      this.area,
      Uint8Array.from(before, (n, m) => (now[m] < n ? 1 : 0)),
    );
  }

  /** Collapses in passes while that is far from done. */
  private goDown(goal: number, budget: number, hooks: CollapseHooks): void {
    if (this.live <= 1.02 * goal) return;
    this.costs = new Float32Array(3 * this.live).fill(NaN);
    this.levelOf = new Uint8Array(3 * this.live);
    let stalled = false;
    let idle = 0;
    while (this.live > 1.02 * goal) {
      hooks.check();
      hooks.progress(this.shareOfWay(budget));
      const gone = this.pass(goal, stalled);
      this.pack();
      idle = gone < 0.01 * this.live ? idle + 1 : 0;
      stalled ||= this.live > STALLS_FROM && gone < STALLED * this.live;
      // What comes back penalised is asked about a pass later, once a level.
      if (idle > (stalled ? LEVELS.length : 0)) break;
    }
    this.costs = null;
    this.levelOf = new Uint8Array(0);
  }

  /** Collapses by the queue, phase after phase. */
  private settle(goal: number, budget: number, hooks: CollapseHooks): void {
    this.weighOutline();
    this.queue ??= new BucketQueue(this.live * 4 + 16);
    // Late, where the mesh is light already: what a component is worth hardly changes on the way.
    if (!this.componentCost) {
      const worth = costComponents(
        this.soup,
        this.component,
        this.componentLive,
      );
      this.componentCost = worth.cost.map(
        (cost, c) => cost * this.componentWorth[c],
      );
      this.componentArea = worth.area;
    }
    for (const levels of [LEVELS, [LAST[0]], [LAST[1]]]) {
      this.levels = levels;
      this.considerate = levels === LEVELS;
      for (;;) {
        if (this.live <= goal) return this.pack();
        const before = this.live;
        this.seedQueue();
        this.drain(goal, budget, hooks);
        // Where nothing is left there is nothing to gain either.
        if (before - this.live <= 0.02 * before) break;
      }
    }
    this.pack();
  }

  /** Late, as the outline of a light mesh is that of the dense one, and an edge costs what both its ends do. */
  private weighOutline(): void {
    const { outline } = this.options;
    if (!outline || !(outline.weight > 0) || this.queue) return;
    const { soup, quadrics } = this;
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
      Math.log(start / Math.max(1, this.live)) /
        Math.log(start / Math.max(1, budget)),
    );
  }

  /**
   * Takes the cheapest edges whose ends nothing has touched yet; returns how many triangles went.
   * @param stalled whether edges that are refused come back penalised: they would be the cheapest again in every pass, and
   *   crowd out what can go
   */
  private pass(goal: number, stalled: boolean): number {
    const { soup, stamps } = this;
    const { triangles } = soup;
    const before = this.live;
    const known = this.costs!;
    const { levelOf } = this;
    const corners = 3 * before;
    for (let c = 0; c < corners; c++) {
      if (known[c] === known[c]) continue;
      levelOf[c] = 0;
      const a = triangles[c];
      const b = triangles[c % 3 === 2 ? c - 2 : c + 1];
      // Inner edges come twice, once from each side; one of them is enough.
      const twin =
        a > b &&
        (!(this.border[a] && this.border[b]) || this.joins(b, a, (c / 3) | 0));
      known[c] = twin ? Infinity : this.quadrics.place(a, b);
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
      if (!this.alive[(c / 3) | 0] || known[c] === Infinity) continue;
      if (stamps[a] === stamp || stamps[b] === stamp || stamps[b] < 0) continue;
      if (stamps[a] < 0) continue;
      const cost = this.place(a, b);
      const { x, y, z, spread, area } = this.quadrics;
      if (!this.allowed(a, b, x, y, z, LEVELS[levelOf[c]])) {
        if (!stalled) continue;
        const next = this.misshaped ? LEVELS[++levelOf[c]] : undefined;
        known[c] = next
          ? this.penalised(a, cost, spread, area, next)
          : Infinity;
        continue;
      }
      this.collapse(a, b, x, y, z, cost);
      stamps[a] = stamp;
      if (this.live <= goal) break;
    }
    return before - this.live;
  }

  /** Drops the triangles that went from the arrays, in order, and links the corners anew. */
  private pack(): void {
    const { soup, alive, baseOf, costs, levelOf } = this;
    const { triangles, owner, face, material, id } = soup;
    let at = 0;
    for (let t = 0; t < alive.length; t++) {
      if (!alive[t]) continue;
      if (at !== t) {
        triangles[3 * at] = triangles[3 * t];
        triangles[3 * at + 1] = triangles[3 * t + 1];
        triangles[3 * at + 2] = triangles[3 * t + 2];
        owner[at] = owner[t];
        face[at] = face[t];
        material[at] = material[t];
        id[at] = id[t];
        if (costs) {
          costs[3 * at] = costs[3 * t];
          costs[3 * at + 1] = costs[3 * t + 1];
          costs[3 * at + 2] = costs[3 * t + 2];
          levelOf[3 * at] = levelOf[3 * t];
          levelOf[3 * at + 1] = levelOf[3 * t + 1];
          levelOf[3 * at + 2] = levelOf[3 * t + 2];
        }
        if (baseOf) baseOf[at] = baseOf[t];
        this.sides.move(t, at);
      }
      at++;
    }
    soup.triangles = triangles.subarray(0, 3 * at);
    soup.owner = owner.subarray(0, at);
    soup.face = face.subarray(0, at);
    soup.material = material.subarray(0, at);
    soup.id = id.subarray(0, at);
    this.alive = alive.subarray(0, at).fill(1);
    this.linkCorners();
  }

  private linkCorners(): void {
    const { triangles } = this.soup;
    const { firstCorner, nextCorner } = this;
    firstCorner.fill(-1);
    for (let c = triangles.length - 1; c >= 0; c--) {
      const v = triangles[c];
      nextCorner[c] = firstCorner[v];
      firstCorner[v] = c;
    }
  }

  private drain(goal: number, budget: number, hooks: CollapseHooks): void {
    const { stamps, levels } = this;
    const queue = this.queue!;
    let round = 0;
    while (this.live > goal && queue.pop()) {
      if ((++round & 8191) === 0) {
        hooks.check();
        hooks.progress(this.shareOfWay(budget));
      }
      const { a } = queue;
      if (queue.b < 0) {
        const removalCost = this.missed(a);
        if (this.considerate && removalCost > 1.05 * queue.cost)
          queue.push(removalCost, a, -1, 0);
        else if (this.considerate) this.waiting.push(a, queue.cost);
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
      const cost = this.place(a, b);
      const { x, y, z, spread, area } = this.quadrics;
      if (!this.allowed(a, b, x, y, z, levels[level])) {
        const next = levels[level + 1];
        if (this.misshaped && next)
          queue.push(
            this.penalised(a, cost, spread, area, next),
            a,
            b | ((level + 1) << LEVEL_SHIFT),
            queue.stamp,
          );
        continue;
      }
      this.reached2 = Math.max(
        FADE * this.reached2,
        this.quadrics.distance2(a, b, cost),
      );
      this.collapse(a, b, x, y, z, cost);
      this.pushEdgesOf(a);
      while (this.waiting.length && this.waiting[1] <= queue.cost) {
        const [component, worth] = this.waiting.splice(0, 2);
        this.dropComponent(component, worth, goal);
      }
    }
  }

  /** What giving up a component costs for each triangle, after what the last collapses came to. */
  private missed(c: number): number {
    const cost = this.componentCost![c];
    const far2 = cost / (this.componentArea[c] * this.reached2 || 1e-300);
    const ratio = Math.min(GAP_MOST, Math.max(1, Math.sqrt(far2)));
    return (
      (MISSED * ratio ** GAP_POWER * cost) / Math.max(1, this.componentLive[c])
    );
  }

  /** What an edge costs at a level that it was refused below. */
  private penalised(
    a: number,
    cost: number,
    spread: number,
    area: number,
    level: Level,
  ) {
    const { few, times, spread: most } = level;
    const component = this.component[a];
    const most2 = area * this.far2[component];
    const price = (share: number) => Math.min(share * spread, most2);
    const own = this.componentLive[component];
    if (!few || own >= MANY) return times * cost + price(most);
    const many = Math.max(0, (own - FEW) / (MANY - FEW));
    const mix = (low: number, high: number) => low * (high / low) ** many;
    return mix(few.times, times) * cost + price(mix(few.spread, most));
  }

  /** Places the edge; where an end lies in the mirror plane, the place does too. */
  private place(a: number, b: number): number {
    const cost = this.quadrics.place(a, b);
    if (!this.inMirror || !(this.inMirror[a] || this.inMirror[b])) return cost;
    const { normal, d } = this.options.mirror!;
    const q = this.quadrics;
    const off = normal[0] * q.x + normal[1] * q.y + normal[2] * q.z - d;
    q.x -= off * normal[0];
    q.y -= off * normal[1];
    q.z -= off * normal[2];
    return q.costThere(a, b);
  }

  private findMirrored(): Uint8Array | null {
    const mirror = this.options.mirror;
    if (!mirror) return null;
    const { positions: p } = this.soup;
    const found = new Uint8Array(p.length / 3);
    const size = reachOf(this.soup);
    const [x, y, z] = mirror.normal;
    for (let v = 0; v < found.length; v++) {
      const off = x * p[3 * v] + y * p[3 * v + 1] + z * p[3 * v + 2] - mirror.d;
      if (this.border[v] && Math.abs(off) < 1e-6 * size) found[v] = 1;
    }
    return found;
  }

  private pushEdge(a: number, b: number): void {
    const cost = this.place(a, b);
    this.queue!.push(cost, a, b, this.stamps[a] + this.stamps[b]);
  }

  private seedQueue(): void {
    this.queue!.clear();
    this.waiting = [];
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
    level: (typeof LEVELS)[number],
  ): boolean {
    this.misshaped = false;
    if (this.locked && this.considerate && (this.locked[a] || this.locked[b]))
      return false;
    if (this.considerate && this.makesShard(a)) return false;
    if (!this.topology.mayJoin(a, b, !this.considerate)) return false;
    return (
      this.staysSound(a, b, x, y, z, level) &&
      this.staysSound(b, a, x, y, z, level)
    );
  }

  /** Whether a collapse in the closed piece of a vertex would leave less than it can do with; alone it has to. */
  private makesShard(a: number): boolean {
    const c = this.component[a];
    return (
      this.closed[c] === 1 &&
      this.componentLive[c] <= FEWEST_CLOSED &&
      this.componentLive.length > 1
    );
  }

  /** Whether the faces of v that stay keep their side and their shape when v moves to the point. */
  private staysSound(
    v: number,
    gone: number,
    x: number,
    y: number,
    z: number,
    { flip, sliver }: (typeof LEVELS)[number],
  ): boolean {
    const { triangles, positions: p } = this.soup;
    const { noise2 } = this.sides;
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
      const edge = ex * ex + ey * ey + ez * ez;
      const side = ux * ux + uy * uy + uz * uz;
      const third = (ux - ex) ** 2 + (uy - ey) ** 2 + (uz - ez) ** 2;
      const longest = Math.max(edge, side, third);
      const newSide = wx * wx + wy * wy + wz * wz;
      const newThird = (wx - ex) ** 2 + (wy - ey) ** 2 + (wz - ez) ** 2;
      // What was too thin to say which way it faces, and stays so, turns nothing over.
      const turns =
        old2 < noise2 * longest
          ? new2 >= noise2 * Math.max(edge, newSide, newThird) &&
            this.sides.turns(t, mx, my, mz, flip)
          : nx * mx + ny * my + nz * mz <= flip * Math.sqrt(old2 * new2);
      if (turns && flip >= 0) {
        this.misshaped = true;
        return false;
      }
      const sides = edge + newSide + newThird;
      const quality = (3.4641 * Math.sqrt(new2)) / sides;
      if (quality >= sliver && quality >= NO_AREA) continue;
      if (quality < (3.4641 * Math.sqrt(old2)) / (edge + side + third)) {
        this.misshaped = true;
        return false;
      }
    }
    return true;
  }

  /** Joins b to a: drops the faces at the edge, renames b, links the faces of both to a, and moves a. */
  private collapse(
    a: number,
    b: number,
    x: number,
    y: number,
    z: number,
    cost: number,
  ): void {
    const { soup } = this;
    const { triangles, positions, owner } = soup;
    const { nextCorner, firstCorner, alive, writer, costs } = this;
    let head = -1;
    let tail = -1;
    let gone = 0;
    let mesh = 0;
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
            mesh = owner[t];
            if (writer) writer.dies(this.baseOf![t]);
          } else {
            triangles[c] = a;
            if (costs) {
              costs[c] = NaN;
              costs[c === 3 * t ? c + 2 : c - 1] = NaN;
            }
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
    if (writer) {
      const rise = cost - this.quadrics.errorAt(a) - this.quadrics.errorAt(b);
      writer.step(a, b, x, y, z, rise, gone, mesh);
    }
    this.border[a] |= this.border[b];
    if (this.inMirror) this.inMirror[a] |= this.inMirror[b];
    this.quadrics.merge(a, b);
    positions[3 * a] = x;
    positions[3 * a + 1] = y;
    positions[3 * a + 2] = z;
    for (let c = head; c >= 0; c = nextCorner[c])
      this.sides.renew(soup, (c / 3) | 0);
    if (this.border[a] && !this.considerate) this.topology.lookForBorder(a);
    this.stamps[a]++;
    this.stamps[b] = -(1 << 30);
    this.live -= gone;
    const component = this.component[a];
    const before = this.componentLive[component];
    this.componentLive[component] = before - gone;
    if (before > this.droppedFrom(component) || gone === 0)
      this.offerComponent(component);
  }

  /** With how many triangles left a component may be given up whole. */
  private droppedFrom(c: number): number {
    return this.componentWorth[c] < WORTHLESS
      ? WORTHLESS_COMPONENT
      : SMALL_COMPONENT;
  }

  private offerComponent(c: number): void {
    const left = this.componentLive[c];
    if (this.options.keepsPieces) return;
    if (!this.queue || left > this.droppedFrom(c) || left <= 0) return;
    if (this.componentLive.length === 1) return;
    this.queue.push((MISSED * this.componentCost![c]) / left, c, -1, 0);
  }

  private dropComponent(c: number, cost: number, budget: number): void {
    const left = this.componentLive[c];
    if (left <= 0 || left > this.droppedFrom(c)) return;
    if (this.live - left < Math.floor(budget * 0.995) && this.considerate)
      return;
    const { triangles, owner } = this.soup;
    let mesh = 0;
    for (let t = 0; t < this.alive.length; t++)
      if (this.alive[t] && this.component[triangles[3 * t]] === c) {
        this.alive[t] = 0;
        mesh = owner[t];
        this.writer?.dies(this.baseOf![t]);
      }
    this.writer?.step(0, -1, 0, 0, 0, cost, left, mesh);
    this.live -= left;
    this.componentLive[c] = 0;
  }
}

/** Triangles of each mesh. */
function trianglesOf(soup: Soup, meshes: number): Uint32Array {
  const counts = new Uint32Array(meshes);
  for (const m of soup.owner) counts[m]++;
  return counts;
}

const queueFrom = (budget: number) =>
  Math.max(QUEUE_FROM, Math.min(QUEUE_TIMES * budget, budget + QUEUE_MORE));

/** Half the largest extent of a soup about its centre, metres. */
function reachOf(soup: Soup): number {
  let reach = 0;
  for (let i = 0; i < soup.positions.length; i++)
    reach = Math.max(reach, Math.abs(soup.positions[i]));
  return reach;
}

/**
 * The numbers of about the `wanted` lowest costs, in order by factors of 1.5 and, where costs are alike to that,
 * in order of memory: walking it in leaps costs more than the finer order is worth.
 */
function cheapest(
  costs: Float32Array,
  count: number,
  wanted: number,
): Uint32Array {
  const bits = new Uint32Array(costs.buffer, costs.byteOffset, count);
  const starts = new Uint32Array(1 << 10);
  for (let e = 0; e < count; e++) starts[bits[e] >>> 22]++;
  let sum = 0;
  let last = 0;
  for (let b = 0; b < starts.length; b++) {
    const here = starts[b];
    starts[b] = sum;
    if (sum < wanted) last = b;
    sum += here;
  }
  const most = last + 1 < starts.length ? starts[last + 1] : count;
  const order = new Uint32Array(most);
  for (let e = 0; e < count; e++) {
    const bucket = bits[e] >>> 22;
    if (bucket <= last) order[starts[bucket]++] = e;
  }
  return order;
}
