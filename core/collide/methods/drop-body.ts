import type { Contact } from "../../mesh/contacts";
import { CONTACTS } from "../../mesh/contacts";
import type { Hull } from "../../mesh/hull";
import type { Vector } from "../../space/vector";
import { octantsOf } from "./octants";

/** Steps of the simulation in a second for what is a metre large, and the most of them. */
const STEPS = 240;
const MOST_STEPS = 2400;
/** How often in a second it is looked at. */
export const LOOKS = 20;

/** Hulls as the simulation takes them: one length large, standing on nought. */
export interface Body {
  /** 3 × points of each convex piece, in lengths of the asset, from the middle of its foot. */
  solids: { points: Float32Array; contact: Contact | null }[];
  /** Balls in the place of hulls that are spheres: middle and radius. */
  balls: { middle: Vector; radius: number; contact: Contact | null }[];
  /** Metres of a length. */
  size: number;
  height: number;
  /** Steps in a second: small things fall through many of their lengths in one. */
  steps: number;
  /** Where the middle of its foot is, metres. */
  foot: Vector;
}

/** @param hulls metres */
export function bodyOf(hulls: readonly Hull[]): Body {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const { positions } of hulls)
    for (let i = 0; i < positions.length; i++) {
      low[i % 3] = Math.min(low[i % 3], positions[i]);
      high[i % 3] = Math.max(high[i % 3], positions[i]);
    }
  const size = Math.max(...high.map((x, k) => x - low[k])) || 1;
  const foot = [(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2];
  const points = hulls.map(({ positions }) =>
    positions.map((x, i) => (x - foot[i % 3]) / size),
  );
  return {
    solids: points.flatMap((each, h) =>
      hulls[h].kind === "sphere"
        ? []
        : octantsOf(each).map((piece) => ({
            points: piece,
            contact: contactOf(hulls[h]),
          })),
    ),
    balls: points.flatMap((each, h) =>
      hulls[h].kind === "sphere"
        ? [{ ...ballOf(each), contact: contactOf(hulls[h]) }]
        : [],
    ),
    size,
    height: (high[1] - low[1]) / size,
    steps:
      LOOKS *
      Math.round(
        Math.min(MOST_STEPS, Math.max(STEPS, STEPS / Math.sqrt(size))) / LOOKS,
      ),
    foot: foot as unknown as Vector,
  };
}

const contactOf = ({ contact }: Hull): Contact | null =>
  contact ? CONTACTS[contact] : null;

function ballOf(points: Float32Array) {
  const middle: Vector = [0, 1, 2].map((k) => {
    let low = Infinity;
    let high = -Infinity;
    for (let i = k; i < points.length; i += 3) {
      low = Math.min(low, points[i]);
      high = Math.max(high, points[i]);
    }
    return (low + high) / 2;
  }) as unknown as Vector;
  let radius = 0;
  for (let i = 0; i < points.length; i += 3)
    radius = Math.max(
      radius,
      Math.hypot(...middle.map((x, k) => points[i + k] - x)),
    );
  return { middle, radius };
}
