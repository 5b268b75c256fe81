import type { Context } from "../base/context";
import { spanOf } from "../base/context";
import type { CollapseWeights } from "./collapse-planes";
import { exchangeWorst, shareOut } from "./exchange";
import { Fit } from "./fit";
import { placeKey } from "./fit-state";
import type { SurfaceSamples } from "./samples";
import { samplesOf } from "./samples";
import type { Triangles } from "./soup";
import { crossingIn, joinStates, oneMesh } from "./states";

/** Rounds of fitting before vertices are put in at the worst places, and after each helping of them. */
const FIRST_ROUNDS = 2;
const ROUNDS_AFTER = 1;

/** Light meshes are worth more rounds: up to this many triangles vertices are put in one helping after the other. */
const LIGHT = 4000;
const BATCHES = 3;

/** Share of the triangles that are kept back for the worst places. */
const KEPT_BACK = 0.02;

/** How many vertices of a budget are put in where the distance is worst, two triangles each. */
export const reserveFor = (budget: number) =>
  budget < 100 ? 0 : Math.max(1, Math.round((KEPT_BACK * budget) / 2));

/**
 * Brings a reduced state as near to its source as its triangles allow, mesh by mesh.
 * @param near a finer state, about the same origin
 * @param meshes the meshes to work on; others are left out of what is returned
 * @param places how many vertices may be put in, two triangles each; see `keptBack`
 * @param times per mesh: how often each triangle counts
 * @param stays places of vertices that are left where they are; see `placeKey`
 * @param exchange weights to move triangles by from where they matter least to where it is worst, or null where
 *   more than shape decided where they are
 */
export function finishState(
  state: Triangles,
  samples: SurfaceSamples,
  near: Pick<Triangles, "positions" | "triangles" | "owner">,
  meshes: readonly number[],
  places: number,
  times: (mesh: number) => number,
  stays: ReadonlySet<string> | null,
  exchange: Partial<CollapseWeights> | null,
  step: Context,
): Triangles {
  const check = () => step.check();
  const begin = (m: number, held: ReadonlySet<string> | null) => {
    const own = oneMesh(state, m);
    const fit = new Fit(
      own,
      samplesOf(samples, m, own),
      oneMesh(near, m),
      undefined,
      true,
      held,
    );
    fit.run(0, FIRST_ROUNDS, check);
    return fit;
  };
  let fits = meshes.map((m) => begin(m, stays));
  const light = state.owner.length < LIGHT;
  const batches = light ? BATCHES : 1;
  const given = fits.map((): number[] => []);
  const help = (fit: Fit, turn: number, more: number) => {
    const from = FIRST_ROUNDS + ROUNDS_AFTER * turn;
    const next = more ? fit.refined(more) : fit;
    next.run(from, from + ROUNDS_AFTER, check);
    return next;
  };
  // Places at which nothing sound could be put in are looked for again, after the fit has moved things.
  for (
    let left = places, turn = 0, before = Infinity;
    turn < batches || (left >= 1 && left < before && turn < 2 * BATCHES);
    turn++
  ) {
    const share = Math.ceil(left / Math.max(1, batches - turn));
    before = left;
    const own = shareOut(fits, share, (m) => times(meshes[m]));
    fits = fits.map((fit, m) => {
      const next = help(fit, turn, own[m]);
      const more = next.mesh.owner.length - fit.mesh.owner.length;
      given[m].push(more / 2);
      left -= (times(meshes[m]) * more) / 2;
      return next;
    });
  }
  const again = (i: number) => (held: ReadonlySet<string>) =>
    given[i].reduce(
      (fit, more, turn) => help(fit, turn, more),
      begin(meshes[i], held),
    ).mesh;
  fits = fits.map((fit, i) => {
    const before = oneMesh(state, meshes[i]);
    const mesh = uncrossed(before, fit.mesh, stays, again(i), check);
    return mesh === fit.mesh ? fit : fit.with(mesh);
  });
  if (exchange && light && meshes.every((m) => times(m) === 1))
    fits = exchangeWorst(fits, exchange, spanOf(step, 0.4, 1));
  return joinStates(
    fits.map((fit) => fit.mesh),
    state.centre,
  );
}

/** Mean squared distance, metres², of some meshes of a state from their sources, both ways together. */
export function meanDistance2(
  state: Triangles,
  samples: SurfaceSamples,
  near: Pick<Triangles, "positions" | "triangles" | "owner">,
  meshes: readonly number[],
): number {
  let there = 0;
  let count = 0;
  let back = 0;
  let area = 0;
  for (const m of meshes) {
    const own = oneMesh(state, m);
    if (!own.owner.length) continue;
    const fit = new Fit(own, samplesOf(samples, m, own), oneMesh(near, m));
    const error = fit.error();
    there += error.there;
    count += error.count;
    back += error.back;
    area += error.area;
  }
  return there / (count || 1) + back / (area || 1);
}

/** Times that a mesh is fitted again with more of it held. */
const TRIES = 3;

/**
 * A fitted mesh without faces that pass through each other, unless some did before: where they do, it is held as
 * it was and fitted again, wider each time. Where nothing helps, the try with the fewest.
 * @param before the same mesh not fitted; the fitted one has its vertices first
 */
function uncrossed(
  before: Triangles,
  fitted: Triangles,
  stays: ReadonlySet<string> | null,
  again: (held: ReadonlySet<string>) => Triangles,
  check: () => void,
): Triangles {
  let crossing = crossingIn(fitted, check);
  if (!crossing.length) return fitted;
  // A budget that made faces cross before any fit can't show the shape: to hold much of it would lose more of it.
  if (crossingIn(before, check).length) return fitted;
  const held = new Set(stays);
  let best = fitted;
  let least = crossing.length;
  let at = fitted;
  for (let turn = 0; turn < TRIES && least > 0; turn++) {
    const own = before.positions.length / 3;
    let ring = new Set(crossing.flatMap((t) => cornersOf(at, t)));
    for (let wider = 0; wider <= turn; wider++) {
      const next = new Set(ring);
      for (let t = 0; t < at.owner.length; t++)
        if (cornersOf(at, t).some((v) => ring.has(v)))
          for (const v of cornersOf(at, t)) next.add(v);
      ring = next;
    }
    for (const v of ring) if (v < own) held.add(placeKey(before.positions, v));
    at = again(held);
    crossing = crossingIn(at, check);
    if (crossing.length >= least) continue;
    least = crossing.length;
    best = at;
  }
  return best;
}

const cornersOf = ({ triangles }: Triangles, t: number) => [
  triangles[3 * t],
  triangles[3 * t + 1],
  triangles[3 * t + 2],
];
