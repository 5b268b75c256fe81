import type { DrawnPart } from "./facts";

/**
 * From which share of the screen on each level of a whole delivery is drawn: what its parts say, the largest of them,
 * so that none is seen coarser than it asks for; where they say nothing, half of the share that its triangles have.
 * @param triangles of each level of the whole, falling
 * @returns falling; the last is 0: it is drawn however small it is
 */
export function sharesOf(
  parts: readonly Pick<DrawnPart, "nodes" | "coverage">[],
  triangles: readonly number[],
): number[] {
  return triangles.map((_, l) => {
    if (l + 1 >= triangles.length) return 0;
    const told = parts.flatMap(({ coverage, nodes }) =>
      coverage && l + 1 < nodes.length ? [coverage[l] ?? 0] : [],
    );
    return told.length
      ? Math.max(...told)
      : (0.5 * triangles[l + 1]) / (triangles[0] || 1);
  });
}

/** The level with which a thing is drawn that covers a share of the screen, 0 … 1. */
export function levelFor(shares: readonly number[], share: number): number {
  const at = shares.findIndex((least) => share >= least);
  return at < 0 ? Math.max(0, shares.length - 1) : at;
}

/**
 * The share of the screen that a ball covers. @param radius metres @param distance from the eye to its middle, metres
 * @param slope half of what is seen from top to bottom, in distances
 */
export const shareOf = (
  radius: number,
  distance: number,
  slope: number,
): number => Math.min(1, (radius / (Math.max(distance, radius) * slope)) ** 2);

/** Where copies stand: the first at nought, the others in a square of rows behind it. @param gap metres @returns x and z of each */
export function rowsOf(copies: number, gap: number): [number, number][] {
  const wide = Math.ceil(Math.sqrt(copies));
  return Array.from({ length: copies }, (_, i) => {
    const column = i % wide;
    // From the middle outwards, right and left in turns.
    const side = (column % 2 ? 1 : -1) * Math.ceil(column / 2);
    return [side * gap || 0, -Math.floor(i / wide) * gap || 0];
  });
}
