/** Radii of round edges are kept in hundredths of a millimetre: this one says never. */
export const NEVER_ROUND = 65535;

/** The largest radius that can be kept, metres. */
export const MOST_ROUND = 0.655;

/** Metres of what is kept, 0 for an edge that has no radius of its own. */
export const roundRadius = (kept: number): number =>
  kept === NEVER_ROUND ? 0 : kept / 1e5;

/** What is kept of a radius in metres. */
export const keptRound = (radius: number): number =>
  Math.max(1, Math.min(1e5 * MOST_ROUND, Math.round(1e5 * radius)));
