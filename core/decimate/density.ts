/** Density of a face as a byte: 0 as it comes, below 128 coarser, above it finer, 255 left as it is. */
export const DENSITY_LEFT = 255;
const MIDDLE = 128;
const MOST = 254;
/** Steps in which the weight doubles. */
const STEPS = 21;
/** How dear the shape of a face is, 1 for as it comes; 64 and more for the finest, 1/64 for the coarsest. */
export function densityWeight(value: number): number {
  return value === 0 || value === DENSITY_LEFT
    ? 1
    : 2 ** ((value - MIDDLE) / STEPS);
}

/**
 * The byte for a wish.
 * @param strength −1 as coarse as it goes … 0 as it comes … 1 as fine as it goes
 */
export function densityMark(strength: number): number {
  const value = Math.round(MIDDLE + strength * (MOST - MIDDLE));
  return value === MIDDLE ? 0 : Math.min(MOST, Math.max(1, value));
}

/** The wish of a byte, −1 … 1; 1 for a face that is left as it is. */
export function strengthOf(value: number): number {
  if (value === 0) return 0;
  return value === DENSITY_LEFT ? 1 : (value - MIDDLE) / (MOST - MIDDLE);
}
