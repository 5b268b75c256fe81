import { capsuleMesh, shapeOf } from "./collider-shape";
import type { Hull } from "./hull";
import type { HullFrame } from "./hull-frame";
import { hullFrame } from "./hull-frame";
import type { Matrix } from "./transform";
import { multiply, rotation, transformHull, translation } from "./transform";

type Vector3 = readonly [number, number, number];

/** How hulls are moved: made larger along their own axes, then turned, then moved. */
export interface HullMove {
  /** Metres. */
  move: Vector3;
  /** About this axis by its length, radians. */
  turn: Vector3;
  /** Along each axis of the frame, more than 0. */
  scale: Vector3;
}

export const STILL: HullMove = {
  move: [0, 0, 0],
  turn: [0, 0, 0],
  scale: [1, 1, 1],
};

/** The one of several factors that changes most. */
const strongest = (...factors: number[]) =>
  factors.reduce((best, x) =>
    Math.abs(Math.log(x)) > Math.abs(Math.log(best)) ? x : best,
  );

/** Scale along the axes of a frame, about its centre. */
function scaled({ centre, axes }: HullFrame, by: Vector3): Matrix {
  const m = [...translation(0, 0, 0)];
  for (let column = 0; column < 3; column++)
    for (let row = 0; row < 3; row++)
      m[4 * column + row] = axes.reduce(
        (sum, axis, a) => sum + axis[row] * by[a] * axis[column],
        0,
      );
  return about(centre, m);
}

/** A matrix as it works about a point. */
const about = (at: Vector3, m: Matrix): Matrix =>
  multiply(
    translation(...at),
    multiply(m, translation(-at[0], -at[1], -at[2])),
  );

/** A turn and a move, about a point. */
function placed(at: Vector3, { move, turn }: HullMove): Matrix {
  const angle = Math.hypot(...turn);
  const turned = angle
    ? about(
        at,
        rotation(
          turn.map((x) => x / angle),
          angle,
        ),
      )
    : translation(0, 0, 0);
  return multiply(translation(...move), turned);
}

/**
 * A hull moved by hand. What it is it stays: a sphere grows all round, a capsule keeps its round ends.
 * @param pivot what it is turned about and made larger from, where it goes with others; its own centre otherwise
 */
export function moveHull(
  hull: Hull,
  by: HullMove,
  pivot: Vector3 | null = null,
): Hull {
  const frame = hullFrame(hull);
  const at = pivot ?? frame.centre;
  const place = placed(at, by);
  if (by.scale.every((x) => x === 1))
    return transformHull(hull, place, hull.name);
  // Several are made larger alike: along axes that are not theirs they would be no boxes any more.
  const even = strongest(...by.scale);
  const scale: Vector3 = pivot ? [even, even, even] : by.scale;
  const shape = shapeOf(hull);
  if (shape.type === "capsule" && !pivot) {
    const across = strongest(scale[0], scale[2]);
    const radius = shape.radius * across;
    const length = (shape.height + 2 * shape.radius) * scale[1];
    const half = Math.max(0, length / 2 - radius);
    const end = (way: number) =>
      shape.centre.map((x, k) => x + way * half * shape.axis[k]);
    const made = capsuleMesh(end(-1), end(1), radius);
    return transformHull({ ...hull, ...made }, place, hull.name);
  }
  const grown: Vector3 =
    shape.type === "sphere" ? [even, even, even] : [...scale];
  return transformHull(
    hull,
    multiply(place, scaled({ ...frame, centre: at }, grown)),
    hull.name,
  );
}

/** The middle of several hulls; null for one, which has its own. */
export function pivotOf(hulls: readonly Hull[]): Vector3 | null {
  if (hulls.length < 2) return null;
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of hulls)
    for (let i = 0; i < positions.length; i++) {
      low[i % 3] = Math.min(low[i % 3], positions[i]);
      high[i % 3] = Math.max(high[i % 3], positions[i]);
    }
  return low.map((x, k) => (x + high[k]) / 2) as unknown as Vector3;
}
