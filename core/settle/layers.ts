import type { Done, SettleWork } from "./work";

/**
 * Of triangles over the same three vertices keeps what a surface needs: one of several that face one way, and of
 * two that face each other the one that goes on from its neighbours, or none where the neighbours are closed
 * without them. A sheet that has both its sides keeps them.
 */
export function dropLayers(work: SettleWork, done: Done): void {
  const groups = sameTriangles(work, mayLieDouble(work));
  if (!groups.length) return;
  work.link();
  const grouped = new Set(groups.flat());
  for (const group of groups) {
    const forward = group.filter((t) => runsAlike(work, group[0], t));
    const back = group.filter((t) => !forward.includes(t));
    const keep = new Set<number>();
    if (!back.length || !forward.length) keep.add(group[0]);
    else {
      const sides = [forward[0], back[0]].map((t) => joinsOf(work, t, grouped));
      const open = sides[0].open;
      if (sides[0].others === 0) {
        keep.add(forward[0]);
        keep.add(back[0]);
      } else if (open > 0)
        keep.add(sides[0].follows >= sides[1].follows ? forward[0] : back[0]);
    }
    for (const t of group)
      if (!keep.has(t)) {
        done.note(work.positions, work.vertices[3 * t]);
        work.drop(t);
      }
  }
}

/** Triangles at edges of more than two, and pairs that share all their edges: no others can lie on each other. */
function mayLieDouble(work: SettleWork): number[] {
  const { uses, first, second, ofCorner } = work.allEdges();
  const { vertices } = work;
  const found = new Set<number>();
  for (let c = 0; c < ofCorner.length; c++)
    if (uses[ofCorner[c]] > 2) found.add((c / 3) | 0);
  const across = (c: number) => vertices[c % 3 === 0 ? c + 2 : c - 1];
  for (let e = 0; e < uses.length; e++)
    if (uses[e] === 2 && across(first[e]) === across(second[e])) {
      found.add((first[e] / 3) | 0);
      found.add((second[e] / 3) | 0);
    }
  return [...found].sort((s, t) => s - t);
}

/** Groups of two and more triangles over the same vertices. */
function sameTriangles(
  { vertices }: SettleWork,
  among: readonly number[],
): number[][] {
  const groups = new Map<string, number[]>();
  for (const t of among) {
    const name = vertices
      .slice(3 * t, 3 * t + 3)
      .sort()
      .join();
    const group = groups.get(name);
    if (group) group.push(t);
    else groups.set(name, [t]);
  }
  return [...groups.values()].filter((group) => group.length > 1);
}

/** Whether two triangles over the same vertices face the same way. */
function runsAlike({ vertices }: SettleWork, s: number, t: number): boolean {
  const k = [0, 1, 2].find((i) => vertices[3 * t + i] === vertices[3 * s])!;
  return vertices[3 * t + ((k + 1) % 3)] === vertices[3 * s + 1];
}

/**
 * What lies beyond a triangle's edges, without other layers: how many triangles, at how many edges just one, and
 * how many of them run on from it.
 */
function joinsOf(work: SettleWork, t: number, layers: ReadonlySet<number>) {
  const { vertices, firstCorner, nextCorner, alive } = work;
  let others = 0;
  let open = 0;
  let follows = 0;
  for (let k = 0; k < 3; k++) {
    const a = vertices[3 * t + k];
    const b = vertices[3 * t + ((k + 1) % 3)];
    let here = 0;
    for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) {
      const s = (c / 3) | 0;
      if (!alive[s] || layers.has(s)) continue;
      const next = vertices[3 * s + ((c + 1) % 3)];
      const before = vertices[3 * s + ((c + 2) % 3)];
      if (next !== b && before !== b) continue;
      here++;
      if (before === b) follows++;
    }
    others += here;
    if (here % 2 === 1) open++;
  }
  return { others, open, follows };
}
