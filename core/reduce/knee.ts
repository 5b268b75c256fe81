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
 * The count below which shapes break: up to where the curve of a reduction is steep, coming from its fewest
 * triangles. null where it is not steep there, or where nothing of it shows.
 * @param diagonal of what the curve is of, metres
 */
export function kneeOf(
  { triangles, rms }: ErrorCurve,
  diagonal: number,
): number | null {
  let knee: number | null = null;
  for (let i = 0; i < triangles.length;) {
    let j = i + 1;
    while (j < triangles.length && triangles[j] < STRETCH * triangles[i]) j++;
    if (j >= triangles.length || !(rms[j] > 0)) break;
    const power =
      Math.log(rms[i] / rms[j]) / Math.log(triangles[j] / triangles[i]);
    if (!(power > BREAKS && rms[i] > SHOWS * diagonal)) break;
    knee = triangles[j];
    i = j;
  }
  return knee;
}
