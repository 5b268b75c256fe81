/** A graph for the least cut between two sets, in flat arrays. Nodes 0 and 1 are the two ends. */
export class CutGraph {
  private readonly heads: number[] = [];
  private readonly nexts: number[] = [];
  private readonly rooms: number[] = [];
  private readonly firsts: Int32Array;

  constructor(private readonly count: number) {
    this.firsts = new Int32Array(count).fill(-1);
  }

  /** An edge both ways. @param room what it costs to cut it */
  link(a: number, b: number, room: number): void {
    for (const [from, to] of [
      [a, b],
      [b, a],
    ]) {
      this.heads.push(to);
      this.rooms.push(room);
      this.nexts.push(this.firsts[from]);
      this.firsts[from] = this.heads.length - 1;
    }
  }

  /** Marks the nodes on the side of node 0 of the least cut (Dinic 1970). */
  solve(): Uint8Array {
    const { heads, nexts, rooms, firsts, count } = this;
    const level = new Int32Array(count);
    const at = new Int32Array(count);
    const queue = new Int32Array(count);
    const path = new Int32Array(count);
    const reach = () => {
      level.fill(-1);
      level[0] = 0;
      queue[0] = 0;
      for (let low = 0, high = 1; low < high; low++) {
        const v = queue[low];
        for (let k = firsts[v]; k >= 0; k = nexts[k])
          if (rooms[k] > 1e-15 && level[heads[k]] < 0) {
            level[heads[k]] = level[v] + 1;
            queue[high++] = heads[k];
          }
      }
      return level[1] >= 0;
    };
    while (reach()) {
      at.set(firsts);
      // Walks forward to the far end, back where it gets stuck.
      let depth = 0;
      let v = 0;
      for (;;) {
        if (v === 1) {
          let least = Infinity;
          for (let i = 0; i < depth; i++)
            least = Math.min(least, rooms[path[i]]);
          let back = depth;
          for (let i = depth - 1; i >= 0; i--) {
            rooms[path[i]] -= least;
            rooms[path[i] ^ 1] += least;
            if (rooms[path[i]] <= 1e-15) back = i;
          }
          depth = back;
          v = heads[path[depth] ^ 1];
          continue;
        }
        let k = at[v];
        while (
          k >= 0 &&
          !(rooms[k] > 1e-15 && level[heads[k]] === level[v] + 1)
        )
          k = nexts[k];
        at[v] = k;
        if (k >= 0) {
          path[depth++] = k;
          v = heads[k];
        } else {
          if (v === 0) break;
          level[v] = -1;
          depth--;
          v = heads[path[depth] ^ 1];
        }
      }
    }
    return Uint8Array.from(level, (each) => (each >= 0 ? 1 : 0));
  }
}
