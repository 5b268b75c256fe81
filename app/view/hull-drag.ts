import type { HullFrame } from "../../core/mesh/hull-frame";
import type { HullMove } from "../../core/mesh/move-hull";
import { STILL } from "../../core/mesh/move-hull";
import { dot } from "../../core/space/vector";
import { length } from "../shared/figures";

type Vector3 = readonly [number, number, number];
type Pixel = readonly [number, number];

/** What of hulls can be taken hold of: an axis to move or turn along, a side, or the middle. */
export interface Handle {
  what: "move" | "turn" | "size" | "slide";
  axis: 0 | 1 | 2;
  /** Which end of the axis, for sides. */
  way: 1 | -1;
}

/** How the table is looked at, about the middle of what is moved. */
export interface Eye {
  /** Where a point of the world lies on the table, px from the upper left. */
  toPixels(at: Vector3): Pixel;
  /** Metres that a pixel is wide there. */
  pixel: number;
  right: Vector3;
  up: Vector3;
  /** From what is looked at to the eye. */
  towards: Vector3;
}

/** What is moved, and what it keeps to. */
export interface Moved {
  frame: HullFrame;
  /** What it is; null for several at once. */
  kind: "box" | "sphere" | "capsule" | "other" | null;
  /** What steps it goes in, metres and degrees; null for none. */
  steps: { length: number; angle: number } | null;
  /** Where sides of parts lie along each axis of the frame, metres from the world's origin. */
  sides: readonly (readonly number[])[];
}

/** Length by which a direction is tried on the screen, px. */
const TRIED = 80;
/** An axis that points this nearly at the eye can't be dragged along, px of those. */
const SHORT = 8;
/** How near a side of a part draws another one in, px. */
const CATCH = 9;
/** Cosine to the eye below which a ring is seen edge on, and is dragged along instead of round. */
const EDGE_ON = 0.2;
/** Radians of a pixel then. */
const TURN = 0.01;
/** The least that anything is made smaller to in one go. */
const LEAST = 0.02;

const add = (a: Vector3, b: Vector3, by: number): Vector3 => [
  a[0] + by * b[0],
  a[1] + by * b[1],
  a[2] + by * b[2],
];
const rounded = (x: number, step: number) => Math.round(x / step) * step;

/** How many metres a drag goes along a direction from a point; 0 where that points at the eye. */
export function along(
  at: Vector3,
  way: Vector3,
  from: Pixel,
  to: Pixel,
  eye: Eye,
): number {
  const tried = TRIED * eye.pixel;
  const [ax, ay] = eye.toPixels(at);
  const [bx, by] = eye.toPixels(add(at, way, tried));
  const square = (bx - ax) ** 2 + (by - ay) ** 2;
  if (square < SHORT * SHORT) return 0;
  return (
    (((to[0] - from[0]) * (bx - ax) + (to[1] - from[1]) * (by - ay)) / square) *
    tried
  );
}

/** What a drag from one pixel to another does by a handle. */
export function draggedBy(
  handle: Handle,
  moved: Moved,
  from: Pixel,
  to: Pixel,
  eye: Eye,
): HullMove {
  if (handle.what === "turn") return turned(handle, moved, from, to, eye);
  if (handle.what === "size") return sized(handle, moved, from, to, eye);
  const { centre } = moved.frame;
  const step = moved.steps?.length ?? 0;
  if (handle.what === "slide") {
    const across = (to[0] - from[0]) * eye.pixel;
    const upward = (from[1] - to[1]) * eye.pixel;
    const way = add(add([0, 0, 0], eye.right, across), eye.up, upward);
    return {
      ...STILL,
      move: way.map((x, k) =>
        // What does not move on its way does not jump to a step.
        step && Math.abs(x) > step / 2
          ? rounded(centre[k] + x, step) - centre[k]
          : step
            ? 0
            : x,
      ) as unknown as Vector3,
    };
  }
  const way: Vector3 = [0, 0, 0].map((_, k) =>
    k === handle.axis ? 1 : 0,
  ) as unknown as Vector3;
  const far = along(centre, way, from, to, eye);
  const at = centre[handle.axis];
  const by = step && far ? rounded(at + far, step) - at : far;
  return { ...STILL, move: add([0, 0, 0], way, by) };
}

function turned(
  { axis }: Handle,
  { frame, steps }: Moved,
  from: Pixel,
  to: Pixel,
  eye: Eye,
): HullMove {
  const way = frame.axes[axis] as unknown as Vector3;
  const facing = dot(way, eye.towards);
  const [cx, cy] = eye.toPixels(frame.centre);
  let angle: number;
  if (Math.abs(facing) < EDGE_ON) {
    // Along the ring as it lies on the screen: across its axis.
    const [ax, ay] = eye.toPixels(add(frame.centre, way, TRIED * eye.pixel));
    const long = Math.hypot(ax - cx, ay - cy) || 1;
    angle =
      (((to[0] - from[0]) * -(ay - cy) + (to[1] - from[1]) * (ax - cx)) /
        long) *
      TURN;
  } else {
    const round =
      Math.atan2(to[1] - cy, to[0] - cx) -
      Math.atan2(from[1] - cy, from[0] - cx);
    // Pixels count downwards: a turn to the right is one to the left about what faces the eye.
    angle = -Math.atan2(Math.sin(round), Math.cos(round)) * Math.sign(facing);
  }
  if (steps) angle = rounded(angle, (steps.angle * Math.PI) / 180);
  return { ...STILL, turn: add([0, 0, 0], way, angle) };
}

function sized(
  { axis, way }: Handle,
  { frame, kind, steps, sides }: Moved,
  from: Pixel,
  to: Pixel,
  eye: Eye,
): HullMove {
  const out = frame.axes[axis].map((x) => way * x) as unknown as Vector3;
  const half = Math.max(1e-9, frame.half[axis]);
  const side = add(frame.centre, out, half);
  let by = along(side, out, from, to, eye);
  if (steps && by) {
    const at = dot(side, frame.axes[axis]);
    const reached = at + way * by;
    const near = sides[axis]
      .filter((x) => Math.abs(x - reached) < CATCH * eye.pixel)
      .sort((a, b) => Math.abs(a - reached) - Math.abs(b - reached))[0];
    by = way * ((near ?? rounded(reached, steps.length)) - at);
  }
  const scale: [number, number, number] = [1, 1, 1];
  // What is round grows about its middle, and so do several; a side of all else leaves the other where it is.
  const even = kind === null || kind === "sphere";
  if (even || (kind === "capsule" && axis !== 1)) {
    const factor = Math.max(LEAST, (half + by) / half);
    if (even) scale.fill(factor);
    else scale[0] = scale[2] = factor;
    return { ...STILL, scale };
  }
  scale[axis] = Math.max(LEAST, (2 * half + by) / (2 * half));
  return {
    ...STILL,
    scale,
    move: add([0, 0, 0], out, half * (scale[axis] - 1)),
  };
}

/** What a drag comes to, in words: how far, by which angle, or how long along the axis. */
export function saidOf(
  { what, axis }: Handle,
  { move, turn, scale }: HullMove,
  { frame }: Moved,
): string {
  if (what === "turn") {
    const degrees = (dot(turn, frame.axes[axis]) * 180) / Math.PI;
    return `${degrees.toFixed(1)}°`;
  }
  if (what === "size") return length(2 * frame.half[axis] * scale[axis]);
  return length(Math.hypot(...move));
}
