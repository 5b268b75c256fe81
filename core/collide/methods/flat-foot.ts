import type { Hull } from "../../mesh/hull";
import type { Bounds } from "../../space/bounds";
import { diagonalOf } from "../../space/bounds";
import { convexHull } from "./convex-hull";

/** Vertices of a foot lie no higher than this share of the size of all over what it stands on. */
const FOOT = 0.005;

/**
 * Hulls whose foot is flat. A hull with few vertices of something with a rounded rim has its lowest point in the middle
 * and its rim a little higher: it would rock. What lies next to nothing over the lowest place of all is put down there.
 * @param all what the asset takes up, metres: it stands on the lowest of it
 * @param most how far a vertex may be moved, metres
 */
export function withFlatFoot(
  hulls: ReadonlyMap<string, Hull[]>,
  all: Bounds,
  most: number,
): Map<string, Hull[]> {
  const low = all.min[1];
  const reach = Math.min(most, FOOT * diagonalOf(all));
  const put = (hull: Hull): Hull => {
    const { positions: p, kind } = hull;
    if (kind !== "convex") return hull;
    let moved = 0;
    const next = p.map((x, i) => {
      const near = i % 3 === 1 && x > low && x - low <= reach;
      if (near) moved++;
      return near ? low : x;
    });
    const made = moved ? convexHull(next) : null;
    return made ? { ...hull, ...made } : hull;
  };
  return new Map([...hulls].map(([name, list]) => [name, list.map(put)]));
}
