/** Sizes between which a whole asset is nothing to ask about, metres. */
const LEAST = 0.005;
const MOST = 30;

/** Units that files are made in, as metres; the last two ask whether what was read as metres was divided twice. */
const UNITS = [
  { unit: "centimetres", factor: 0.01 },
  { unit: "millimetres", factor: 0.001 },
  { unit: "inches", factor: 0.0254 },
  { unit: "metres", factor: 100 },
  { unit: "metres", factor: 1000 },
];

/** What a size most likely was meant as. */
export interface UnlikelySize {
  /** The largest extent, metres, and along which axis it is: "high" for up. */
  size: number;
  along: "wide" | "high" | "deep";
  unit: string;
  /** What the asset is to be scaled by. */
  factor: number;
}

/**
 * Asks about a whole asset that is under 5 mm or over 30 m: the unit that brings it nearest to a metre.
 * @param extents along x, y (up) and z, metres
 * @returns null where the size is likely
 */
export function unlikelySize(extents: readonly number[]): UnlikelySize | null {
  const size = Math.max(0, ...extents);
  if (!(size > 0) || (size >= LEAST && size <= MOST)) return null;
  const [best] = UNITS.map((unit) => ({
    ...unit,
    off: Math.abs(Math.log(size * unit.factor)),
  })).sort((a, b) => a.off - b.off);
  const along = (["wide", "high", "deep"] as const)[extents.indexOf(size)];
  return { size, along, unit: best.unit, factor: best.factor };
}

/** Fewer steps than this across an asset show as steps in its surface. */
const FEWEST_STEPS = 20_000;

/**
 * Whether an asset lies so far from the origin that its coordinates, numbers of 24 binary digits, have few left for
 * its shape.
 * @param size largest extent, metres
 * @param farthest largest coordinate by its amount, metres
 * @returns the step between two coordinates out there, metres; null where there are enough of them
 */
export function coarseStep(size: number, farthest: number): number | null {
  if (!(size > 0 && farthest > 0)) return null;
  const step = 2 ** (Math.floor(Math.log2(farthest)) - 23);
  return size / step < FEWEST_STEPS ? step : null;
}
