import type { Chart } from "./chart";
import { BlockSystem } from "./flat/block-system";
import { crossesItself } from "./flat/crosses-itself";
import { conformal, tutte } from "./flat/first-layout";
import { pullTo } from "./flat/pull-to";
import { relax } from "./flat/relax";
import {
  countFlips,
  judge,
  rescale,
  tightest,
  triangleShapes,
} from "./flat/shapes";

/** A chart laid flat, in metres, and how well that went. */
export interface Flat {
  /** 2 × vertexCount, metres, same total area as the chart. */
  uv: Float64Array;
  /** Area-weighted L2 stretch (Sander et al. 2001), 1 for none. */
  stretch: number;
  /** Standard deviation of the log of the length scale, area-weighted. */
  spread: number;
  flipped: number;
  overlaps: boolean;
  /** Whether vertices were held at given places, so that the layout lies where it should and in the scale of those. */
  pinned: boolean;
  /** The chart vertex round which an angle-true layout shrinks most: where a cut helps most. */
  tight: number;
}

export interface FlattenOptions {
  /** Steps of the relaxation at the most. */
  rounds: number;
  /** How much even area counts against even shape. */
  evenness: number;
  /** What will be asked of the layout: one that is not going to get there is left as it is, which saves most of the time. */
  wanted: { stretch: number; spread: number } | null;
  /** Places at which chart vertices are held, two or more, or null. */
  pins: ReadonlyMap<number, readonly [number, number]> | null;
}

export const FLATTEN_DEFAULTS: FlattenOptions = {
  rounds: 24,
  evenness: 4,
  wanted: null,
  pins: null,
};

/** An angle-true layout whose lengths spread more than this never came within reach on any body tried. */
const HOPELESS = 0.8;
/** After some steps a layout should be within this much of what is wanted. */
const HALFWAY = { rounds: 5, near: 2.5 };

/**
 * Lays a disc flat: least squares conformal map (Lévy et al. 2002), or Tutte's embedding where that folds,
 * then relaxed towards even lengths and areas without ever turning a triangle (flat/relax.ts).
 */
export function flatten(
  chart: Chart,
  options: Partial<FlattenOptions> = {},
): Flat {
  const { rounds, evenness, wanted, pins } = {
    ...FLATTEN_DEFAULTS,
    ...options,
  };
  const shapes = triangleShapes(chart);
  const system = new BlockSystem(chart);
  let uv = conformal(chart, shapes, system);
  if (uv && wanted) {
    rescale(chart, shapes, uv);
    const first = judge(chart, shapes, uv);
    if (first.spread > HOPELESS)
      return {
        uv,
        ...first,
        overlaps: true,
        pinned: false,
        tight: tightest(chart, shapes, uv),
      };
  }
  if (!uv || countFlips(chart, shapes, uv) > 0) uv = tutte(chart);
  if (!uv || countFlips(chart, shapes, uv) > 0)
    return {
      uv: uv ?? new Float64Array(2 * chart.vertexCount),
      stretch: Infinity,
      spread: Infinity,
      flipped: 1,
      overlaps: true,
      pinned: false,
      tight: -1,
    };
  rescale(chart, shapes, uv);
  const tight = tightest(chart, shapes, uv);
  const steps = { rounds, evenness, pins: null };
  if (wanted) {
    relax(chart, shapes, system, uv, { ...steps, rounds: HALFWAY.rounds });
    const { stretch, spread } = judge(chart, shapes, uv);
    if (
      stretch - 1 > HALFWAY.near * (wanted.stretch - 1) ||
      spread > HALFWAY.near * wanted.spread
    )
      steps.rounds = 0;
  }
  relax(chart, shapes, system, uv, steps);
  rescale(chart, shapes, uv);
  const pinned = pins !== null && pins.size > 1;
  if (pinned) pullTo(chart, shapes, system, uv, pins);
  return {
    uv,
    ...judge(chart, shapes, uv),
    overlaps: crossesItself(chart, uv),
    pinned,
    tight,
  };
}
