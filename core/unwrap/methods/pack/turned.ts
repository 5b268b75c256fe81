import { convexOutline } from "../../../space/convex-outline";
import type { Turned } from "./types";
import type { PackItem, Rotation } from "./types";

/** Share of its smallest box that an outline covers. */
export function bulkOf(item: PackItem): number {
  const { area, width, height } = alignToBox(item);
  return width * height > 0 ? area / (width * height) : 1;
}

/** Turns tried where any is allowed. */
const TURNS = 8;

/** An island in all the ways it may lie: its tightest box first, then further turns. */
export function turnsOf(item: PackItem, rotation: Rotation): Turned[] {
  const tight = alignToBox(item);
  if (rotation === "none") return [turnTo(item, 0, tight.area)];
  const [first, count] = rotation === "any" ? [tight.angle, TURNS] : [0, 4];
  return Array.from({ length: count }, (_, k) =>
    turnTo(item, first + (2 * Math.PI * k) / count, tight.area),
  );
}

/** Turns an island to its smallest box (an edge of the hull lies along it: Freeman and Shapira 1975). */
export function alignToBox(item: PackItem): Turned {
  const { triangles } = item;
  const hull = convexOutline(triangles);
  let best = 0;
  let least = Infinity;
  for (let i = 0; i < hull.length; i += 2) {
    const k = (i + 2) % hull.length;
    const angle = -Math.atan2(hull[k + 1] - hull[i + 1], hull[k] - hull[i]);
    const [x0, y0, x1, y1] = boxAt(hull, angle);
    const size = (x1 - x0) * (y1 - y0);
    if (size < least * 0.9999) {
      least = size;
      best = angle;
    }
  }
  let area = 0;
  for (let i = 0; i < triangles.length; i += 6)
    area +=
      Math.abs(
        (triangles[i + 2] - triangles[i]) *
          (triangles[i + 5] - triangles[i + 1]) -
          (triangles[i + 4] - triangles[i]) *
            (triangles[i + 3] - triangles[i + 1]),
      ) / 2;
  return turnTo(item, best, area);
}

function turnTo({ triangles }: PackItem, angle: number, area: number): Turned {
  const [x0, y0, x1, y1] = boxAt(triangles, angle);
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const moved = new Float64Array(triangles.length);
  for (let i = 0; i < triangles.length; i += 2) {
    moved[i] = cos * triangles[i] - sin * triangles[i + 1] - x0;
    moved[i + 1] = sin * triangles[i] + cos * triangles[i + 1] - y0;
  }
  return {
    triangles: moved,
    angle,
    left: x0,
    bottom: y0,
    width: x1 - x0,
    height: y1 - y0,
    area,
  };
}

function boxAt(
  points: ArrayLike<number>,
  angle: number,
): [number, number, number, number] {
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  let x0 = Infinity;
  let y0 = Infinity;
  let x1 = -Infinity;
  let y1 = -Infinity;
  for (let i = 0; i < points.length; i += 2) {
    const x = cos * points[i] - sin * points[i + 1];
    const y = sin * points[i] + cos * points[i + 1];
    if (x < x0) x0 = x;
    if (x > x1) x1 = x;
    if (y < y0) y0 = y;
    if (y > y1) y1 = y;
  }
  return [x0, y0, x1, y1];
}
