/** Sets of the numbers 0 … count − 1 that are joined bit by bit (Tarjan 1975, by path halving). */
export class UnionFind {
  private readonly parent: Uint32Array;

  constructor(count: number) {
    this.parent = new Uint32Array(count);
    for (let i = 0; i < count; i++) this.parent[i] = i;
  }

  /** The member that names the set of i. */
  find(i: number): number {
    const { parent } = this;
    while (parent[i] !== i) {
      parent[i] = parent[parent[i]];
      i = parent[i];
    }
    return i;
  }

  /** Joins the set of a with that of b, whose name stays. */
  join(a: number, b: number): void {
    this.parent[this.find(a)] = this.find(b);
  }
}
