import { spaced } from "../../base/wording";

/** What was done about parts that break, as reports say it. */
export interface UnbrokenCounts {
  shapes: { part: string; shape: string; triangles: number }[];
  baked: readonly string[];
}

/** The same in words; null where nothing was. */
export function unbrokenWords({
  shapes,
  baked,
}: UnbrokenCounts): string | null {
  const named = (names: readonly string[]) =>
    names.length <= 3 ? names.join(", ") : `${spaced(names.length)} parts`;
  const both = [
    ...(shapes.length
      ? [`simple shapes stand for ${named(shapes.map(({ part }) => part))}`]
      : []),
    ...(baked.length
      ? [`${named(baked)} ${baked.length === 1 ? "is" : "are"} only baked`]
      : []),
  ].join(", ");
  return both ? `${both}: reduced to so few triangles they would break` : null;
}
