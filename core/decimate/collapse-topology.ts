import type { CornerLists } from "./collapse-planes";
import type { Soup } from "./soup";

/** What a collapse keeps up to date: the faces round each vertex, those that stand, and the vertices on borders. */
export interface CollapseLists extends CornerLists {
  readonly alive: Uint8Array;
  readonly border: Uint8Array;
}

/** Which collapses leave the topology of a soup as it is: nothing joins, nothing opens, no two faces end back to back. */
export class CollapseTopology {
  private readonly seen: Int32Array;
  private seenRound = 0;

  constructor(
    private readonly soup: Soup,
    private readonly lists: CollapseLists,
  ) {
    this.seen = new Int32Array(soup.positions.length / 3);
  }

  /**
   * The ends may only share the neighbours that the faces at the edge give them (Dey et al. 1999).
   * @param closing whether a hole of three edges may close
   */
  mayJoin(a: number, b: number, closing: boolean): boolean {
    const { triangles } = this.soup;
    const { nextCorner, firstCorner, alive } = this.lists;
    const { seen } = this;
    const mine = ++this.seenRound;
    const both = ++this.seenRound;
    for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) {
      const t = (c / 3) | 0;
      if (!alive[t]) continue;
      seen[triangles[3 * t]] = mine;
      seen[triangles[3 * t + 1]] = mine;
      seen[triangles[3 * t + 2]] = mine;
    }
    seen[a] = both;
    seen[b] = both;
    let common = 0;
    let shared = 0;
    for (let c = firstCorner[b]; c >= 0; c = nextCorner[c]) {
      const t = (c / 3) | 0;
      if (!alive[t]) continue;
      for (let k = 0; k < 3; k++) {
        const w = triangles[3 * t + k];
        if (w === a) shared++;
        if (seen[w] === mine) {
          seen[w] = both;
          common++;
        }
      }
    }
    if (common === 2 && shared === 1 && closing) return this.closesHole(a, b);
    if (common !== shared || shared > 2) return false;
    if (shared === 2) {
      if (this.lists.border[a] && this.lists.border[b]) return false;
      return !this.isTetrahedron(a, b);
    }
    return true;
  }

  /** Whether an edge is one side of a hole of three: joining its ends closes the hole and nothing else. */
  private closesHole(a: number, b: number): boolean {
    const { triangles } = this.soup;
    for (
      let c = this.lists.firstCorner[a];
      c >= 0;
      c = this.lists.nextCorner[c]
    ) {
      const t = (c / 3) | 0;
      if (!this.lists.alive[t]) continue;
      for (let k = 0; k < 3; k++) {
        const w = triangles[3 * t + k];
        if (w === a || w === b) continue;
        if (this.usesOf(a, w) === 1 && this.usesOf(b, w) === 1) return true;
      }
    }
    return false;
  }

  /** Where holes may have closed, vertices round them are on no border any more. */
  lookForBorder(a: number): void {
    const { triangles } = this.soup;
    const at = (v: number) => {
      for (
        let c = this.lists.firstCorner[v];
        c >= 0;
        c = this.lists.nextCorner[c]
      ) {
        const t = (c / 3) | 0;
        if (!this.lists.alive[t]) continue;
        for (let k = 0; k < 3; k++) {
          const w = triangles[3 * t + k];
          if (w !== v && this.usesOf(v, w) === 1) return 1;
        }
      }
      return 0;
    };
    for (
      let c = this.lists.firstCorner[a];
      c >= 0;
      c = this.lists.nextCorner[c]
    )
      for (let k = 0; k < 3; k++) {
        const w = triangles[3 * ((c / 3) | 0) + k];
        if (this.lists.border[w]) this.lists.border[w] = at(w);
      }
  }

  /** How many faces have both vertices. */
  private usesOf(a: number, b: number): number {
    const { triangles } = this.soup;
    let uses = 0;
    for (
      let c = this.lists.firstCorner[a];
      c >= 0;
      c = this.lists.nextCorner[c]
    ) {
      const t = (c / 3) | 0;
      if (!this.lists.alive[t]) continue;
      for (let k = 0; k < 3; k++) if (triangles[3 * t + k] === b) uses++;
    }
    return uses;
  }

  /** A tetrahedron passes the link condition, but its collapse leaves two faces back to back. */
  private isTetrahedron(a: number, b: number): boolean {
    return this.valence(a) === 3 && this.valence(b) === 3;
  }

  private valence(v: number): number {
    let count = 0;
    for (
      let c = this.lists.firstCorner[v];
      c >= 0;
      c = this.lists.nextCorner[c]
    )
      count += this.lists.alive[(c / 3) | 0];
    return count;
  }
}
