import type { CollapseOptions } from "./collapse-options";
import type { CollapseWeights } from "./collapse-planes";
import { Collapser } from "./collapse";
import type { CollapseRecord, BudgetAllocation } from "./collapse-record";
import { baseCounts, allocateBudget, seek } from "./collapse-record";
import { DENSITY_LEFT, densityWeight } from "./density";
import { finishState, reserveFor, meanDistance2 } from "./finish";
import { placeKey } from "./fit-state";
import type { Mesh } from "../mesh/mesh";
import type { SurfaceSamples } from "./samples";
import { drawSamples } from "./samples";
import type { Soup, Triangles } from "./soup";
import { gatherSoup, scatterSoup } from "./soup";
import { joinStates, oneMesh } from "./states";
import type { Context } from "../base/context";
import { spanOf } from "../base/context";
import { spaced } from "../base/wording";
import { withoutFlatFaces } from "../settle/flat-faces";
import type { TooSmall } from "./too-small";
import { NONE_TOO_SMALL, withoutTooSmall } from "./too-small";

/** A record reaches from this many triangles down, or from a little above the budget where that is more. */
const RECORD_FROM = 300_000;

/** Points of the source a triangle of the result is fitted to. */
const SAMPLES_A_TRIANGLE = 8;
/** Points at the least, but no more than so many a triangle of a small source. */
const FEWEST_SAMPLES = 24_000;
const SAMPLES_OF_SOURCE = 6;
const MOST_SAMPLES = 1_500_000;

/** How many times finer the state is that the result is held to. */
const FINER = 3;
const FINER_AT_LEAST = 4000;

/** Share of the triangles that must have found a place after the fit. */
const USED = 0.99;

export type ReduceOptions = Pick<CollapseOptions, "weights" | "outline"> & {
  /** Holds cut borders in a plane n·x = d, metres. */
  mirror?: { normal: readonly [number, number, number]; d: number } | null;
  /** Takes the density painted on the meshes into account; so unless false. */
  density?: boolean;
  /** Weighs shape with what is seen of it, where somebody has looked. */
  seen?: boolean;
  /** Keeps pieces and handles that are far smaller than a triangle will be, which go otherwise. */
  smallest?: boolean;
  /** Moves triangles to where it is worst once all is fitted, which takes seconds; so unless false. */
  exchange?: boolean;
};

/** Meshes collapsed once: any budget is a seek in the record, and a finishing of what was found. */
export interface Reduction {
  record: CollapseRecord;
  samples: SurfaceSamples;
  meshes: readonly Mesh[];
  /** Places of vertices that are left as they are. */
  stays: ReadonlySet<string> | null;
  /** What vertices were weighed by, or null where paint, a mirror, an outline or marks on edges had a say too. */
  byShape: Partial<CollapseWeights> | null;
  tooSmall: TooSmall;
}

/** Collapses meshes together and records the order. @param budget the count that matters most */
export function recordTogether(
  meshes: readonly Mesh[],
  budget: number,
  options: ReduceOptions,
  context: Context,
): Reduction {
  context.progress(0.01, "gathering triangles");
  const gathered = gatherSoup(meshes, () => context.check());
  const lockedIn = (soup: Soup) =>
    options.density === false ? null : lockedOf(meshes, soup);
  const { soup, ...tooSmall } = options.smallest
    ? { soup: gathered, ...NONE_TOO_SMALL }
    : withoutTooSmall(gathered, meshes, budget, lockedIn, () =>
        context.check(),
      );
  context.check();
  const { mirror } = options;
  const [x, y, z] = soup.centre;
  const locked = lockedIn(soup);
  const stays = locked && placeKeys(soup, locked);
  const painted = options.density === false ? null : weightsOf(meshes, soup);
  const seen = options.seen ? seenWeights(meshes, soup) : null;
  const faceWeight =
    painted && seen
      ? painted.map((weight, t) => weight * seen[t])
      : (painted ?? seen);
  const samples = drawSamples(
    soup,
    Math.min(
      MOST_SAMPLES,
      Math.max(
        Math.min(FEWEST_SAMPLES, SAMPLES_OF_SOURCE * soup.owner.length),
        SAMPLES_A_TRIANGLE * budget,
      ),
    ),
    seen && ((t) => seen[t] > UNSEEN),
  );
  const ruled =
    locked ||
    painted ||
    mirror ||
    options.outline?.weight ||
    options.exchange === false;
  const byShape =
    ruled || soup.marks.some(Boolean) ? null : (options.weights ?? {});
  const collapser = new Collapser(soup, meshes.length, {
    weights: options.weights,
    outline: options.outline,
    locked,
    faceWeight,
    mirror: mirror && {
      normal: mirror.normal,
      d:
        mirror.d -
        mirror.normal[0] * x -
        mirror.normal[1] * y -
        mirror.normal[2] * z,
    },
  });
  context.check();
  const record = collapser.record(
    Math.max(RECORD_FROM, Math.ceil(1.3 * budget)),
    budget,
    {
      check: () => context.check(),
      progress: (share) =>
        context.progress(
          0.15 + 0.85 * share,
          `collapsing edges, ${spaced(collapser.live)} triangles left`,
        ),
    },
  );
  return { record, samples, meshes, stays, byShape, tooSmall };
}

/** Triangles of faces that are to be left as they are, or null where there are none. */
function lockedOf(meshes: readonly Mesh[], soup: Soup): Uint8Array | null {
  if (!meshes.some((mesh) => mesh.density?.includes(DENSITY_LEFT))) return null;
  return Uint8Array.from(soup.owner, (m, t) =>
    meshes[m].density?.[soup.face[t]] === DENSITY_LEFT ? 1 : 0,
  );
}

function placeKeys(soup: Soup, locked: Uint8Array): Set<string> {
  const found = new Set<string>();
  for (let c = 0; c < soup.triangles.length; c++)
    if (locked[(c / 3) | 0])
      found.add(placeKey(soup.positions, soup.triangles[c]));
  return found;
}

/** What painted density makes of every triangle, or null where nothing is painted. */
function weightsOf(meshes: readonly Mesh[], soup: Soup): Float32Array | null {
  if (!meshes.some((mesh) => mesh.density?.some((value) => value))) return null;
  return Float32Array.from(soup.owner, (m, t) => {
    const { density } = meshes[m];
    return density ? densityWeight(density[soup.face[t]]) : 1;
  });
}

/** What nobody sees is worth this share of its shape; what few directions see, at least this much. */
const UNSEEN = 1e-7;
const HARDLY = 0.05;
/** Seen from this share of all directions, a face counts in full. */
const IN_FULL = 0.1;

/** What being seen from outside makes of every triangle, or null where everything is. */
function seenWeights(meshes: readonly Mesh[], soup: Soup): Float32Array | null {
  if (!meshes.some((mesh) => mesh.visibility?.includes(0))) return null;
  return Float32Array.from(soup.owner, (m, t) => {
    const seen = meshes[m].visibility?.[soup.face[t]] ?? 255;
    return seen
      ? Math.min(1, Math.max(HARDLY, seen / (255 * IN_FULL)))
      : UNSEEN;
  });
}

/** The quick answer to a deal: the state of the record, as it is. */
export function seekMeshes(
  record: CollapseRecord,
  materials: readonly (readonly string[])[],
  deal: BudgetAllocation,
): (Mesh | null)[] {
  return scatterSoup(
    seek(record, allocateBudget(record, deal).taken),
    materials,
  );
}

/**
 * The whole answer to a deal: the state of the record with a little kept back, brought as near to the source as
 * it goes. null for a mesh of which nothing was worth its triangles.
 * In one piece: each step goes on from the mesh of the step before, and may be the last.
 */
export function finishDeal(
  { record, samples, meshes, stays, byShape }: Reduction,
  deal: BudgetAllocation,
  context: Context,
): (Mesh | null)[] {
  const own = meshes.map((_, m) => deal.own?.[m] ?? 0);
  const cap = meshes.map((_, m) => deal.cap?.[m] ?? 0);
  const times = (m: number) => deal.times?.[m] ?? 1;
  const base = baseCounts(record);
  // Every mesh with a number of its own is dealt with by itself, the others together.
  const open = allocateBudget(record, deal).triangles;
  const limited = (m: number) =>
    own[m] || (cap[m] && open[m] >= 0.98 * cap[m] ? cap[m] : 0);
  const together = meshes.flatMap((_, m) => (limited(m) ? [] : [m]));
  const groups = meshes
    .flatMap((_, m) =>
      limited(m) ? [{ meshes: [m], budget: limited(m) }] : [],
    )
    .concat(
      together.length
        ? [
            {
              meshes: together,
              budget:
                deal.budget -
                meshes.reduce(
                  (sum, _, m) =>
                    sum +
                    (limited(m) ? times(m) * Math.min(base[m], limited(m)) : 0),
                  0,
                ),
            },
          ]
        : [],
    );
  const kept = groups.map(({ meshes: list, budget }) => {
    const all = list.reduce((sum, m) => sum + times(m) * base[m], 0);
    return all <= budget ? 0 : reserveFor(budget);
  });
  const less: BudgetAllocation = {
    ...deal,
    own: own.slice(),
    cap,
    budget: deal.budget - 2 * kept.reduce((sum, n) => sum + n, 0),
  };
  groups.forEach(({ meshes: list, budget }, g) => {
    if (limited(list[0])) {
      (less.own as number[])[list[0]] = Math.max(1, budget - 2 * kept[g]);
    }
  });
  const { taken, triangles } = allocateBudget(record, less);
  const state = seek(record, taken);
  const plain = seek(record, allocateBudget(record, deal).taken);
  const near = seek(
    record,
    allocateBudget(record, finer(less, triangles, times)).taken,
  );
  const changed = (m: number) => triangles[m] < meshTriangles(record, base, m);
  const states: Triangles[] = [];
  groups.forEach(({ meshes: list, budget }, g) => {
    const step = spanOf(context, g / groups.length, (g + 1) / groups.length);
    step.progress(0, "fitting to the source");
    const work = list.filter((m) => changed(m) && triangles[m] > 0);
    const rest = list.filter((m) => !changed(m));
    for (const m of rest) states.push(oneMesh(state, m));
    if (!work.length) return;
    // What a piece that went has left over goes to the worst places too.
    const used = list.reduce((sum, m) => sum + times(m) * triangles[m], 0);
    const over = Math.max(0, Math.floor((budget - used) / 2) - kept[g]);
    const finished = finishState(
      state,
      samples,
      near,
      work,
      kept[g] + over,
      times,
      stays,
      byShape,
      step,
    );
    // Long thin triangles of flat-sided bodies can be past all bettering, and have no room for what was kept back:
    // then the record's own state is taken.
    const count = work.reduce(
      (sum, m) => sum + times(m) * trianglesIn(finished, m),
      0,
    );
    const nearer =
      count < USED * (used + 2 * (kept[g] + over)) ||
      meanDistance2(plain, samples, near, work) <
        meanDistance2(finished, samples, near, work);
    if (!nearer) states.push(finished);
    else for (const m of work) states.push(oneMesh(plain, m));
  });
  return scatterSoup(
    joinStates(states, record.centre),
    meshes.map((mesh) => mesh.materials),
  ).map((mesh) => mesh && withoutFlatFaces(mesh));
}

const trianglesIn = ({ owner }: Triangles, m: number): number =>
  owner.reduce((sum, own) => sum + (own === m ? 1 : 0), 0);

/** A mesh that was not collapsed at all, neither before the record nor in it, stays as it is. */
const meshTriangles = (
  record: CollapseRecord,
  base: Uint32Array,
  m: number,
): number => (record.collapsed[m] ? Infinity : base[m]);

function finer(
  deal: BudgetAllocation,
  triangles: Uint32Array,
  times: (m: number) => number,
): BudgetAllocation {
  const own = Array.from(triangles, (n) =>
    Math.max(FINER * n, Math.min(FINER_AT_LEAST, 50 * n)),
  );
  return {
    own,
    times: deal.times,
    budget: own.reduce((sum, n, m) => sum + n * times(m), 0),
  };
}

/** Reduces meshes to a budget they share. null for a mesh of which nothing was worth its triangles. */
export function reduceTogether(
  meshes: readonly Mesh[],
  budget: number,
  context: Context,
  options: ReduceOptions = {},
): (Mesh | null)[] {
  const reduction = recordTogether(
    meshes,
    budget,
    options,
    spanOf(context, 0, 0.8),
  );
  return finishDeal(reduction, { budget }, spanOf(context, 0.8, 1));
}
