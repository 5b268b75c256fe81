import type { Turned } from "./types";

/** An island on the raster: every cell that it touches, as runs by row. */
export interface Mask {
  width: number;
  height: number;
  /** height + 1 */
  rowStarts: Int32Array;
  /** First cell and the one after the last, for every run. */
  runs: Int32Array;
}

/** Where an island lies on a raster: which of its turns, and the cell of its lower left corner. */
export interface Spot {
  turn: number;
  x: number;
  y: number;
}

/** @param scale cells for each unit of the triangles */
export function maskOf(
  item: Pick<Turned, "triangles" | "width" | "height">,
  scale: number,
): Mask {
  const width = Math.max(1, Math.ceil(item.width * scale + 1e-6));
  const height = Math.max(1, Math.ceil(item.height * scale + 1e-6));
  const bits = new Uint8Array(width * height);
  coverAll(bits, width, height, item.triangles, scale);
  return runsOf(bits, width, height);
}

/**
 * Sets every cell that one of the triangles touches.
 * @param cells width × height
 * @param triangles 6 × triangleCount: three points each, cells
 */
export function coverAll(
  bits: Uint8Array,
  width: number,
  height: number,
  triangles: Float64Array,
  scale: number,
): void {
  const q = new Float64Array(6);
  for (let i = 0; i < triangles.length; i += 6) {
    for (let k = 0; k < 6; k++) q[k] = scale * triangles[i + k];
    coverTouched(bits, width, height, q);
  }
}

/**
 * The set cells of a raster as runs by row.
 * @param cells width × height
 */
export function runsOf(bits: Uint8Array, width: number, height: number): Mask {
  const rowStarts = new Int32Array(height + 1);
  const runs: number[] = [];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width;) {
      while (x < width && !bits[y * width + x]) x++;
      if (x >= width) break;
      const from = x;
      while (x < width && bits[y * width + x]) x++;
      runs.push(from, x);
    }
    rowStarts[y + 1] = runs.length / 2;
  }
  return { width, height, rowStarts, runs: new Int32Array(runs) };
}

/** An island with free cells round it, to be looked at on coarser rasters at any scale. */
export interface Silhouette {
  bits: Uint8Array;
  width: number;
  height: number;
}

/** The silhouette of a mask and of what lies nearer to it than `round` cells. */
export function silhouetteOf(mask: Mask, round: number): Silhouette {
  const width = mask.width + 2 * round;
  const height = mask.height + 2 * round;
  const bits = new Uint8Array(width * height);
  for (let row = 0; row < mask.height; row++)
    for (let dy = -round; dy <= round; dy++) {
      const reach = Math.min(round, reachAt(round, dy));
      const base = (row + round + dy) * width + round;
      for (let k = mask.rowStarts[row]; k < mask.rowStarts[row + 1]; k++)
        bits.fill(
          1,
          base + mask.runs[2 * k] - reach,
          base + mask.runs[2 * k + 1] + reach,
        );
    }
  return { bits, width, height };
}

/** A silhouette on other cells: those covered by half or more. @param step its cells in one of the other */
export function sampled(of: Silhouette, step: number): Mask {
  const width = Math.max(1, Math.ceil(of.width / step - 0.5));
  const height = Math.max(1, Math.ceil(of.height / step - 0.5));
  const bits = new Uint8Array(width * height);
  const at = (x: number, y: number) => {
    const column = Math.floor(x);
    const row = Math.floor(y);
    return column < of.width && row < of.height
      ? of.bits[row * of.width + column]
      : 0;
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const hits =
        at((x + 0.25) * step, (y + 0.25) * step) +
        at((x + 0.75) * step, (y + 0.25) * step) +
        at((x + 0.25) * step, (y + 0.75) * step) +
        at((x + 0.75) * step, (y + 0.75) * step);
      if (hits >= 2) bits[y * width + x] = 1;
    }
  return runsOf(bits, width, height);
}

/** Sets every cell that a triangle touches, row by row of cells. */
function coverTouched(
  bits: Uint8Array,
  width: number,
  height: number,
  q: Float64Array,
): void {
  const low = Math.max(0, Math.floor(Math.min(q[1], q[3], q[5])));
  const high = Math.min(height - 1, Math.floor(Math.max(q[1], q[3], q[5])));
  for (let row = low; row <= high; row++) {
    let x0 = Infinity;
    let x1 = -Infinity;
    for (let k = 0; k < 3; k++) {
      const ax = q[2 * k];
      const ay = q[2 * k + 1];
      const bx = q[(2 * k + 2) % 6];
      const by = q[(2 * k + 3) % 6];
      if (ay >= row && ay <= row + 1) {
        if (ax < x0) x0 = ax;
        if (ax > x1) x1 = ax;
      }
      for (let line = row; line <= row + 1; line++) {
        if (ay < line === by < line) continue;
        const x = ax + ((line - ay) / (by - ay)) * (bx - ax);
        if (x < x0) x0 = x;
        if (x > x1) x1 = x;
      }
    }
    if (!(x0 <= x1)) continue;
    const from = Math.max(0, Math.floor(x0));
    const to = Math.min(width - 1, Math.floor(x1));
    for (let x = from; x <= to; x++) bits[row * width + x] = 1;
  }
}

/** How far a run reaches to the sides in a row that lies `dy` rows off, so that cells stay `gap` apart. */
export const reachAt = (gap: number, dy: number) =>
  Math.ceil(
    Math.sqrt(Math.max(0, gap * gap - Math.max(0, Math.abs(dy) - 1) ** 2)),
  );

/** The sheet as cells, with the jumps that make a search quick. */
export class Raster {
  /** The first blocked cell at or after each cell of a row (`across` where there is none). */
  private readonly blocked: Int16Array;
  /** For blocked cells: the first free one after. */
  private readonly free: Int16Array;
  private readonly taken: Uint8Array;

  constructor(
    private readonly across: number,
    private readonly up: number,
    private readonly margin: number,
  ) {
    this.blocked = new Int16Array(across * up).fill(across);
    this.free = new Int16Array(across * up);
    this.taken = new Uint8Array(across * up);
  }

  /** Puts one of the masks at the place where its top ends lowest, and blocks it with a gap round it. */
  place(masks: readonly Mask[], gap: number): Spot | null {
    let best: Spot | null = null;
    let top = Infinity;
    masks.forEach((mask, turn) => {
      const found = this.find(mask, top);
      if (!found || found.y + mask.height >= top) return;
      top = found.y + mask.height;
      best = { turn, ...found };
    });
    const chosen = best as Spot | null;
    if (chosen) this.block(masks[chosen.turn], chosen.x, chosen.y, gap);
    return chosen;
  }

  private find(mask: Mask, below: number): { x: number; y: number } | null {
    const { across, up, margin, blocked, free } = this;
    const { rowStarts, runs, height } = mask;
    const lastX = across - margin - mask.width;
    const lastY = Math.min(up - margin, below - 1) - height;
    for (let y = margin; y <= lastY; y++) {
      let x = margin;
      let row = 0;
      let sound = 0;
      // Rows are tried in a ring from the one that failed last: it is the likeliest to fail again.
      while (x <= lastX && sound < height) {
        const base = (y + row) * across;
        let moved = false;
        for (let k = rowStarts[row]; k < rowStarts[row + 1]; k++) {
          const at = x + runs[2 * k];
          const hit = blocked[base + at];
          if (hit < x + runs[2 * k + 1]) {
            x = free[base + hit] - runs[2 * k];
            moved = true;
            if (x > lastX) break;
          }
        }
        if (moved) sound = 0;
        else {
          sound++;
          row = row + 1 === height ? 0 : row + 1;
        }
      }
      if (x <= lastX) return { x, y };
    }
    return null;
  }

  /** Blocks a mask and what lies nearer to it than the gap. */
  block(mask: Mask, x: number, y: number, gap: number): void {
    const { across, up, taken, blocked, free } = this;
    const from = Math.max(0, y - gap);
    const to = Math.min(up - 1, y + mask.height - 1 + gap);
    for (let row = 0; row < mask.height; row++)
      for (let dy = -gap; dy <= gap; dy++) {
        const at = y + row + dy;
        if (at < 0 || at >= up) continue;
        const reach = reachAt(gap, dy);
        for (let k = mask.rowStarts[row]; k < mask.rowStarts[row + 1]; k++)
          taken.fill(
            1,
            at * across +
              Math.max(0, Math.min(across, x + mask.runs[2 * k] - reach)),
            at * across +
              Math.max(0, Math.min(across, x + mask.runs[2 * k + 1] + reach)),
          );
      }
    for (let row = from; row <= to; row++) {
      const base = row * across;
      let next = across;
      let open = across;
      for (let c = across - 1; c >= 0; c--) {
        if (taken[base + c]) {
          next = c;
          free[base + c] = open;
        } else open = c;
        blocked[base + c] = next;
      }
    }
  }
}
