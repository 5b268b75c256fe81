import type { ErrorCurve } from "../decimate/collapse-record";
import type { Mesh } from "../mesh/mesh";
import { boundsOf, diagonalOf } from "../space/bounds";
import { spaced } from "../base/wording";

/**
 * Distances grow about as triangles shrink; where they grow by more than this power of it, shapes break instead of
 * getting coarser.
 */
const BREAKS = 2.2;
/** Over this factor of triangles the power is taken. */
const STRETCH = 1.4;
/** Below this share of the diagonal nothing shows, however steep the curve. */
const SHOWS = 1.5e-4;
/** From this share of the farthest that a curve gets on all is lost: there it is flat again. */
const LOST = 0.25;

/**
 * The count below which shapes break: up to where the curve of a reduction is steep, coming from its fewest
 * triangles, where all is lost. null where it is not steep there, or where nothing of it shows.
 * @param diagonal of what the curve is of, metres
 */
export function kneeOf(
  { triangles, rms }: ErrorCurve,
  diagonal: number,
): number | null {
  let knee: number | null = null;
  const farthest = Math.max(...rms);
  for (let i = 0; i < triangles.length;) {
    let j = i + 1;
    while (j < triangles.length && triangles[j] < STRETCH * triangles[i]) j++;
    if (j >= triangles.length || !(rms[j] > 0)) break;
    const power =
      Math.log(rms[i] / rms[j]) / Math.log(triangles[j] / triangles[i]);
    if (power > BREAKS && rms[i] > SHOWS * diagonal) knee = triangles[j];
    else if (knee !== null || rms[i] < LOST * farthest) break;
    i = j;
  }
  return knee;
}

/** The diagonal of what some meshes fill together, metres. */
const sizeOf = (meshes: readonly Mesh[]) =>
  diagonalOf(boundsOf(...meshes.map(({ positions }) => positions)));

/** Where shapes break, and which. */
export interface Knee {
  /** null where the curve has none. */
  knee: number | null;
  /** Parts that get fewer triangles than their own curves ask for, where the budget lies below the knee. */
  breaking: string[];
}

/**
 * The knee of an asset's curve against a budget.
 * @param parts those that share the budget: their sources, own curves, and the triangles they get of it
 */
export function kneesOf(
  curve: ErrorCurve,
  parts: readonly {
    name: string;
    source: Mesh;
    curve: ErrorCurve;
    triangles: number;
  }[],
  budget: number,
): Knee {
  const knee = kneeOf(curve, sizeOf(parts.map(({ source }) => source)));
  if (!knee || budget >= knee) return { knee, breaking: [] };
  const breaking = parts.filter(({ source, triangles, ...part }) => {
    const wanted = kneeOf(part.curve, sizeOf([source]));
    return wanted !== null && triangles < wanted;
  });
  return { knee, breaking: breaking.map(({ name }) => name) };
}

/** That a budget lies under the knee and what helps, in words; null where it does not. */
export function kneeWords(
  { knee, breaking = [] }: Partial<Knee>,
  budget: number,
): string | null {
  if (!knee || budget >= knee) return null;
  const parts = breaking.length
    ? `, those of ${breaking.length} ${breaking.length === 1 ? "part" : "parts"} here`
    : "";
  return `below about ${spaced(knee)} triangles shapes break${parts}, and the budget is ${spaced(budget)}: raise it, leave parts out, or use stand-in shapes`;
}
