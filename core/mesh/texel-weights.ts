/** A weight is kept as 128 + 24 × log2 of it, so that 0 stays free for "as everywhere". */
const MIDDLE = 128;
const STEPS = 24;

export const LEAST_WEIGHT = 1 / 32;
export const MOST_WEIGHT = 32;

/** How many times as many texels a metre gets here as elsewhere. */
export const texelWeight = (code: number): number =>
  code === 0 ? 1 : 2 ** ((code - MIDDLE) / STEPS);

/** The code of a weight, 0 for 1. @param weight 1/32 … 32; what lies outside is brought to the nearer end */
export function texelCode(weight: number): number {
  const within = Math.max(LEAST_WEIGHT, Math.min(MOST_WEIGHT, weight));
  const code = MIDDLE + Math.round(STEPS * Math.log2(within));
  return code === MIDDLE ? 0 : Math.max(1, Math.min(255, code));
}
