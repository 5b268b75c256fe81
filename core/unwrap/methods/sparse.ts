import { Elimination } from "./elimination";

/**
 * Direct solver for sparse symmetric positive definite systems.
 *
 * Notes: charts are planar graphs, for which nested dissection keeps the factor at about n log n entries; the
 * cut by the longest axis of the vertices' places does that without a graph partitioner. Conjugate gradients
 * need some hundred rounds for a conformal system and were several times slower from 300 vertices on.
 */
export class SparseSolver {
  private readonly elimination: Elimination;
  private readonly values: Float64Array;
  private readonly diagonal: Float64Array;
  private readonly work: Float64Array;

  /**
   * @param columnStarts n + 1; @param rowIndex for each column its rows ≤ the column (upper triangle, any order)
   */
  constructor(
    private readonly n: number,
    private readonly columnStarts: Int32Array,
    private readonly rowIndex: Int32Array,
  ) {
    this.elimination = new Elimination(n, columnStarts, rowIndex);
    this.values = new Float64Array(this.elimination.rows.length);
    this.diagonal = new Float64Array(n);
    this.work = new Float64Array(n);
  }

  /** Factors L D Lᵀ (Davis 2005, up-looking). @returns false where the matrix is not positive definite */
  factor(entries: Float64Array): boolean {
    const { n, columnStarts, rowIndex, elimination } = this;
    const { values, diagonal, work } = this;
    const { starts, rows, counts, pattern } = elimination;
    elimination.begin();
    for (let k = 0; k < n; k++) {
      let top = elimination.reach(k);
      work[k] = 0;
      for (let p = columnStarts[k]; p < columnStarts[k + 1]; p++)
        if (rowIndex[p] <= k) work[rowIndex[p]] += entries[p];
      let d = work[k];
      work[k] = 0;
      for (; top < n; top++) {
        const i = pattern[top];
        const y = work[i];
        work[i] = 0;
        const end = starts[i] + counts[i];
        for (let p = starts[i]; p < end; p++) work[rows[p]] -= values[p] * y;
        const l = y / diagonal[i];
        d -= l * y;
        rows[end] = k;
        values[end] = l;
        counts[i]++;
      }
      if (!(d > 0)) return false;
      diagonal[k] = d;
    }
    return true;
  }

  /** Solves in place. */
  solve(b: Float64Array): void {
    const { n, values, diagonal } = this;
    const { starts, rows } = this.elimination;
    for (let k = 0; k < n; k++)
      for (let p = starts[k]; p < starts[k + 1]; p++)
        b[rows[p]] -= values[p] * b[k];
    for (let k = 0; k < n; k++) b[k] /= diagonal[k];
    for (let k = n - 1; k >= 0; k--)
      for (let p = starts[k]; p < starts[k + 1]; p++)
        b[k] -= values[p] * b[rows[p]];
  }
}

/**
 * An order of elimination by nested dissection along the longest axis.
 * @param places 3 × n; @param neighbourStarts, neighbours: the graph
 * @returns the place of each vertex in the order
 */
export function dissectionOrder(
  places: ArrayLike<number>,
  neighbourStarts: Int32Array,
  neighbours: Int32Array,
): Int32Array {
  const n = neighbourStarts.length - 1;
  const rank = new Int32Array(n).fill(-1);
  const side = new Int32Array(n);
  let next = n - 1;
  let mark = 0;
  const stack: number[][] = [Array.from({ length: n }, (_, v) => v)];
  while (stack.length) {
    const set = stack.pop()!;
    if (set.length <= 24) {
      for (const v of set) rank[v] = next--;
      continue;
    }
    let axis = 0;
    let widest = -1;
    for (let k = 0; k < 3; k++) {
      let low = Infinity;
      let high = -Infinity;
      for (const v of set) {
        low = Math.min(low, places[3 * v + k]);
        high = Math.max(high, places[3 * v + k]);
      }
      if (high - low > widest) {
        widest = high - low;
        axis = k;
      }
    }
    set.sort((a, b) => places[3 * a + axis] - places[3 * b + axis] || a - b);
    const half = set.length >> 1;
    const low = ++mark;
    for (let i = 0; i < half; i++) side[set[i]] = low;
    const first: number[] = [];
    const second: number[] = [];
    for (let i = 0; i < set.length; i++) {
      const v = set[i];
      if (i < half) {
        first.push(v);
        continue;
      }
      let touches = false;
      for (
        let p = neighbourStarts[v];
        p < neighbourStarts[v + 1] && !touches;
        p++
      )
        touches = side[neighbours[p]] === low;
      if (touches) rank[v] = next--;
      else second.push(v);
    }
    stack.push(first, second);
  }
  return rank;
}
