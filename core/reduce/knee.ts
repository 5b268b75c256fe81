import type { ErrorCurve } from "../mesh/collapse-record";

/**
 * Distances grow about as triangles shrink; where they grow by more than this power of it, shapes break instead of
 * getting coarser.
 */
const BREAKS = 2.2;
/** Over this factor of triangles the power is taken. */
const STRETCH = 1.4;
/** Below this share of the diagonal nothing shows, however steep the curve. */
const SHOWS = 1.5e-4;

/**
 * The count below which shapes break: where the curve of a reduction begins to be steep, coming from many
 * triangles. null where it never is.
 * @param diagonal of what the curve is of, metres
 */
export function kneeOf(
  { triangles, rms }: ErrorCurve,
  diagonal: number,
): number | null {
  for (let i = triangles.length - 1; i > 0; i--) {
    let j = i;
    while (j > 0 && triangles[i] < STRETCH * triangles[j]) j--;
    if (triangles[i] < STRETCH * triangles[j]) return null;
    if (!(rms[j] > SHOWS * diagonal && rms[i] > 0)) continue;
    const power =
      Math.log(rms[j] / rms[i]) / Math.log(triangles[i] / triangles[j]);
    if (power > BREAKS) return triangles[i];
  }
  return null;
}
