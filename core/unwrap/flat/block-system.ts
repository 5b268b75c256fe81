import type { Chart } from "../chart";
import { dissectionOrder, SparseSolver } from "../sparse";

/** The normal matrix over both coordinates of every vertex, assembled in 2 × 2 blocks. */
export class BlockSystem {
  readonly rank: Int32Array;
  private readonly solver: SparseSolver;
  private readonly entries: Float64Array;
  private readonly slots: Int32Array;
  private readonly columnStarts: Int32Array;
  readonly right: Float64Array;

  constructor(private readonly chart: Chart) {
    const n = chart.vertexCount;
    const { starts, list } = neighboursOf(chart);
    this.rank = dissectionOrder(chart.places, starts, list);
    const rank = this.rank;
    // Column 2r + d of vertex with rank r: blocks of neighbours with lower rank, then its own.
    const columnStarts = new Int32Array(2 * n + 1);
    const vertexAt = new Int32Array(n);
    for (let v = 0; v < n; v++) vertexAt[rank[v]] = v;
    const rows: number[] = [];
    const slotOf = new Map<number, number>();
    for (let r = 0; r < n; r++) {
      const v = vertexAt[r];
      const lower: number[] = [];
      for (let p = starts[v]; p < starts[v + 1]; p++)
        if (rank[list[p]] < r) lower.push(rank[list[p]]);
      for (let d = 0; d < 2; d++) {
        for (const q of lower) {
          slotOf.set((q * n + r) * 2 + d, rows.length);
          rows.push(2 * q, 2 * q + 1);
        }
        slotOf.set((r * n + r) * 2 + d, rows.length);
        rows.push(2 * r);
        if (d === 1) rows.push(2 * r + 1);
        columnStarts[2 * r + d + 1] = rows.length;
      }
    }
    this.columnStarts = columnStarts;
    this.solver = new SparseSolver(2 * n, columnStarts, new Int32Array(rows));
    this.entries = new Float64Array(rows.length);
    this.right = new Float64Array(2 * n);
    const { triangles } = chart;
    this.slots = new Int32Array(triangles.length * 6);
    for (let t = 0; t < triangles.length / 3; t++)
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) {
          const a = rank[triangles[3 * t + i]];
          const b = rank[triangles[3 * t + j]];
          const at = 2 * (9 * t + 3 * i + j);
          this.slots[at] = a <= b ? slotOf.get((a * n + b) * 2)! : -1;
          this.slots[at + 1] = a <= b ? slotOf.get((a * n + b) * 2 + 1)! : -1;
        }
  }

  clear(): void {
    this.entries.fill(0);
    this.right.fill(0);
  }

  /** Adds the block [xx xy; yx yy] for corners i, j of triangle t (rows of i, columns of j). */
  add(
    t: number,
    i: number,
    j: number,
    xx: number,
    xy: number,
    yx: number,
    yy: number,
  ): void {
    const at = 2 * (9 * t + 3 * i + j);
    const first = this.slots[at];
    if (first < 0) return;
    const second = this.slots[at + 1];
    const { entries } = this;
    entries[first] += xx;
    if (i !== j) entries[first + 1] += yx;
    entries[second] += xy;
    entries[second + 1] += yy;
  }

  /** Adds to the diagonal of a vertex, and the pull to a place to the right side. */
  pin(v: number, weight: number, x: number, y: number): void {
    const r = this.rank[v];
    this.entries[this.columnStarts[2 * r + 1] - 1] += weight;
    this.entries[this.columnStarts[2 * r + 2] - 1] += weight;
    this.right[2 * r] += weight * x;
    this.right[2 * r + 1] += weight * y;
  }

  solve(): Float64Array | null {
    if (!this.solver.factor(this.entries)) return null;
    this.solver.solve(this.right);
    const uv = new Float64Array(2 * this.chart.vertexCount);
    for (let v = 0; v < this.chart.vertexCount; v++) {
      uv[2 * v] = this.right[2 * this.rank[v]];
      uv[2 * v + 1] = this.right[2 * this.rank[v] + 1];
    }
    return uv;
  }
}

/** The vertices that share a triangle with each vertex. */
export function neighboursOf(chart: Chart) {
  const { triangles, vertexCount } = chart;
  const sets: Set<number>[] = Array.from(
    { length: vertexCount },
    () => new Set(),
  );
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const a = triangles[t + k];
      const b = triangles[t + ((k + 1) % 3)];
      if (a === b) continue;
      sets[a].add(b);
      sets[b].add(a);
    }
  const starts = new Int32Array(vertexCount + 1);
  const list: number[] = [];
  for (let v = 0; v < vertexCount; v++) {
    list.push(...sets[v]);
    starts[v + 1] = list.length;
  }
  return { starts, list: new Int32Array(list) };
}
