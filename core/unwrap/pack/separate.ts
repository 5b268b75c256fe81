import { CoarseSheet } from "./coarse";
import type { Mask } from "./raster";
import { reachAt } from "./raster";

/** An island in one of its turns, ready to be tried at many places. */
export interface Shape {
  width: number;
  height: number;
  /** Runs in an order that soon tells a bad place: row, first cell, cell after the last. */
  runs: Int32Array;
  gap: number;
  /** (width + 2 gap) × (height + 2 gap): how deep a cell lies in the island with the gap round it, 0 outside. */
  depth: Uint8Array;
  /** (width + 2 gap + 1) × (height + 2 gap): sums of the depths before each cell of its row. */
  sums: Int32Array;
}

/** @param gap cells that stay free round the island */
export function shapeOf(mask: Mask, gap: number): Shape {
  const { width, height, rowStarts, runs } = mask;
  const across = width + 2 * gap;
  const up = height + 2 * gap;
  const depth = new Uint8Array(across * up);
  for (let row = 0; row < height; row++)
    for (let dy = -gap; dy <= gap; dy++) {
      const reach = Math.min(gap, reachAt(gap, dy));
      const base = (row + gap + dy) * across + gap;
      for (let k = rowStarts[row]; k < rowStarts[row + 1]; k++)
        depth.fill(
          255,
          base + runs[2 * k] - reach,
          base + runs[2 * k + 1] + reach,
        );
    }
  deepen(depth, across, up);
  const order = Array.from({ length: height }, (_, row) => row).sort(
    (a, b) => shuffled(a) - shuffled(b) || a - b,
  );
  return {
    width,
    height,
    gap,
    depth,
    sums: rowSums(depth, across, up),
    runs: Int32Array.from(
      order.flatMap((row) =>
        Array.from(
          { length: rowStarts[row + 1] - rowStarts[row] },
          (_, k) => rowStarts[row] + k,
        ).flatMap((k) => [row, runs[2 * k], runs[2 * k + 1]]),
      ),
    ),
  };
}

function rowSums(depth: Uint8Array, across: number, up: number): Int32Array {
  const sums = new Int32Array((across + 1) * up);
  for (let y = 0; y < up; y++)
    for (let x = 0, to = y * (across + 1); x < across; x++)
      sums[to + x + 1] = sums[to + x] + depth[y * across + x];
  return sums;
}

const shuffled = (row: number) => Math.imul(row + 1, 0x9e3779b1) >>> 0;

/** Distances to the outside in steps of cells, two passes. */
function deepen(depth: Uint8Array, across: number, up: number): void {
  const at = (x: number, y: number) =>
    x < 0 || y < 0 || x >= across || y >= up ? 0 : depth[y * across + x];
  for (let y = 0; y < up; y++)
    for (let x = 0; x < across; x++) {
      const i = y * across + x;
      if (depth[i])
        depth[i] = Math.min(255, 1 + Math.min(at(x - 1, y), at(x, y - 1)));
    }
  for (let y = up - 1; y >= 0; y--)
    for (let x = across - 1; x >= 0; x--) {
      const i = y * across + x;
      if (depth[i])
        depth[i] = Math.min(depth[i], 1 + Math.min(at(x + 1, y), at(x, y + 1)));
    }
}

/** Where an island lies: which of its turns, and the lower left cell of its box. */
export interface Spot {
  turn: number;
  x: number;
  y: number;
}

/** Weights of pairs that overlap most grow by this factor, of those that do not they sink. */
const GROW = 1.7;
const SINK = 0.95;
const HEAVIEST = 1e5;
/** Turns looked at in one move, its own among them, and places for each. */
const TURNS = 3;
const PLACES = 300;
/** Best places of the coarse scan that are looked at closely. */
const FINALISTS = 3;

/**
 * Islands on a sheet that may overlap, and moves that take the overlaps away: every island that overlaps goes to
 * the place, of all its turns, where it lies least deep in the others, and pairs that stay in each other's way
 * weigh more each time (guided local search after Voudouris and Tsang 1995, as in Egeblad, Nielsen, Odgaard
 * 2007). The depth in cells stands for how far one has to go to be free, and sums of it over runs come from
 * prefix sums by row of every shape. Places are looked for on a coarse sheet first.
 */
export class Separation {
  readonly spots: Spot[];
  private readonly weights: Float32Array;
  private readonly pairs: Float32Array;
  /** 4 × count: the cells of each island's box with the gap round it: from, and to but without. */
  private readonly boxes: Int32Array;
  /** across × up, or empty: how deep cells lie in what does not move; and (across + 1) × up, its sums by row. */
  private readonly fixed: Int32Array;
  private readonly fixedSums: Int32Array;
  private readonly count: number;
  private coarse: CoarseSheet | null = null;

  /**
   * @param shapes for each island its turns
   * @param across, up cells of the sheet; @param margin cells that stay free along its border
   * @param blocked how deep cells lie in what does not move, 0 where they are free
   */
  constructor(
    private readonly shapes: readonly (readonly Shape[])[],
    private readonly across: number,
    private readonly up: number,
    private readonly margin: number,
    spots: readonly Spot[],
    private readonly random: () => number,
    blocked: Uint8Array | null,
  ) {
    this.count = shapes.length;
    this.spots = spots.map((spot, i) => this.inside(i, spot));
    this.weights = new Float32Array(this.count ** 2).fill(1);
    this.pairs = new Float32Array(this.count ** 2);
    this.boxes = new Int32Array(4 * this.count);
    this.fixed = new Int32Array(blocked ? across * up : 0);
    this.fixedSums = new Int32Array(blocked ? (across + 1) * up : 0);
    blocked?.forEach((deep, i) => {
      this.fixed[i] = 4 * deep;
    });
    for (let row = 0; row < up && blocked; row++)
      for (let c = 0, to = row * (across + 1); c < across; c++)
        this.fixedSums[to + c + 1] =
          this.fixedSums[to + c] + this.fixed[row * across + c];
    for (let i = 0; i < this.count; i++) this.box(i);
    for (let i = 0; i < this.count; i++) this.meet(i);
  }

  private inside(i: number, { turn, x, y }: Spot): Spot {
    const { width, height } = this.shapes[i][turn];
    const clamp = (at: number, most: number) =>
      Math.max(this.margin, Math.min(most - this.margin, at));
    return {
      turn,
      x: clamp(x, this.across - width),
      y: clamp(y, this.up - height),
    };
  }

  /** How deep islands lie in each other, all together. */
  depth(): number {
    return this.pairs.reduce((sum, deep) => sum + deep, 0);
  }

  /** Pairs that overlap now, and those with what does not move. */
  overlapping(): number[] {
    const found: number[] = [];
    for (let i = 0; i < this.count; i++) {
      let sum = this.inFixed(i);
      for (let j = 0; j < this.count; j++)
        sum += this.pairs[i * this.count + j] + this.pairs[j * this.count + i];
      if (sum > 0) found.push(i);
    }
    return found;
  }

  /** How deep island i lies in what does not move. */
  private inFixed(i: number): number {
    const { turn, x, y } = this.spots[i];
    return this.fixedAt(this.shapes[i][turn], x, y);
  }

  private fixedAt({ runs }: Shape, x: number, y: number): number {
    const { fixedSums: sums } = this;
    if (!sums.length) return 0;
    let sum = 0;
    for (let k = 0; k < runs.length; k += 3) {
      const base = (y + runs[k]) * (this.across + 1) + x;
      sum += sums[base + runs[k + 2]] - sums[base + runs[k + 1]];
    }
    return sum;
  }

  private box(i: number): void {
    const { turn, x, y } = this.spots[i];
    const { width, height, gap } = this.shapes[i][turn];
    this.boxes[4 * i] = x - gap;
    this.boxes[4 * i + 1] = y - gap;
    this.boxes[4 * i + 2] = x + width + gap;
    this.boxes[4 * i + 3] = y + height + gap;
  }

  /** Renews what island i has with all others. */
  private meet(i: number): void {
    for (let j = 0; j < this.count; j++) {
      if (j === i) continue;
      this.pairs[i * this.count + j] = this.depthIn(i, j);
      this.pairs[j * this.count + i] = this.depthIn(j, i);
    }
  }

  private depthIn(i: number, j: number): number {
    const { turn, x, y } = this.spots[i];
    return this.depthAt(this.shapes[i][turn], x, y, j);
  }

  /** How deep a shape at a place lies in island j. */
  private depthAt(one: Shape, x: number, y: number, j: number): number {
    const { boxes } = this;
    const left = boxes[4 * j];
    const low = boxes[4 * j + 1];
    const wide = boxes[4 * j + 2] - left;
    const high = boxes[4 * j + 3] - low;
    if (
      x >= left + wide ||
      x + one.width <= left ||
      y >= low + high ||
      y + one.height <= low
    )
      return 0;
    const { sums } = this.shapes[j][this.spots[j].turn];
    const { runs } = one;
    let sum = 0;
    for (let k = 0; k < runs.length; k += 3) {
      const row = y + runs[k] - low;
      if (row < 0 || row >= high) continue;
      const from = Math.max(0, x + runs[k + 1] - left);
      const to = Math.min(wide, x + runs[k + 2] - left);
      if (from < to)
        sum += sums[row * (wide + 1) + to] - sums[row * (wide + 1) + from];
    }
    return sum;
  }

  /**
   * Moves every island that overlaps once, in random order.
   * @param reach cells a move may go at most, or Infinity for anywhere and any turn
   */
  sweep(reach: number, check: () => void): void {
    const moving = this.overlapping();
    for (let k = moving.length - 1; k > 0; k--) {
      const other = Math.floor(this.random() * (k + 1));
      [moving[k], moving[other]] = [moving[other], moving[k]];
    }
    for (const i of moving) {
      check();
      this.move(i, reach);
    }
    this.weigh();
  }

  private move(i: number, reach: number): void {
    const at = this.spots[i];
    const near = reach < Infinity ? reach : 0;
    let best = this.valueAt(i, at, Infinity);
    let spot = at;
    if (best > 0) {
      const finalists = near
        ? this.scanNear(i, at, near, best)
        : [at, ...this.scanAll(i)];
      for (const start of finalists) {
        const found = this.settle(i, start, best);
        if (found.value >= best) continue;
        best = found.value;
        spot = found.spot;
        if (best === 0) break;
      }
    }
    if (spot === at) return;
    this.spots[i] = spot;
    this.box(i);
    this.meet(i);
  }

  /** How deep an island would lie in the others, by the weights of its pairs; stops counting above the limit. */
  private valueAt(i: number, { turn, x, y }: Spot, limit: number): number {
    const { count, weights } = this;
    const shape = this.shapes[i][turn];
    let sum = this.fixedAt(shape, x, y);
    for (let j = 0; j < count; j++) {
      if (j === i) continue;
      const deep = this.depthAt(shape, x, y, j);
      if (deep === 0) continue;
      sum += weights[i * count + j] * deep;
      if (sum >= limit) return sum;
    }
    return sum;
  }

  /** The best places of all on the coarse sheet. */
  private scanAll(i: number): Spot[] {
    const { margin, across, up, weights, count } = this;
    this.coarse ??= new CoarseSheet(across, up, this.fixed);
    const { coarse } = this;
    coarse.clear();
    for (let j = 0; j < count; j++) {
      const at = this.spots[j];
      if (j !== i)
        coarse.add(this.shapes[j][at.turn], at, weights[i * count + j]);
    }
    coarse.sumUp();
    const found: { spot: Spot; value: number }[] = [];
    let worst = Infinity;
    const turns = this.shapes[i].length;
    const own = this.spots[i].turn;
    const tried = Math.min(turns, TURNS);
    for (let k = 0; k < tried; k++) {
      const turn = k
        ? (own + 1 + Math.floor(this.random() * (turns - 1))) % turns
        : own;
      const shape = this.shapes[i][turn];
      const { width, height } = shape;
      const lastX = across - margin - width;
      const lastY = up - margin - height;
      if (lastX < margin || lastY < margin) continue;
      const step = Math.max(
        1,
        Math.round(Math.min(width, height) / 3),
        Math.ceil(Math.sqrt(((lastX - margin) * (lastY - margin)) / PLACES)),
      );
      const ox = Math.floor(this.random() * step);
      const oy = Math.floor(this.random() * step);
      for (let y = margin + oy; ; y += step) {
        const row = Math.min(y, lastY);
        for (let x = margin + ox; ; x += step) {
          const column = Math.min(x, lastX);
          const spot = { turn, x: column, y: row };
          const value = coarse.valueAt(shape, column, row, worst);
          if (value < worst) {
            let place = found.length;
            while (place > 0 && found[place - 1].value > value) place--;
            found.splice(place, 0, { spot, value });
            if (found.length > FINALISTS) found.pop();
            if (found.length === FINALISTS) worst = found[FINALISTS - 1].value;
          }
          if (x >= lastX) break;
        }
        if (y >= lastY) break;
      }
    }
    return found.map(({ spot }) => spot);
  }

  private scanNear(i: number, at: Spot, reach: number, limit: number): Spot[] {
    const { width, height } = this.shapes[i][at.turn];
    let best: Spot | null = null;
    let least = limit;
    for (let dy = -reach; dy <= reach; dy++)
      for (let dx = -reach; dx <= reach; dx++) {
        const x = at.x + dx;
        const y = at.y + dy;
        if (!this.fits(x, y, width, height)) continue;
        const spot = { turn: at.turn, x, y };
        const value = this.valueAt(i, spot, least);
        if (value < least) {
          least = value;
          best = spot;
        }
      }
    return best ? [best] : [];
  }

  private fits(x: number, y: number, width: number, height: number): boolean {
    const { margin, across, up } = this;
    return (
      x >= margin &&
      y >= margin &&
      x <= across - margin - width &&
      y <= up - margin - height
    );
  }

  /** Walks downhill from a place in ever smaller steps. */
  private settle(i: number, start: Spot, limit: number) {
    let spot = start;
    let value = this.valueAt(i, spot, Infinity);
    const { width, height } = this.shapes[i][spot.turn];
    const far = Math.max(1, Math.round(Math.min(width, height) / 8));
    for (let step = far; step >= 1 && value > 0; step = step >> 1) {
      for (let moved = true; moved && value > 0;) {
        moved = false;
        for (const [dx, dy] of AROUND) {
          const x = spot.x + dx * step;
          const y = spot.y + dy * step;
          if (!this.fits(x, y, width, height)) continue;
          const next = { turn: spot.turn, x, y };
          const there = this.valueAt(i, next, value);
          if (there < value) {
            value = there;
            spot = next;
            moved = true;
          }
        }
      }
      if (value > 4 * limit) break;
    }
    return { spot, value };
  }

  private weigh(): void {
    const { pairs, weights, count } = this;
    let most = 0;
    for (let k = 0; k < pairs.length; k++) most = Math.max(most, pairs[k]);
    if (!(most > 0)) return;
    for (let i = 0; i < count; i++)
      for (let j = i + 1; j < count; j++) {
        const a = i * count + j;
        const b = j * count + i;
        const deep = Math.max(pairs[a], pairs[b]);
        if (deep > 0)
          weights[a] = Math.min(
            HEAVIEST,
            weights[a] * (1 + (GROW - 1) * (0.3 + 0.7 * (deep / most))),
          );
        else if (weights[a] > 1) weights[a] = Math.max(1, weights[a] * SINK);
        weights[b] = weights[a];
      }
  }
}

const AROUND = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;
