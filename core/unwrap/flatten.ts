import type { Chart } from "./chart";
import { BlockSystem } from "./flat/block-system";
import { crossesItself } from "./flat/crosses-itself";
import { conformal, tutte } from "./flat/first-layout";
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
  /** The chart vertex round which an angle-true layout shrinks most: where a cut helps most. */
  tight: number;
}

export interface FlattenOptions {
  /** Steps of the relaxation at the most. */
  rounds: number;
  /** How much even area counts against even shape. */
  evenness: number;
}

export const FLATTEN_DEFAULTS: FlattenOptions = { rounds: 24, evenness: 4 };

/**
 * Lays a disc flat: least squares conformal map (Lévy et al. 2002), or Tutte's embedding where that folds,
 * then relaxed towards even lengths and areas without ever turning a triangle (flat/relax.ts).
 */
export function flatten(
  chart: Chart,
  { rounds, evenness }: FlattenOptions = FLATTEN_DEFAULTS,
): Flat {
  const shapes = triangleShapes(chart);
  const system = new BlockSystem(chart);
  let uv = conformal(chart, shapes, system);
  if (!uv || countFlips(chart, shapes, uv) > 0) uv = tutte(chart);
  if (!uv || countFlips(chart, shapes, uv) > 0)
    return {
      uv: uv ?? new Float64Array(2 * chart.vertexCount),
      stretch: Infinity,
      spread: Infinity,
      flipped: 1,
      overlaps: true,
      tight: -1,
    };
  rescale(chart, shapes, uv);
  const tight = tightest(chart, shapes, uv);
  relax(chart, shapes, system, uv, { rounds, evenness, pins: null });
  rescale(chart, shapes, uv);
  return {
    uv,
    ...judge(chart, shapes, uv),
    overlaps: crossesItself(chart, uv),
    tight,
  };
}
