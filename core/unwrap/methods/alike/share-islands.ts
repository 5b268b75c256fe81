import type { Mesh } from "../../../mesh/mesh";
import type { Context } from "../../../base/context";
import { spanOf } from "../../../base/context";
import type { Sheet } from "../sheet";
import type { SheetIsland, SheetMove } from "../sheet-islands";
import { gatherIslands, markIslands, moveIslands } from "../sheet-islands";
import type { AlikeGroup } from "./find-alike";
import { findAlike } from "./find-alike";
import { Visibility } from "./seen-together";

/** Share of an island's size that points of one like it may be off. */
export const TOLERANCE = 0.01;
/** Islands of fewer texels along their side may be shared wherever they are. */
export const TOO_SMALL = 24;

/** Islands that are alike, with what sharing them would mean. */
export interface Repeat extends AlikeGroup {
  /** Largest share of directions from which two of them are seen at once. */
  together: number;
  /** Share of all texels that is freed when all lie on the first. */
  freed: number;
  /** Edge of a square of as many texels as the first has, px. */
  size: number;
  /** Sets of islands that can share: none of a set is ever seen with another of it, or all are too small to notice. */
  stacks: number[][];
}

/** Finds what is alike, whether copies can be seen together, and what sharing frees. */
export function findRepeats(
  meshes: readonly Mesh[],
  islands: readonly SheetIsland[],
  tolerance: number,
  context: Context,
): Repeat[] {
  const groups = findAlike(meshes, islands, tolerance, spanOf(context, 0, 0.6));
  if (!groups.length) return [];
  context.progress(0.65, "looking at copies from all round");
  const seen = new Visibility(meshes, islands, () => context.check());
  const all = islands.reduce((sum, each) => sum + each.covered, 0);
  return groups.map((group) => {
    const members = [group.first, ...group.others.map(({ island }) => island)];
    const size = Math.sqrt(islands[group.first].covered);
    let together = 0;
    const stacks: number[][] = [];
    for (const i of members) {
      let own: number[] | null = null;
      for (const stack of stacks) {
        const most = Math.max(...stack.map((j) => seen.together(i, j)));
        together = Math.max(together, most);
        if (!own && (most === 0 || size < TOO_SMALL)) own = stack;
      }
      if (own) own.push(i);
      else stacks.push([i]);
    }
    return {
      ...group,
      together,
      size,
      stacks,
      freed:
        group.others.reduce(
          (sum, { island }) => sum + islands[island].covered,
          0,
        ) / (all || 1),
    };
  });
}

/** Lays copies exactly on the island whose texels they share, and marks them. */
export function shareIslands(
  meshes: readonly Mesh[],
  sheet: Sheet,
  options: {
    only: "never seen together" | "all";
    locked?: readonly boolean[];
    /** Which islands may be shared at all. */
    chosen?: (island: SheetIsland) => boolean;
    tolerance?: number;
  },
  context: Context,
): { meshes: Mesh[]; copies: number; freed: number } {
  const islands = gatherIslands(meshes, sheet);
  const may = islands.map(
    (island) =>
      !options.locked?.[island.mesh] && (options.chosen?.(island) ?? true),
  );
  const allowed = islands.flatMap((_, i) => (may[i] ? [i] : []));
  const repeats = findRepeats(
    meshes,
    allowed.map((i) => islands[i]),
    options.tolerance ?? TOLERANCE,
    context,
  );
  const moves: (SheetMove | null)[] = islands.map(() => null);
  const copies = new Uint8Array(islands.length);
  for (const { first, others, stacks } of repeats) {
    const moveOf = new Map(others.map((each) => [each.island, each.move]));
    const sets =
      options.only === "all"
        ? [[first, ...others.map((each) => each.island)]]
        : stacks;
    for (const [own, ...rest] of sets) {
      const back = own === first ? null : inverse(moveOf.get(own)!);
      for (const i of rest) {
        const onFirst = i === first ? STAY : moveOf.get(i)!;
        moves[allowed[i]] = back ? after(back, onFirst) : onFirst;
        copies[allowed[i]] = 1;
      }
    }
  }
  const all = islands.reduce((sum, each) => sum + each.covered, 0);
  const moved = moveIslands(meshes, islands, moves, sheet);
  const snapped = snapCopies(moved, islands, copies);
  return {
    meshes: markIslands(snapped, islands, "copies", (_, i) =>
      may[i] ? copies[i] : null,
    ),
    copies: copies.reduce((sum, mark) => sum + mark, 0),
    freed:
      islands.reduce(
        (sum, each, i) => sum + (copies[i] ? each.covered : 0),
        0,
      ) / (all || 1),
  };
}

const STAY: SheetMove = { a: 1, b: 0, c: 0, d: 1, e: 0, f: 0 };

/** First `first`, then `then`. */
const after = (then: SheetMove, first: SheetMove): SheetMove => ({
  a: then.a * first.a + then.b * first.c,
  b: then.a * first.b + then.b * first.d,
  c: then.c * first.a + then.d * first.c,
  d: then.c * first.b + then.d * first.d,
  e: then.a * first.e + then.b * first.f + then.e,
  f: then.c * first.e + then.d * first.f + then.f,
});

function inverse({ a, b, c, d, e, f }: SheetMove): SheetMove {
  const det = a * d - b * c;
  return {
    a: d / det,
    b: -b / det,
    c: -c / det,
    d: a / det,
    e: (b * f - d * e) / det,
    f: (c * e - a * f) / det,
  };
}

/** Corners of copies that come out beside a corner of what they lie on are put exactly there. */
function snapCopies(
  meshes: readonly Mesh[],
  islands: readonly SheetIsland[],
  copies: Uint8Array,
): Mesh[] {
  const name = (u: number, v: number) =>
    `${Math.round(u * 2048)} ${Math.round(v * 2048)}`;
  const places = new Map<string, [number, number][]>();
  islands.forEach(({ mesh, corners }, i) => {
    if (copies[i]) return;
    const { uvs } = meshes[mesh];
    for (const c of corners) {
      const key = name(uvs![2 * c], uvs![2 * c + 1]);
      const list = places.get(key) ?? [];
      if (!list.some(([u, v]) => u === uvs![2 * c] && v === uvs![2 * c + 1]))
        list.push([uvs![2 * c], uvs![2 * c + 1]]);
      places.set(key, list);
    }
  });
  const next = meshes.map((mesh) => mesh.uvs);
  islands.forEach(({ mesh, corners }, i) => {
    if (!copies[i]) return;
    if (next[mesh] === meshes[mesh].uvs) next[mesh] = next[mesh]!.slice();
    const uvs = next[mesh]!;
    for (const c of corners) {
      let best: [number, number] | null = null;
      let least = 1 / 4096;
      for (let dx = -1; dx <= 1; dx++)
        for (let dy = -1; dy <= 1; dy++)
          for (const at of places.get(
            name(uvs[2 * c] + dx / 2048, uvs[2 * c + 1] + dy / 2048),
          ) ?? []) {
            const far = Math.hypot(at[0] - uvs[2 * c], at[1] - uvs[2 * c + 1]);
            if (far < least) {
              least = far;
              best = at;
            }
          }
      if (best) uvs.set(best, 2 * c);
    }
  });
  return meshes.map((mesh, m) =>
    next[m] === mesh.uvs ? mesh : { ...mesh, uvs: next[m] },
  );
}
