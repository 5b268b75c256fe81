import { boundsOf } from "../space/bounds";

/** Points in a grid of cells, for the nearest one to a place. */
export class VertexGrid {
  private readonly starts: Uint32Array;
  private readonly order: Uint32Array;
  private readonly low: readonly number[];
  private readonly counts: [number, number, number];
  private readonly cell: number;

  /** @param p 3 × count */
  constructor(private readonly p: Float32Array) {
    const { min, max } = boundsOf(p);
    const count = p.length / 3;
    const size = [0, 1, 2].map((k) => max[k] - min[k]);
    const longest = Math.max(...size, 1e-12);
    // About two points a cell on a surface.
    this.cell = longest / Math.max(1, Math.ceil(Math.sqrt(count / 4)));
    this.low = [min[0], min[1], min[2]];
    this.counts = [0, 1, 2].map((k) => Math.floor(size[k] / this.cell) + 1) as [
      number,
      number,
      number,
    ];
    const cells = this.counts[0] * this.counts[1] * this.counts[2];
    this.starts = new Uint32Array(Math.min(cells, 1 << 22) + 1);
    const of = new Uint32Array(count).map((_, v) => this.cellOf(v));
    for (const c of of) this.starts[c + 1]++;
    for (let c = 1; c < this.starts.length; c++)
      this.starts[c] += this.starts[c - 1];
    const at = this.starts.slice();
    this.order = new Uint32Array(count);
    of.forEach((c, v) => (this.order[at[c]++] = v));
  }

  private cellOf(v: number): number {
    return this.number(
      ...([0, 1, 2].map((k) =>
        Math.floor((this.p[3 * v + k] - this.low[k]) / this.cell),
      ) as [number, number, number]),
    );
  }

  /** Far too fine grids fold over: cells then share a number, which only costs time. */
  private number(x: number, y: number, z: number): number {
    return (
      (x + this.counts[0] * (y + this.counts[1] * z)) % (this.starts.length - 1)
    );
  }

  /** The nearest point, or −1 where none lies within. */
  nearest(x: number, y: number, z: number, within = Infinity): number {
    const { p, counts, cell, low } = this;
    const most = Math.max(...counts);
    const centre = [x, y, z].map((each, k) =>
      Math.max(0, Math.min(counts[k] - 1, Math.floor((each - low[k]) / cell))),
    );
    let best = -1;
    let least = within * within;
    for (let ring = 0; ring <= most + 1; ring++) {
      // Cells of this ring and beyond are at least so far away.
      const away = (ring - 1) * cell;
      if (away > 0 && away * away > least) break;
      this.ring(centre, ring, (c) => {
        for (let i = this.starts[c]; i < this.starts[c + 1]; i++) {
          const v = this.order[i];
          const d =
            (p[3 * v] - x) ** 2 +
            (p[3 * v + 1] - y) ** 2 +
            (p[3 * v + 2] - z) ** 2;
          if (
            d < least ||
            (d === least && best >= 0 && v < best) ||
            (best < 0 && d <= least)
          ) {
            least = d;
            best = v;
          }
        }
      });
    }
    return best;
  }

  private ring(centre: number[], ring: number, visit: (cell: number) => void) {
    const { counts } = this;
    const from = centre.map((c) => Math.max(0, c - ring));
    const to = centre.map((c, k) => Math.min(counts[k] - 1, c + ring));
    for (let z = from[2]; z <= to[2]; z++)
      for (let y = from[1]; y <= to[1]; y++) {
        const edge =
          Math.abs(z - centre[2]) === ring || Math.abs(y - centre[1]) === ring;
        if (edge)
          for (let x = from[0]; x <= to[0]; x++) visit(this.number(x, y, z));
        else
          for (const x of ring
            ? [centre[0] - ring, centre[0] + ring]
            : [centre[0]])
            if (x >= from[0] && x <= to[0]) visit(this.number(x, y, z));
      }
  }
}
