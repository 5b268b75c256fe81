import { viewDirections } from "./directions";
import type { Axes } from "./principal-axes";
import { WORLD_AXES, principalAxes } from "./principal-axes";
import { dot } from "./vector";

/** A box: its directions, and from where to where it reaches along each, metres. */
export interface TurnedBox {
  axes: Axes;
  extents: [number, number][];
}

/** Directions in which the outermost points are taken for the search. */
const OUTERMOST = 256;

/** The smallest of: the box along the axes, along the principal axes, and those turned about each of them. */
export function smallestBox(points: ArrayLike<number>): TurnedBox {
  const outer = outermost(points);
  const candidates: Axes[] = [];
  for (const base of [WORLD_AXES, principalAxes(points)])
    for (let fixed = 0; fixed < 3; fixed++)
      for (let k = 0; k < 30; k++)
        candidates.push(turnAbout(base, fixed, (Math.PI / 2) * (k / 30)));
  let best = candidates[0];
  let least = Infinity;
  for (const axes of candidates) {
    const volume = extentsAlong(outer, axes).reduce(
      (product, [low, high]) => product * (high - low),
      1,
    );
    if (volume < least * 0.9999) {
      least = volume;
      best = axes;
    }
  }
  return { axes: best, extents: extentsAlong(points, best) };
}

/** The points that lie farthest in any of many directions. */
function outermost(points: ArrayLike<number>): number[] {
  if (points.length <= 3 * OUTERMOST) return Array.from(points);
  const found = new Set<number>();
  for (const way of viewDirections(OUTERMOST)) {
    let most = -Infinity;
    let at = 0;
    for (let i = 0; i < points.length; i += 3) {
      const x =
        points[i] * way[0] + points[i + 1] * way[1] + points[i + 2] * way[2];
      if (x > most) {
        most = x;
        at = i;
      }
    }
    found.add(at);
  }
  return [...found].flatMap((i) => [points[i], points[i + 1], points[i + 2]]);
}

function turnAbout(axes: Axes, fixed: number, angle: number): Axes {
  const [u, v] = [(fixed + 1) % 3, (fixed + 2) % 3];
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  const turned = axes.map((axis) => axis.slice()) as Axes;
  for (let k = 0; k < 3; k++) {
    turned[u][k] = cos * axes[u][k] + sin * axes[v][k];
    turned[v][k] = -sin * axes[u][k] + cos * axes[v][k];
  }
  return turned;
}

/** From where to where points reach along each of three directions. */
export function extentsAlong(
  points: ArrayLike<number>,
  axes: Axes,
): [number, number][] {
  return axes.map((axis) => {
    let low = Infinity;
    let high = -Infinity;
    const p = [0, 0, 0];
    for (let i = 0; i < points.length; i += 3) {
      p[0] = points[i];
      p[1] = points[i + 1];
      p[2] = points[i + 2];
      const x = dot(p, axis);
      if (x < low) low = x;
      if (x > high) high = x;
    }
    return [low, high];
  });
}
