import type { Border } from "./border";
import type { SheetBounds } from "./types";

/** The borders of islands where they lie on a sheet, and how deep they lie in each other. */
export class PlacedBorders {
  padding = 0;
  margin = 0;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly angle: Float64Array;
  readonly cos: Float64Array;
  readonly sin: Float64Array;
  /** px for each unit of the borders. */
  readonly scales: Float64Array;
  /** Border points on the sheet, and where each island's begin. */
  readonly points: Float64Array;
  readonly starts: Int32Array;
  readonly boxes: Float64Array;
  /** Groups of points: where each island's begin, their middles on the sheet and radii, where their points begin. */
  readonly groupStarts: Int32Array;
  readonly groupMiddles: Float64Array;
  readonly groupRadii: Float64Array;
  readonly groupPoints: Int32Array;
  /** Energy, gradient (x, y, turn) and the six of the Gauss-Newton matrix of what was gathered last. */
  readonly sums = new Float64Array(10);

  /** @param borders those of the islands, px */
  constructor(
    private readonly borders: readonly Border[],
    private readonly room: SheetBounds,
  ) {
    const n = borders.length;
    this.x = new Float64Array(n);
    this.y = new Float64Array(n);
    this.angle = new Float64Array(n);
    this.cos = new Float64Array(n);
    this.sin = new Float64Array(n);
    this.scales = new Float64Array(n).fill(1);
    this.boxes = new Float64Array(4 * n);
    this.starts = new Int32Array(n + 1);
    this.groupStarts = new Int32Array(n + 1);
    borders.forEach(({ points, groups }, i) => {
      this.starts[i + 1] = this.starts[i] + points.length;
      this.groupStarts[i + 1] = this.groupStarts[i] + groups.radii.length;
    });
    this.points = new Float64Array(this.starts[n]);
    const all = this.groupStarts[n];
    this.groupMiddles = new Float64Array(2 * all);
    this.groupRadii = new Float64Array(all);
    this.groupPoints = new Int32Array(all + 1);
    borders.forEach(({ groups }, i) =>
      groups.radii.forEach((_, g) => {
        this.groupPoints[this.groupStarts[i] + g + 1] =
          this.starts[i] + 2 * groups.starts[g + 1];
      }),
    );
  }

  /** Renews where the points of an island are. */
  place(i: number): void {
    const { points, boxes, groupMiddles, groupRadii } = this;
    const { points: local, groups } = this.borders[i];
    const scale = this.scales[i];
    const cos = Math.cos(this.angle[i]);
    const sin = Math.sin(this.angle[i]);
    this.cos[i] = cos;
    this.sin[i] = sin;
    const cs = scale * cos;
    const sn = scale * sin;
    const px = this.x[i];
    const py = this.y[i];
    let x0 = Infinity;
    let y0 = Infinity;
    let x1 = -Infinity;
    let y1 = -Infinity;
    const from = this.starts[i];
    for (let k = 0; k < local.length; k += 2) {
      const x = px + cs * local[k] - sn * local[k + 1];
      const y = py + sn * local[k] + cs * local[k + 1];
      points[from + k] = x;
      points[from + k + 1] = y;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
    }
    boxes[4 * i] = x0;
    boxes[4 * i + 1] = y0;
    boxes[4 * i + 2] = x1;
    boxes[4 * i + 3] = y1;
    const { middles, radii } = groups;
    for (let g = 0, to = this.groupStarts[i]; g < radii.length; g++, to++) {
      const u = middles[2 * g];
      const v = middles[2 * g + 1];
      groupMiddles[2 * to] = px + cs * u - sn * v;
      groupMiddles[2 * to + 1] = py + sn * u + cs * v;
      groupRadii[to] = scale * radii[g];
    }
  }

  near(i: number, j: number): boolean {
    const { boxes } = this;
    const { padding } = this;
    return (
      boxes[4 * i] < boxes[4 * j + 2] + padding &&
      boxes[4 * i + 2] > boxes[4 * j] - padding &&
      boxes[4 * i + 1] < boxes[4 * j + 3] + padding &&
      boxes[4 * i + 3] > boxes[4 * j + 1] - padding
    );
  }

  /**
   * Adds up what the points of island a have in island b, as a change of `of` (one of them) changes it.
   * In one piece, with its sums in locals: it is the innermost loop of packing.
   */
  meet(a: number, b: number, of: number, weight: number): number {
    const { points, boxes, sums } = this;
    const { groupStarts, groupMiddles, groupRadii, groupPoints } = this;
    const { field, across, up, cell, left, bottom } = this.borders[b];
    const { padding } = this;
    const scale = this.scales[b];
    const bx0 = boxes[4 * b] - padding;
    const by0 = boxes[4 * b + 1] - padding;
    const bx1 = boxes[4 * b + 2] + padding;
    const by1 = boxes[4 * b + 3] + padding;
    const ox = this.x[b];
    const oy = this.y[b];
    const cos = this.cos[b];
    const sin = this.sin[b];
    const mx = this.x[of];
    const my = this.y[of];
    const sign = of === a ? 1 : -1;
    const step = 1 / (scale * cell);
    const shiftX = -left / cell;
    const shiftY = -bottom / cell;
    let deepest = 0;
    let energy = 0;
    for (let group = groupStarts[a]; group < groupStarts[a + 1]; group++) {
      const hx = groupMiddles[2 * group];
      const hy = groupMiddles[2 * group + 1];
      const wide = groupRadii[group];
      if (hx + wide <= bx0 || hx - wide >= bx1) continue;
      if (hy + wide <= by0 || hy - wide >= by1) continue;
      const hu = (cos * (hx - ox) + sin * (hy - oy)) * step + shiftX + 0.5;
      const hv = (cos * (hy - oy) - sin * (hx - ox)) * step + shiftY + 0.5;
      if (
        hu >= 0 &&
        hv >= 0 &&
        hu < across &&
        hv < up &&
        scale * (field[(hv | 0) * across + (hu | 0)] - 0.75 * cell) - wide >
          padding
      )
        continue;
      for (let k = groupPoints[group]; k < groupPoints[group + 1]; k += 2) {
        const x = points[k];
        if (x <= bx0 || x >= bx1) continue;
        const y = points[k + 1];
        if (y <= by0 || y >= by1) continue;
        const dx = x - ox;
        const dy = y - oy;
        const u = (cos * dx + sin * dy) * step + shiftX;
        const v = (cos * dy - sin * dx) * step + shiftY;
        if (!(u >= 0 && v >= 0 && u < across - 1 && v < up - 1)) continue;
        const column = u | 0;
        const row = v | 0;
        const i = row * across + column;
        const f = u - column;
        const g = v - row;
        const d00 = field[i];
        const d10 = field[i + 1];
        const d01 = field[i + across];
        const d11 = field[i + across + 1];
        const low = d00 + f * (d10 - d00);
        const high = d01 + f * (d11 - d01);
        const deep = padding - scale * (low + g * (high - low));
        if (deep <= 0) continue;
        if (deep > deepest) deepest = deep;
        let nx = d10 - d00 + g * (d11 - d01 - d10 + d00);
        let ny = high - low;
        const length = Math.sqrt(nx * nx + ny * ny);
        if (!(length > 0)) continue;
        nx /= length;
        ny /= length;
        const wx = sign * (cos * nx - sin * ny);
        const wy = sign * (sin * nx + cos * ny);
        const turn = (x - mx) * wy - (y - my) * wx;
        energy += deep * deep;
        const w = weight * deep;
        sums[1] += w * wx;
        sums[2] += w * wy;
        sums[3] += w * turn;
        sums[4] += weight * wx * wx;
        sums[5] += weight * wx * wy;
        sums[6] += weight * wy * wy;
        sums[7] += weight * wx * turn;
        sums[8] += weight * wy * turn;
        sums[9] += weight * turn * turn;
      }
    }
    sums[0] += weight * energy;
    return deepest;
  }

  /** Adds up what the points of an island have outside the sheet. */
  meetBorder(i: number, weight: number): number {
    const { boxes, points, starts, sums } = this;
    const { margin } = this;
    const { width, height } = this.room;
    const x1 = width - margin;
    const y1 = height - margin;
    if (
      boxes[4 * i] >= margin &&
      boxes[4 * i + 1] >= margin &&
      boxes[4 * i + 2] <= x1 &&
      boxes[4 * i + 3] <= y1
    )
      return 0;
    let deepest = 0;
    for (let k = starts[i]; k < starts[i + 1]; k += 2) {
      const x = points[k];
      const y = points[k + 1];
      const ex = x < margin ? margin - x : x > x1 ? x1 - x : 0;
      const ey = y < margin ? margin - y : y > y1 ? y1 - y : 0;
      if (ex !== 0) {
        const turn = this.y[i] - y;
        deepest = Math.max(deepest, Math.abs(ex));
        sums[0] += weight * ex * ex;
        sums[1] += weight * ex;
        sums[3] += weight * ex * turn;
        sums[4] += weight;
        sums[7] += weight * turn;
        sums[9] += weight * turn * turn;
      }
      if (ey !== 0) {
        const turn = x - this.x[i];
        deepest = Math.max(deepest, Math.abs(ey));
        sums[0] += weight * ey * ey;
        sums[2] += weight * ey;
        sums[3] += weight * ey * turn;
        sums[6] += weight;
        sums[8] += weight * turn;
        sums[9] += weight * turn * turn;
      }
    }
    return deepest;
  }
}
