import type { Context } from "../base/context";
import { Collapser } from "./collapse";
import type { CollapseWeights } from "./collapse-planes";
import type { Fit } from "./fit";
import { cross, shape } from "../mesh/triangle-shape";
import { crossingIn, joinStates, oneMesh } from "./states";

/** Rounds at the most, and the share of the triangles that the first one moves. */
const ROUNDS = 8;
const SHARE = 0.04;

/** Triangles thinner than this (1 for equilateral), and what a share of them counts against the distances. */
const THIN = 0.1;
const THIN_COST = 12;

/** Share of the triangles that must find a place again, or the budget would not be used. */
const REFILLED = 0.995;

/** A mesh that crossed itself before may do so in this many times as many faces, and a few more. */
const CROSSING_TIMES = 1.3;
const CROSSING_MORE = 2;

/**
 * Moves triangles from where they matter least to where the distance is worst: vertices are collapsed that cost
 * the fitted meshes least (quadrics of the light mesh itself, after Lindstrom and Turk 1998), as many are put in
 * at the worst places, and all is fitted again. A round is kept where the mean square times the largest distance
 * sinks. A mesh that comes out crossing itself where it did not is left out from then on; otherwise the round after
 * one that failed moves half as many.
 * @param fits one fit a mesh, each of a mesh of its own
 */
export function exchangeWorst(
  fits: readonly Fit[],
  weights: Partial<CollapseWeights>,
  step: Pick<Context, "check" | "progress">,
): Fit[] {
  const check = () => step.check();
  let best = [...fits];
  let least = scoreOf(best);
  const most = best.map(({ mesh }) => {
    const crossing = crossingIn(mesh, check).length;
    return crossing ? Math.ceil(CROSSING_TIMES * crossing) + CROSSING_MORE : 0;
  });
  const enough = REFILLED * trianglesOf(best);
  let moved = Math.max(1, Math.round((SHARE * trianglesOf(best)) / 2));
  /** Fits whose triangles are not touched: those that come out crossing. */
  const locked = new Uint8Array(best.length);
  for (let round = 0; round < ROUNDS; round++) {
    step.progress(round / ROUNDS, "moving triangles to where they matter");
    const open = best.filter((_, i) => !locked[i]);
    if (!open.length) break;
    const fewer = lighter(open, moved, weights, check);
    const filled = refilled(fewer, trianglesOf(open), check);
    let at = 0;
    const next = best.map((fit, i) => (locked[i] ? fit : filled[at++]));
    const score = scoreOf(next);
    if (score < least && trianglesOf(next) >= enough) {
      const crossing = next.flatMap((fit, i) =>
        fit !== best[i] && crossingIn(fit.mesh, check).length > most[i]
          ? [i]
          : [],
      );
      if (!crossing.length) {
        best = next;
        least = score;
        continue;
      }
      if (crossing.length < open.length) {
        for (const i of crossing) locked[i] = 1;
        continue;
      }
    }
    if (moved === 1) break;
    moved = Math.ceil(moved / 2);
  }
  return best;
}

const trianglesOf = (fits: readonly Fit[]) =>
  fits.reduce((sum, fit) => sum + fit.mesh.owner.length, 0);

/** The fits with so many vertices fewer altogether, those that cost least; a fit that keeps all stays itself. */
function lighter(
  fits: readonly Fit[],
  vertices: number,
  weights: Partial<CollapseWeights>,
  check: () => void,
): Fit[] {
  const joined = joinStates(
    fits.map((fit) => fit.mesh),
    fits[0].mesh.centre,
  );
  const owners = fits.map((fit) => fit.mesh.owner[0]);
  const soup = {
    ...joined,
    positions: Float64Array.from(joined.positions),
    face: Uint32Array.from(joined.owner, (_, t) => t),
    marks: new Uint8Array(joined.triangles.length),
    centre: [...joined.centre] as [number, number, number],
  };
  const collapser = new Collapser(soup, Math.max(...owners) + 1, {
    weights,
    keepsPieces: true,
  });
  collapser.run(joined.owner.length - 2 * vertices, { progress() {}, check });
  let base = 0;
  return fits.map((fit, i) => {
    const mesh = oneMesh(soup, owners[i]);
    const before = fit.mesh.owner.length;
    const nowAt = new Int32Array(before).fill(-1);
    let at = 0;
    for (let t = 0; t < soup.owner.length; t++)
      if (soup.owner[t] === owners[i]) nowAt[soup.face[t] - base] = at++;
    base += before;
    if (mesh.owner.length === before) return fit;
    const next = fit.with(mesh, nowAt);
    next.run(0, 1, check);
    return next;
  });
}

/** The fits with vertices put in where it is worst, up to `total` triangles. */
function refilled(
  fits: readonly Fit[],
  total: number,
  check: () => void,
): Fit[] {
  let now = [...fits];
  // What could not be put in soundly is tried once more where it is worst then.
  for (let turn = 0; turn < 2; turn++) {
    const room = Math.floor((total - trianglesOf(now)) / 2);
    if (room < 1) break;
    const share = turn ? room : Math.ceil(room / 2);
    const own = shareOut(now, share);
    now = now.map((fit, i) => {
      if (!own[i]) return fit;
      const next = fit.refined(own[i]);
      next.run(2, 3, check);
      return next;
    });
  }
  return now;
}

/**
 * How many of the worst places of all each fit gets a vertex for.
 * @param costOf what a vertex of a fit counts of the `places` there are
 */
export function shareOut(
  fits: readonly Fit[],
  places: number,
  costOf: (fit: number) => number = () => 1,
): Uint32Array {
  const own = new Uint32Array(fits.length);
  const worst = fits
    .flatMap((fit, i) => fit.worst(places).map((far) => ({ i, far })))
    .sort((x, y) => y.far - x.far || x.i - y.i);
  let room = places;
  for (const { i } of worst) {
    const cost = costOf(i);
    if (cost > room) continue;
    own[i]++;
    room -= cost;
  }
  return own;
}

/** Mean square of both ways together times the largest distance, in logarithms, and what thin triangles cost. */
function scoreOf(fits: readonly Fit[]): number {
  const all = { there: 0, count: 0, back: 0, area: 0, max: 0 };
  let thin = 0;
  for (const fit of fits) {
    const one = fit.error();
    all.there += one.there;
    all.count += one.count;
    all.back += one.back;
    all.area += one.area;
    all.max = Math.max(all.max, one.max);
    const { positions: p, triangles } = fit.mesh;
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [triangles[t], triangles[t + 1], triangles[t + 2]];
      if (shape(p, a, b, c, cross(p, a, b, c)) < THIN) thin++;
    }
  }
  const mean = all.there / all.count + all.back / all.area;
  return (
    Math.log(mean) +
    0.5 * Math.log(all.max) +
    (THIN_COST * thin) / trianglesOf(fits)
  );
}
