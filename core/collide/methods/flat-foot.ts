import type { Hull } from "../../mesh/hull";
import { convexOutline } from "../../space/convex-outline";
import type { Bounds } from "../../space/bounds";
import { diagonalOf } from "../../space/bounds";
import { outOf, planesOf } from "./containment";
import { convexHull } from "./convex-hull";

/** Vertices of a foot lie no higher than this share of the size of all over what it stands on. */
const FOOT = 0.005;
/** Points of the mesh that lie no higher than this share over it are what it stands on, and as many corners the foot has. */
const STANDS_ON = 0.001;
const CORNERS = 6;
/** A hull holds points that stand out of it by up to this share. */
const HELD = 0.01;

/**
 * Hulls whose foot is flat. A hull with few vertices of something with a rounded rim has its lowest point in the middle
 * and its rim a little higher: it would rock. What lies next to nothing over the lowest place of all is put down there,
 * and where the mesh stands on a face the hull gets corners of that face.
 * @param all what the asset takes up, metres: it stands on the lowest of it
 * @param points of what hulls are made of, 3 × n, metres
 * @param vertices of a hull at the most
 * @param most how far a vertex may be moved, metres
 */
export function withFlatFoot(
  hulls: ReadonlyMap<string, Hull[]>,
  all: Bounds,
  points: Float32Array,
  vertices: number,
  most: number,
): Map<string, Hull[]> {
  const low = all.min[1];
  const size = diagonalOf(all);
  const reach = Math.min(most, FOOT * size);
  const ground = lowPoints(points, low + Math.min(most, STANDS_ON * size));
  const put = (hull: Hull): Hull => {
    const { positions: p, kind } = hull;
    if (kind !== "convex") return hull;
    let moved = 0;
    let least = Infinity;
    const next = p.map((x, i) => {
      if (i % 3 !== 1) return x;
      least = Math.min(least, x);
      const near = x > low && x - low <= reach;
      if (near) moved++;
      return near ? low : x;
    });
    const foot =
      least - low <= reach ? cornersOf(hull, ground, low, HELD * size) : [];
    if (!moved && !foot.length) return hull;
    const room = vertices - foot.length / 3;
    const rest = next.length / 3 > room ? convexHull(next, room) : null;
    const made = convexHull([...(rest?.positions ?? next), ...foot]);
    return made ? { ...hull, ...made } : hull;
  };
  return new Map([...hulls].map(([name, list]) => [name, list.map(put)]));
}

/** The points no higher than a height: 3 × n, metres. */
function lowPoints(p: Float32Array, height: number): number[] {
  const found: number[] = [];
  for (let i = 0; i < p.length; i += 3)
    if (p[i + 1] <= height) found.push(p[i], p[i + 1], p[i + 2]);
  return found;
}

/** Corners of the face that what a hull holds stands on, at a height: 3 × n, metres; none where it is no face. */
function cornersOf(
  hull: Hull,
  ground: readonly number[],
  height: number,
  slack: number,
): number[] {
  const planes = planesOf(hull);
  const held: number[] = [];
  for (let i = 0; i < ground.length; i += 3) {
    const [x, y, z] = [ground[i], ground[i + 1], ground[i + 2]];
    if (outOf(planes, x, y, z, Infinity) <= slack) held.push(x, z);
  }
  const outline = convexOutline(Float64Array.from(held));
  if (outline.length < 6) return [];
  const corners = new Set<number>();
  for (let k = 0; k < CORNERS; k++) {
    const [x, z] = [
      Math.cos((2 * Math.PI * k) / CORNERS),
      Math.sin((2 * Math.PI * k) / CORNERS),
    ];
    let farthest = 0;
    for (let i = 2; i < outline.length; i += 2)
      if (
        x * outline[i] + z * outline[i + 1] >
        x * outline[farthest] + z * outline[farthest + 1]
      )
        farthest = i;
    corners.add(farthest);
  }
  return [...corners].flatMap((i) => [outline[i], height, outline[i + 1]]);
}
