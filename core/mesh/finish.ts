import { Fit } from "./fit";
import type { SurfaceSamples } from "./samples";
import { samplesOf } from "./samples";
import type { Triangles } from "./soup";

/** Rounds of fitting before vertices are put in at the worst places, and after each helping of them. */
const FIRST_ROUNDS = 2;
const ROUNDS_AFTER = 1;

/** Light meshes are worth more rounds: up to this many triangles vertices are put in one helping after the other. */
const LIGHT = 4000;
const HELPINGS = 3;

/** Share of the triangles that are kept back for the worst places. */
const KEPT_BACK = 0.02;

/** How many vertices of a budget are put in where the distance is worst, two triangles each. */
export const keptBack = (budget: number) =>
  budget < 100 ? 0 : Math.max(1, Math.round((KEPT_BACK * budget) / 2));

/**
 * Brings a reduced state as near to its source as its triangles allow, mesh by mesh.
 * @param near a finer state, about the same origin
 * @param meshes the meshes to work on; others are left out of what is returned
 * @param places how many vertices may be put in, two triangles each; see `keptBack`
 * @param times per mesh: how often each triangle counts
 * @param stays places of vertices that are left where they are; see `placeKey`
 */
export function finishState(
  state: Triangles,
  samples: SurfaceSamples,
  near: Pick<Triangles, "positions" | "triangles" | "owner">,
  meshes: readonly number[],
  places: number,
  times: (mesh: number) => number,
  stays: ReadonlySet<string> | null,
  check: () => void,
): Triangles {
  let fits = meshes.map((m) => {
    const own = oneMesh(state, m);
    const fit = new Fit(
      own,
      samplesOf(samples, m, own),
      oneMesh(near, m),
      undefined,
      true,
      stays,
    );
    fit.run(0, FIRST_ROUNDS, check);
    return fit;
  });
  const helpings = state.owner.length < LIGHT ? HELPINGS : 1;
  for (let left = places, turn = helpings; turn > 0; turn--) {
    const share = Math.ceil(left / turn);
    const worst = fits
      .flatMap((fit, m) => fit.worst(share).map((far) => ({ m, far })))
      .sort((a, b) => b.far - a.far || a.m - b.m);
    const own = new Uint32Array(fits.length);
    let room = share;
    for (const { m } of worst) {
      const cost = times(meshes[m]);
      if (cost > room) continue;
      own[m]++;
      room -= cost;
    }
    const from = FIRST_ROUNDS + ROUNDS_AFTER * (helpings - turn);
    fits = fits.map((fit, m) => {
      const next = own[m] ? fit.refined(own[m]) : fit;
      const more = next.mesh.owner.length - fit.mesh.owner.length;
      left -= (times(meshes[m]) * more) / 2;
      next.run(from, from + ROUNDS_AFTER, check);
      return next;
    });
  }
  return joinStates(
    fits.map((fit) => fit.mesh),
    state.centre,
  );
}

/** The triangles of one mesh of a state with just the vertices they use. */
export function oneMesh<
  T extends Pick<Triangles, "positions" | "triangles" | "owner">,
>(state: T & Partial<Triangles>, mesh: number): Triangles {
  const { positions, triangles, owner, material, id } = state;
  const name = new Int32Array(positions.length / 3).fill(-1);
  const count = owner.reduce((sum, m) => sum + (m === mesh ? 1 : 0), 0);
  const corners = new Uint32Array(3 * count);
  const materials = new Uint16Array(count);
  const ids = new Uint16Array(count);
  const used: number[] = [];
  let at = 0;
  for (let t = 0; t < owner.length; t++) {
    if (owner[t] !== mesh) continue;
    for (let k = 0; k < 3; k++) {
      const v = triangles[3 * t + k];
      if (name[v] < 0) name[v] = used.push(v) - 1;
      corners[3 * at + k] = name[v];
    }
    materials[at] = material?.[t] ?? 0;
    ids[at++] = id?.[t] ?? 0;
  }
  const own = new Float64Array(3 * used.length);
  used.forEach((v, i) => {
    for (let k = 0; k < 3; k++) own[3 * i + k] = positions[3 * v + k];
  });
  return {
    positions: own,
    triangles: corners,
    owner: new Uint16Array(count).fill(mesh),
    material: materials,
    id: ids,
    centre: state.centre ?? [0, 0, 0],
  };
}

export function joinStates(
  states: readonly Triangles[],
  centre: readonly number[],
): Triangles {
  const sum = (of: (state: Triangles) => number) =>
    states.reduce((total, state) => total + of(state), 0);
  const total = sum((state) => state.owner.length);
  const joined = {
    positions: new Float64Array(sum((state) => state.positions.length)),
    triangles: new Uint32Array(3 * total),
    owner: new Uint16Array(total),
    material: new Uint16Array(total),
    id: new Uint16Array(total),
    centre,
  };
  let base = 0;
  let at = 0;
  for (const state of states) {
    joined.positions.set(state.positions, 3 * base);
    joined.triangles.set(
      state.triangles.map((v) => v + base),
      3 * at,
    );
    joined.owner.set(state.owner, at);
    joined.material.set(state.material, at);
    joined.id.set(state.id, at);
    base += state.positions.length / 3;
    at += state.owner.length;
  }
  return joined;
}
