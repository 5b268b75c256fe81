/**
 * What factoring L D Lᵀ needs to know of a pattern, and finds row by row (Davis 2005, up-looking): the elimination tree,
 * and how many entries each column of L gets. Common to matrices of single numbers and of blocks.
 */
export class Elimination {
  /** n: the next column that a column's row reaches, or −1. */
  private readonly parent: Int32Array;
  /** n + 1: the entries of column k of L are starts[k] … starts[k + 1] − 1. */
  readonly starts: Int32Array;
  /** The row of each entry of L, filled in while factoring. */
  readonly rows: Int32Array;
  /** n: entries of each column that are filled in. */
  readonly counts: Int32Array;
  /** n: columns of L in which the row at hand has an entry, from the place that `reach` gives to the end. */
  readonly pattern: Int32Array;
  private readonly flag: Int32Array;

  /**
   * @param columnStarts n + 1; @param rowIndex for each column its rows ≤ the column (upper triangle, any order)
   */
  constructor(
    readonly n: number,
    private readonly columnStarts: Int32Array,
    private readonly rowIndex: Int32Array,
  ) {
    const parent = new Int32Array(n).fill(-1);
    const counts = new Int32Array(n);
    const flag = new Int32Array(n);
    for (let k = 0; k < n; k++) {
      flag[k] = k;
      for (let p = columnStarts[k]; p < columnStarts[k + 1]; p++)
        for (let i = rowIndex[p]; i < k && flag[i] !== k; i = parent[i]) {
          if (parent[i] < 0) parent[i] = k;
          counts[i]++;
          flag[i] = k;
        }
    }
    this.starts = new Int32Array(n + 1);
    for (let k = 0; k < n; k++) this.starts[k + 1] = this.starts[k] + counts[k];
    this.parent = parent;
    this.counts = counts;
    this.flag = flag;
    this.rows = new Int32Array(this.starts[n]);
    this.pattern = new Int32Array(n);
  }

  /** Begins to factor anew. */
  begin(): void {
    this.counts.fill(0);
    this.flag.fill(-1);
  }

  /** Finds the columns of L in which row k has an entry, in the order of the tree. @returns where in `pattern` they begin */
  reach(k: number): number {
    const { n, columnStarts, rowIndex, parent, pattern, flag } = this;
    let top = n;
    flag[k] = k;
    for (let p = columnStarts[k]; p < columnStarts[k + 1]; p++) {
      let length = 0;
      for (let i = rowIndex[p]; i < k && flag[i] !== k; i = parent[i]) {
        pattern[length++] = i;
        flag[i] = k;
      }
      while (length > 0) pattern[--top] = pattern[--length];
    }
    return top;
  }
}
