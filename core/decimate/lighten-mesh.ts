import type { Context } from "../base/context";
import { spaced } from "../base/wording";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";
import { boundsOf, diagonalOf } from "../space/bounds";
import type { Surface } from "../space/deviation";
import { measureDeviation } from "../space/deviation";
import { Collapser } from "./collapse";
import { gatherSoup, scatterSoup } from "./soup";

/** Each try keeps this share of the triangles of the one before. */
const STEP = 0.7;
/** Below this nothing is gained by less. */
const FEWEST = 2000;

export interface Lightened {
  mesh: Mesh;
  /** Largest distance to the original, metres. */
  deviation: number;
}

const hooks = (context: Context) => ({
  check: () => context.check(),
  progress() {},
});

/** Collapses a mesh to a share of its triangles, 0 … 1. */
export function toShare(
  mesh: Mesh,
  share: number,
  context: Context,
): Lightened {
  const budget = Math.max(4, Math.floor(share * triangleCount(mesh)));
  if (budget >= triangleCount(mesh)) return { mesh, deviation: 0 };
  const soup = gatherSoup([mesh]);
  const collapser = new Collapser(soup, 1);
  collapser.run(budget, hooks(context));
  const [light] = scatterSoup(soup, [mesh.materials]);
  if (!light) return { mesh, deviation: 0 };
  return { mesh: light, deviation: deviationOf(mesh, light) };
}

/**
 * One run of collapses, stopped now and then to measure; the last state within the limit is taken.
 * @param limit how far the surface may move, metres
 * @param fewest triangles below which no fewer are tried
 */
export function withinDeviation(
  mesh: Mesh,
  limit: number,
  context: Context,
  fewest = FEWEST,
): Lightened {
  const soup = gatherSoup([mesh]);
  const collapser = new Collapser(soup, 1);
  let best: Lightened = { mesh, deviation: 0 };
  for (
    let wanted = triangleCount(mesh) * STEP;
    wanted > fewest;
    wanted *= STEP
  ) {
    context.check();
    context.progress(
      Math.min(0.95, 1 - wanted / triangleCount(mesh)),
      `trying ${spaced(wanted)} triangles`,
    );
    collapser.run(Math.floor(wanted), hooks(context));
    const [light] = scatterSoup(soup, [mesh.materials]);
    if (!light) break;
    const deviation = deviationOf(mesh, light);
    if (deviation > limit) break;
    best = { mesh: light, deviation };
  }
  return best;
}

const surfaceOf = (mesh: Mesh): Surface => ({
  positions: mesh.positions,
  triangles: triangulate(mesh).vertices,
});

const deviationOf = (dense: Mesh, light: Mesh) =>
  measureDeviation(surfaceOf(dense), surfaceOf(light)).max *
  diagonalOf(boundsOf(dense.positions));
