import { costComponents, nameComponents } from "./collapse-components";
import type { CollapseLevel } from "./collapse-levels";
import type { CollapseLists } from "./collapse-topology";
import type { Soup } from "./soup";
import { qualityOf, SLIVER } from "../mesh/triangle-shape";

/** A component has few triangles up to here, and many from here on. */
const FEW = 24;
const MANY = 90;

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

/**
 * A thin triangle is worth no more than being this share of the whole size off: where shape costs more than that,
 * it goes first. Where a component came in slivers already, as flat sides of CAD do, it is worth less: `SHAPE_FADED`
 * from a share of `ALL_THIN` on.
 */
const SHAPE_FIRST = 3e-3;
const SHAPE_FADED = 1e-4;
const ALL_THIN = 0.3;

/** The connected components of a soup while it collapses: how much is left of each, and what it is worth. */
export class CollapsePieces {
  /** vertexCount: the component each vertex is of. */
  readonly of: Uint32Array;
  /** By component: triangles left. */
  readonly live: Int32Array;
  /** By component: 1 without a border. */
  private readonly closed: Uint8Array;
  /** By component: what its shape is worth, 1 where nobody said. */
  private readonly worth: Float64Array;
  /** By component: the squared distance that a thin triangle is worth at most, metres². */
  private readonly far2: Float64Array;
  /** By component: what giving it up costs, metres⁴, and its area, metres²; null until that is weighed. */
  private cost: Float64Array | null = null;
  private area: Float64Array = new Float64Array(0);

  /**
   * @param faceWeight triangleCount: how dear the shape of each triangle is
   * @param reach half the largest extent of the soup, metres
   */
  constructor(
    private readonly soup: Soup,
    lists: CollapseLists,
    faceWeight: Float32Array | null,
    reach: number,
  ) {
    const vertices = soup.positions.length / 3;
    this.of = new Uint32Array(vertices);
    this.live = new Int32Array(nameComponents(soup, lists, this.of));
    this.closed = new Uint8Array(this.live.length).fill(1);
    for (let v = 0; v < vertices; v++)
      if (lists.border[v]) this.closed[this.of[v]] = 0;
    this.worth = new Float64Array(this.live.length);
    this.far2 = new Float64Array(this.live.length);
    for (let t = 0; t < soup.owner.length; t++) {
      const c = this.of[soup.triangles[3 * t]];
      this.live[c]++;
      this.worth[c] += faceWeight?.[t] ?? 1;
      if (qualityOf(soup.positions, soup.triangles, t) < SLIVER) this.far2[c]++;
    }
    this.far2.forEach((thin, c) => {
      const faded = Math.min(1, thin / (ALL_THIN * this.live[c]));
      this.far2[c] =
        (2 * reach * SHAPE_FIRST * (SHAPE_FADED / SHAPE_FIRST) ** faded) ** 2;
    });
    this.worth.forEach((sum, c) => (this.worth[c] = sum / this.live[c]));
  }

  /** Weighs what giving each up would cost, once: late, where the mesh is light, that hardly changes on the way. */
  weigh(): void {
    if (this.cost) return;
    const { cost, area } = costComponents(this.soup, this.of, this.live);
    this.cost = cost.map((each, c) => each * this.worth[c]);
    this.area = area;
  }

  /** With how many triangles left a component may be given up whole. */
  droppedFrom(c: number): number {
    return this.worth[c] < WORTHLESS ? WORTHLESS_COMPONENT : SMALL_COMPONENT;
  }

  /** What giving up a component costs for each triangle, at the least. */
  leastRemovalCost(c: number): number {
    return (MISSED * this.cost![c]) / this.live[c];
  }

  /** The same after what the last collapses came to. @param reached2 their largest mean squared distance, metres² */
  removalCost(c: number, reached2: number): number {
    const cost = this.cost![c];
    const far2 = cost / (this.area[c] * reached2 || 1e-300);
    const ratio = Math.min(GAP_MOST, Math.max(1, Math.sqrt(far2)));
    return (MISSED * ratio ** GAP_POWER * cost) / Math.max(1, this.live[c]);
  }

  /**
   * What an edge costs at a level that it was refused below.
   * @param a a vertex of it
   * @param cost what it costs by itself, metres⁴
   * @param spread the squared length of the edge times the area at it
   * @param area the area at it, metres²
   */
  penalised(
    a: number,
    cost: number,
    spread: number,
    area: number,
    { few, times, spread: most }: CollapseLevel,
  ): number {
    const most2 = area * this.far2[this.of[a]];
    const price = (share: number) => Math.min(share * spread, most2);
    const own = this.live[this.of[a]];
    if (!few || own >= MANY) return times * cost + price(most);
    const many = Math.max(0, (own - FEW) / (MANY - FEW));
    const mix = (low: number, high: number) => low * (high / low) ** many;
    return mix(few.times, times) * cost + price(mix(few.spread, most));
  }

  /** Whether a collapse in the closed piece of a vertex would leave less than it can do with; alone it has to. */
  makesShard(a: number): boolean {
    const c = this.of[a];
    return (
      this.closed[c] === 1 &&
      this.live[c] <= FEWEST_CLOSED &&
      this.live.length > 1
    );
  }
}
