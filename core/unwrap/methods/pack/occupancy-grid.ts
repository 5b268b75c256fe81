import type { Field } from "./distance-field";
import type { Pose } from "./types";

/** Cells along the longer edge of the sheet. */
const CELLS = 64;
/** Depth that counts for a point outside the sheet, px. */
const OUTSIDE = 1e5;

/** The sheet as coarse cells: how deep islands are where, to find places for another one quickly. */
export class OccupancyGrid {
  private readonly cell: number;
  private readonly across: number;
  private readonly up: number;
  private readonly depth: Float64Array;

  /** @param width, height px */
  constructor(width: number, height: number) {
    this.cell = Math.max(width, height) / CELLS;
    this.across = Math.ceil(width / this.cell);
    this.up = Math.ceil(height / this.cell);
    this.depth = new Float64Array(this.across * this.up);
  }

  clear(): void {
    this.depth.fill(0);
  }

  /**
   * Adds an island.
   * @param scale px for each unit of its field
   * @param box of its points on the sheet, px: lower left, upper right
   * @param round px round it that count too
   */
  add(
    { field, across, up, cell: own, left, bottom }: Field,
    scale: number,
    { x, y, angle }: Pose,
    box: ArrayLike<number>,
    round: number,
    weight: number,
  ): void {
    const { cell, depth } = this;
    const cos = Math.cos(angle) / (scale * own);
    const sin = Math.sin(angle) / (scale * own);
    const c0 = this.cellAt(box[0] - round, this.across);
    const r0 = this.cellAt(box[1] - round, this.up);
    const c1 = this.cellAt(box[2] + round, this.across);
    const r1 = this.cellAt(box[3] + round, this.up);
    const most = round / scale;
    const dx = (c0 + 0.5) * cell - x;
    for (let r = r0; r <= r1; r++) {
      const dy = (r + 0.5) * cell - y;
      let u = cos * dx + sin * dy - left / own + 0.5;
      let v = cos * dy - sin * dx - bottom / own + 0.5;
      const row = r * this.across;
      for (let c = c0; c <= c1; c++, u += cos * cell, v -= sin * cell) {
        if (u < 0 || v < 0 || u >= across || v >= up) continue;
        const far = field[(v | 0) * across + (u | 0)];
        if (far < most) depth[row + c] += weight * scale * (most - far);
      }
    }
  }

  /** What an island would lie in at a place, by points all over it; stops counting at the limit. */
  valueAt(
    inner: Float64Array,
    scale: number,
    { x, y, angle }: Pose,
    limit: number,
  ): number {
    const { across, up, cell, depth } = this;
    const cos = scale * Math.cos(angle);
    const sin = scale * Math.sin(angle);
    let value = 0;
    for (let q = 0; q < inner.length && value < limit; q += 2) {
      const c = (x + cos * inner[q] - sin * inner[q + 1]) / cell;
      const r = (y + sin * inner[q] + cos * inner[q + 1]) / cell;
      value +=
        c >= 0 && r >= 0 && c < across && r < up
          ? depth[(r | 0) * across + (c | 0)]
          : OUTSIDE;
    }
    return value;
  }

  private cellAt(px: number, count: number): number {
    return Math.max(0, Math.min(count - 1, Math.floor(px / this.cell)));
  }
}
