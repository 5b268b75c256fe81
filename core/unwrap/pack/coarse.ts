import type { Shape, Spot } from "./separate";

/** Cells along each side that make one coarse cell. */
const BLOCK = 4;

/** A shape on cells of a block each. */
interface CoarseShape {
  width: number;
  height: number;
  /** Row, first cell, cell after the last, of what is covered by half or more. */
  runs: Int32Array;
  /** width × height: mean depth. */
  depth: Float32Array;
}

/**
 * The sheet in blocks, to find good places quickly: what an island would lie in, by the weights of its pairs, summed
 * up anew for each move. What is found is near a good place, not exactly one.
 */
export class CoarseSheet {
  private readonly across: number;
  private readonly up: number;
  private readonly fixed: Float64Array;
  private readonly field: Float64Array;
  private readonly sums: Float64Array;
  private readonly shapes = new Map<Shape, CoarseShape>();

  /** @param blocked how deep cells lie in what does not move, across × up, or empty */
  constructor(across: number, up: number, blocked: ArrayLike<number>) {
    this.across = Math.ceil(across / BLOCK);
    this.up = Math.ceil(up / BLOCK);
    this.fixed = new Float64Array(this.across * this.up);
    for (let i = 0; i < blocked.length; i++) {
      const x = Math.floor((i % across) / BLOCK);
      const y = Math.floor(Math.floor(i / across) / BLOCK);
      this.fixed[y * this.across + x] += blocked[i] / BLOCK ** 2;
    }
    this.field = new Float64Array(this.fixed.length);
    this.sums = new Float64Array((this.across + 1) * this.up);
  }

  /** Begins with what does not move. */
  clear(): void {
    this.field.set(this.fixed);
  }

  /** Adds a shape at a place so many times. */
  add(shape: Shape, { x, y }: Spot, times: number): void {
    const { across, up, field } = this;
    const { width, height, depth } = this.coarse(shape);
    const left = Math.round((x - shape.gap) / BLOCK);
    const low = Math.round((y - shape.gap) / BLOCK);
    const from = Math.max(0, -left);
    const to = Math.min(width, across - left);
    for (let row = Math.max(0, -low); row < height && row + low < up; row++) {
      const source = row * width;
      const base = (row + low) * across + left;
      for (let c = from; c < to; c++)
        field[base + c] += times * depth[source + c];
    }
  }

  /** Makes what was added ready to be asked. */
  sumUp(): void {
    const { across, up, field, sums } = this;
    for (let row = 0; row < up; row++) {
      let sum = 0;
      const to = row * (across + 1);
      for (let c = 0; c < across; c++) {
        sums[to + c] = sum;
        sum += field[row * across + c];
      }
      sums[to + across] = sum;
    }
  }

  /** About how deep a shape would lie in what was added, in fine cells; stops counting above the limit. */
  valueAt(shape: Shape, x: number, y: number, limit: number): number {
    const { across, up, sums } = this;
    const { runs } = this.coarse(shape);
    const left = Math.round((x - shape.gap) / BLOCK);
    const low = Math.round((y - shape.gap) / BLOCK);
    let sum = 0;
    for (let k = 0; k < runs.length; k += 3) {
      const row = low + runs[k];
      if (row < 0 || row >= up) continue;
      const base = row * (across + 1);
      sum +=
        sums[base + Math.min(across, left + runs[k + 2])] -
        sums[base + Math.max(0, left + runs[k + 1])];
      if (BLOCK ** 2 * sum >= limit) break;
    }
    return BLOCK ** 2 * sum;
  }

  private coarse(shape: Shape): CoarseShape {
    const known = this.shapes.get(shape);
    if (known) return known;
    const made = coarseOf(shape);
    this.shapes.set(shape, made);
    return made;
  }
}

function coarseOf({ width, height, gap, depth }: Shape): CoarseShape {
  const wide = width + 2 * gap;
  const high = height + 2 * gap;
  const across = Math.ceil(wide / BLOCK);
  const up = Math.ceil(high / BLOCK);
  const mean = new Float32Array(across * up);
  const covered = new Uint8Array(across * up);
  for (let y = 0; y < high; y++)
    for (let x = 0; x < wide; x++) {
      const deep = depth[y * wide + x];
      if (!deep) continue;
      const at = Math.floor(y / BLOCK) * across + Math.floor(x / BLOCK);
      mean[at] += deep / BLOCK ** 2;
      covered[at]++;
    }
  const runs: number[] = [];
  for (let y = 0; y < up; y++)
    for (let x = 0; x < across; x++) {
      if (2 * covered[y * across + x] < BLOCK ** 2) continue;
      const from = x;
      while (x < across && 2 * covered[y * across + x] >= BLOCK ** 2) x++;
      runs.push(y, from, x);
    }
  return {
    width: across,
    height: up,
    depth: mean,
    runs: Int32Array.from(runs),
  };
}
