import type { Chart } from "../chart";
import { dissectionOrder } from "../sparse";
import { BlockSolver } from "./block-solver";

/** A matrix over both coordinates of every vertex, assembled in 2 × 2 blocks. */
export class BlockSystem {
  /** Place of each vertex in the order of elimination. */
  readonly rank: Int32Array;
  /** 2 × vertexCount, by rank. */
  readonly right: Float64Array;
  private readonly solver: BlockSolver;
  private readonly entries: Float64Array;
  /** 9 a triangle: the block of corners i, j, or −1 below the diagonal. */
  private readonly slots: Int32Array;
  private readonly columnStarts: Int32Array;

  constructor(private readonly chart: Chart) {
    const n = chart.vertexCount;
    const { starts, list } = neighboursOf(chart);
    this.rank = dissectionOrder(chart.places, starts, list);
    const rank = this.rank;
    const columnStarts = new Int32Array(n + 1);
    const vertexAt = new Int32Array(n);
    for (let v = 0; v < n; v++) vertexAt[rank[v]] = v;
    const rows = new Int32Array(n + (list.length >> 1));
    let count = 0;
    for (let r = 0; r < n; r++) {
      const v = vertexAt[r];
      for (let p = starts[v]; p < starts[v + 1]; p++)
        if (rank[list[p]] < r) rows[count++] = rank[list[p]];
      rows[count++] = r;
      columnStarts[r + 1] = count;
    }
    this.columnStarts = columnStarts;
    this.solver = new BlockSolver(n, columnStarts, rows);
    this.entries = new Float64Array(4 * count);
    this.right = new Float64Array(2 * n);
    const { triangles } = chart;
    this.slots = new Int32Array(triangles.length * 3);
    for (let t = 0; t < triangles.length / 3; t++)
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) {
          const a = rank[triangles[3 * t + i]];
          const b = rank[triangles[3 * t + j]];
          let at = a <= b ? columnStarts[b] : -1;
          if (at >= 0) while (rows[at] !== a) at++;
          this.slots[9 * t + 3 * i + j] = at;
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
    const at = 4 * this.slots[9 * t + 3 * i + j];
    if (at < 0) return;
    const { entries } = this;
    entries[at] += xx;
    entries[at + 1] += xy;
    entries[at + 2] += yx;
    entries[at + 3] += yy;
  }

  /** Adds to the diagonal of a vertex, and the pull to a place to the right side. */
  pin(v: number, weight: number, x: number, y: number): void {
    const r = this.rank[v];
    const at = 4 * (this.columnStarts[r + 1] - 1);
    this.entries[at] += weight;
    this.entries[at + 3] += weight;
    this.right[2 * r] += weight * x;
    this.right[2 * r + 1] += weight * y;
  }

  /** @returns 2 × vertexCount by vertex, or null where the matrix is not positive definite */
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
