import type { Axes } from "../space/principal-axes";
import { WORLD_AXES } from "../space/principal-axes";
import { acrossAxis } from "../space/round-bounds";
import { boundsOf } from "../space/bounds";
import { dot } from "../space/vector";
import type { Hull } from "./hull";
import { shapeOf } from "./collider-shape";

/** The axes that a hull is sized along. */
export interface HullFrame {
  /** Metres. */
  centre: readonly [number, number, number];
  axes: Axes;
  /** From the centre to either end along each axis, metres. */
  half: readonly [number, number, number];
}

/** A box has the axes of its edges, a capsule its own as the second, all others the world's. */
export function hullFrame(hull: Pick<Hull, "kind" | "positions">): HullFrame {
  const shape = shapeOf(hull as Hull);
  if (shape.type === "box") {
    const [x, y, z] = shape.size;
    return {
      centre: shape.centre,
      axes: shape.axes,
      half: [x / 2, y / 2, z / 2],
    };
  }
  if (shape.type === "sphere") {
    const { centre, radius } = shape;
    return { centre, axes: WORLD_AXES, half: [radius, radius, radius] };
  }
  if (shape.type === "capsule") {
    const { centre, axis, radius, height } = shape;
    const [u, v] = acrossAxis([...axis]);
    return {
      centre,
      axes: [u, axis, v] as unknown as Axes,
      half: [radius, height / 2 + radius, radius],
    };
  }
  const { min, max } = boundsOf(hull.positions);
  const half = [0, 1, 2].map((k) => (max[k] - min[k]) / 2);
  return {
    centre: [0, 1, 2].map((k) => min[k] + half[k]) as unknown as readonly [
      number,
      number,
      number,
    ],
    axes: WORLD_AXES,
    half: half as unknown as readonly [number, number, number],
  };
}

/** How far a point lies along each axis of a frame, metres from its centre. */
export const inFrame = (
  { centre, axes }: Pick<HullFrame, "centre" | "axes">,
  at: readonly number[],
): [number, number, number] => {
  const off = at.map((x, k) => x - centre[k]);
  return [dot(axes[0], off), dot(axes[1], off), dot(axes[2], off)];
};
