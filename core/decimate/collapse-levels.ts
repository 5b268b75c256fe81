/** How far a collapse may go, and what an edge costs that was refused below. */
export interface CollapseLevel {
  flip: number;
  sliver: number;
  times: number;
  spread: number;
  /** The same where components have few triangles left. */
  few?: { times: number; spread: number };
}

/**
 * How far a collapse may go. An edge that is refused comes back with the next level, penalised: `times` its cost
 * and `spread` times the area at the edge × its squared length. So thin and steep triangles are made where
 * everything else would cost more, and nowhere else. Pieces of few triangles are nearly their own boxes: their
 * sides are as thin as they are, and to even them out would cost more shape than it is worth.
 */
export const LEVELS: CollapseLevel[] = [
  { flip: 0.25, sliver: 0.15, times: 1, spread: 0 },
  {
    flip: 0.25,
    sliver: 0.03,
    times: 4,
    spread: 5e-4,
    few: { times: 2, spread: 5e-6 },
  },
  {
    flip: 0,
    sliver: 0,
    times: 16,
    spread: 5e-3,
    few: { times: 4, spread: 5e-5 },
  },
];
/**
 * What is allowed where nothing else leads to the budget: holes of three edges close, and pieces go. Even then no
 * surfaces are joined and nothing opens.
 */
export const LAST: CollapseLevel[] = [
  { flip: 0, sliver: 0, times: 1, spread: 0 },
  { flip: -1, sliver: 0, times: 1, spread: 0 },
];
