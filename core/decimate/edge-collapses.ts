import { CollapsePieces } from "./collapse-pieces";
import type { CollapseLevel } from "./collapse-levels";
import type { CollapseOptions } from "./collapse-options";
import type { CollapseLists } from "./collapse-topology";
import { CollapseTopology } from "./collapse-topology";
import {
  addEdgePlanes,
  addFacePlanes,
  DEFAULT_WEIGHTS,
} from "./collapse-planes";
import type { RecordWriter } from "./collapse-record";
import { FaceSides } from "./face-sides";
import { FanCheck } from "./fan-check";
import { MirrorHold } from "./mirror-hold";
import { Quadrics } from "./quadrics";
import type { Soup } from "./soup";
import { keepTriangles } from "./soup";

/** Turning normals cost as much as being this share of the whole size off. */
const TURN_REACH = 0.005;

/**
 * The single steps of a collapse on a soup: what an edge costs, whether it may go, and what goes with it. Which
 * goes next is up to who calls. Faces round a vertex are linked lists through the corners; that holds for any
 * soup, manifold or not.
 */
export class EdgeCollapses implements CollapseLists {
  /** triangleCount: 1 for those that are there. */
  alive: Uint8Array;
  /** How many those are. */
  live: number;
  readonly firstCorner: Int32Array;
  readonly nextCorner: Int32Array;
  /** vertexCount: 1 on borders. */
  readonly border: Uint8Array;
  readonly quadrics: Quadrics;
  readonly pieces: CollapsePieces;
  /** vertexCount: rises whenever something moved there, far below 0 for those that went. */
  readonly stamps: Int32Array;
  /** Whether what is to be left as it is still is, and components are kept that lead far below the budget. */
  considerate = true;
  /** Takes down every step, where somebody asks for it. */
  writer: RecordWriter | null = null;
  /** Triangles of the record's base by present number, while one is written. */
  baseOf: Uint32Array | null = null;
  /** 3 × triangleCount, during passes: the cost of the edge from each corner, NaN where it has to be found. */
  costs: Float32Array | null = null;
  /** The same: the level at which each edge is asked about next. */
  levelOf = new Uint8Array(0);
  private readonly sides: FaceSides;
  private readonly fans: FanCheck;
  private readonly topology: CollapseTopology;
  private readonly mirror: MirrorHold | null;
  /** vertexCount: 1 at triangles that are left as they are. */
  private readonly locked: Uint8Array | null;

  /** @param soup is changed: packed as it goes */
  constructor(
    private readonly soup: Soup,
    options: CollapseOptions,
  ) {
    const weights = { ...DEFAULT_WEIGHTS, ...options.weights };
    const faceWeight = options.faceWeight ?? null;
    const vertices = soup.positions.length / 3;
    const count = soup.owner.length;
    const reach = reachOf(soup);
    this.alive = new Uint8Array(count).fill(1);
    this.live = count;
    this.quadrics = new Quadrics(vertices, soup.positions, {
      evenness: weights.evenness,
      turnCost: weights.normals * (TURN_REACH * reach) ** 2,
    });
    this.firstCorner = new Int32Array(vertices);
    this.nextCorner = new Int32Array(3 * count);
    this.stamps = new Int32Array(vertices);
    this.border = new Uint8Array(vertices);
    this.linkCorners();
    this.sides = new FaceSides(soup, this);
    this.fans = new FanCheck(soup, this, this.sides);
    this.topology = new CollapseTopology(soup, this);
    addFacePlanes(soup, this.quadrics, faceWeight);
    addEdgePlanes(soup, this.quadrics, this, weights, this.border, faceWeight);
    this.mirror = options.mirror
      ? new MirrorHold(options.mirror, soup.positions, this.border, reach)
      : null;
    this.locked = options.locked ? new Uint8Array(vertices) : null;
    if (this.locked)
      for (let c = 0; c < soup.triangles.length; c++)
        this.locked[soup.triangles[c]] |= options.locked![(c / 3) | 0];
    this.pieces = new CollapsePieces(soup, this, faceWeight, reach);
  }

  /** Whether the last edge asked about was refused for its shape, and may come again. */
  get misshaped(): boolean {
    return this.fans.misshaped;
  }

  /** Places the edge; where an end lies in the mirror plane, the place does too. */
  place(a: number, b: number): number {
    const cost = this.quadrics.place(a, b);
    return this.mirror ? this.mirror.place(this.quadrics, a, b, cost) : cost;
  }

  /** Whether a triangle other than `t` runs from a to b. */
  joins(a: number, b: number, t: number): boolean {
    const { triangles } = this.soup;
    for (let c = this.firstCorner[a]; c >= 0; c = this.nextCorner[c]) {
      const other = (c / 3) | 0;
      if (other === t || !this.alive[other]) continue;
      const next = c - 3 * other === 2 ? 3 * other : c + 1;
      if (triangles[next] === b) return true;
    }
    return false;
  }

  /** Whether the edge may be collapsed to the point in this phase. */
  allowed(
    a: number,
    b: number,
    x: number,
    y: number,
    z: number,
    level: CollapseLevel,
  ): boolean {
    this.fans.misshaped = false;
    if (this.locked && this.considerate && (this.locked[a] || this.locked[b]))
      return false;
    if (this.considerate && this.pieces.makesShard(a)) return false;
    if (!this.topology.mayJoin(a, b, !this.considerate)) return false;
    return (
      this.fans.staysSound(a, b, x, y, z, level) &&
      this.fans.staysSound(b, a, x, y, z, level)
    );
  }

  /**
   * Joins b to a: drops the faces at the edge, renames b, links the faces of both to a, and moves a.
   * @returns triangles that went
   */
  collapse(
    a: number,
    b: number,
    x: number,
    y: number,
    z: number,
    cost: number,
  ): number {
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
    this.mirror?.join(a, b);
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
    this.pieces.live[this.pieces.of[a]] -= gone;
    return gone;
  }

  /** Gives a component up whole. */
  dropComponent(c: number, cost: number): void {
    const { triangles, owner } = this.soup;
    const left = this.pieces.live[c];
    let mesh = 0;
    for (let t = 0; t < this.alive.length; t++)
      if (this.alive[t] && this.pieces.of[triangles[3 * t]] === c) {
        this.alive[t] = 0;
        mesh = owner[t];
        this.writer?.dies(this.baseOf![t]);
      }
    this.writer?.step(0, -1, 0, 0, 0, cost, left, mesh);
    this.live -= left;
    this.pieces.live[c] = 0;
  }

  /** Drops the triangles that went from the arrays, in order, and links the corners anew. */
  pack(): void {
    const { alive, baseOf, costs } = this;
    keepTriangles(this.soup, alive);
    let at = 0;
    for (let t = 0; t < alive.length; t++) {
      if (!alive[t]) continue;
      if (at !== t) {
        if (costs) {
          costs.copyWithin(3 * at, 3 * t, 3 * t + 3);
          this.levelOf.copyWithin(3 * at, 3 * t, 3 * t + 3);
        }
        if (baseOf) baseOf[at] = baseOf[t];
        this.sides.move(t, at);
      }
      at++;
    }
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
}

/** Half the largest extent of a soup about its centre, metres. */
function reachOf(soup: Soup): number {
  let reach = 0;
  for (let i = 0; i < soup.positions.length; i++)
    reach = Math.max(reach, Math.abs(soup.positions[i]));
  return reach;
}
