import type { Mesh } from "../../mesh/mesh";
import { boundsOf, diagonalOf } from "../../space/bounds";

/**
 * What is left of a name once a pattern's markers are taken off: `*_source` takes `lamp_source` to `lamp`. The star
 * stands for what is left; without a star the pattern is a marker at the end. Upper and lower case are alike.
 * null where the name does not fit.
 */
export function stripMarkers(name: string, pattern: string): string | null {
  const text = pattern.trim();
  if (!text || text === "*") return null;
  const whole = text.includes("*") ? text : `*${text}`;
  const star = whole.indexOf("*");
  const head = whole.slice(0, star).toLowerCase();
  const tail = whole.slice(star + 1).toLowerCase();
  const low = name.toLowerCase();
  if (!low.startsWith(head) || !low.endsWith(tail)) return null;
  if (name.length <= head.length + tail.length) return null;
  return name.slice(head.length, name.length - tail.length);
}

export interface Patterns {
  source: string;
  game: string;
}

export const DEFAULT_PATTERNS: Patterns = {
  source: "*_source",
  game: "*_game",
};

export interface Matched {
  pairs: { source: string; game: string; name: string }[];
  sources: string[];
  games: string[];
}

/**
 * Pairs source and game names of which the same is left without their markers; a name without its marker stands
 * for itself, so that `lamp` and `lamp_game` pair too.
 */
export function matchNames(
  sources: readonly string[],
  games: readonly string[],
  patterns: Patterns,
): Matched {
  const left = new Map<string, string>();
  for (const name of sources) {
    const key = (stripMarkers(name, patterns.source) ?? name).toLowerCase();
    if (!left.has(key)) left.set(key, name);
  }
  const pairs: Matched["pairs"] = [];
  const paired = new Set<string>();
  const lonely: string[] = [];
  for (const game of games) {
    const name = stripMarkers(game, patterns.game) ?? game;
    const source = left.get(name.toLowerCase());
    if (source === undefined || paired.has(source)) lonely.push(game);
    else {
      paired.add(source);
      pairs.push({ source, game, name });
    }
  }
  return {
    pairs,
    sources: sources.filter((name) => !paired.has(name)),
    games: lonely,
  };
}

/** How far a source and a game mesh are from coinciding. */
export interface Mismatch {
  /** Distance of their middles, as a share of the source's diagonal. */
  offset: number;
  /** Largest ratio of their extents along an axis, ≥ 1. */
  sizeRatio: number;
}

/** Beyond these a bake would miss: shares of the diagonal, ratio of extents. */
const MOST_OFFSET = 0.04;
const MOST_RATIO = 1.12;

/** How far a source and its game mesh lie apart, and how different they are in size. */
export function mismatchOf(source: Mesh, game: Mesh): Mismatch {
  const a = boundsOf(source.positions);
  const b = boundsOf(game.positions);
  const diagonal = diagonalOf(a) || 1;
  const middle = (x: typeof a, k: number) => (x.min[k] + x.max[k]) / 2;
  const offset =
    Math.hypot(...[0, 1, 2].map((k) => middle(a, k) - middle(b, k))) / diagonal;
  let sizeRatio = 1;
  for (let k = 0; k < 3; k++) {
    // Thin extents are compared with some of the diagonal added, or a sheet's thickness would count.
    const s = a.max[k] - a.min[k] + 0.05 * diagonal;
    const g = b.max[k] - b.min[k] + 0.05 * diagonal;
    sizeRatio = Math.max(sizeRatio, s / g, g / s);
  }
  return { offset, sizeRatio };
}

/** Whether two meshes that were paired can hardly be meant for each other. */
export const isMismatch = ({ offset, sizeRatio }: Mismatch) =>
  offset > MOST_OFFSET || sizeRatio > MOST_RATIO;

/**
 * For each game mesh without a partner the sources without one, likeliest first, by place and size: 1 for meshes
 * that coincide, falling to 0.
 */
export function likeliest(
  games: readonly { name: string; mesh: Mesh }[],
  sources: readonly { name: string; mesh: Mesh }[],
): { game: string; sources: { name: string; likeness: number }[] }[] {
  return games.map(({ name, mesh }) => ({
    game: name,
    sources: sources
      .map((source) => {
        const { offset, sizeRatio } = mismatchOf(source.mesh, mesh);
        const likeness = Math.exp(-4 * offset) / sizeRatio ** 2;
        return { name: source.name, likeness };
      })
      .sort((a, b) => b.likeness - a.likeness)
      .slice(0, 3),
  }));
}
