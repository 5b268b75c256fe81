import type { Asset } from "../asset/asset";
import { MissingInputError } from "../errors";
import { requireMeshes, spaced } from "../asset/asset";
import { mapParts } from "../asset/parts";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import type { Context } from "../operation";
import { defineOperation, field, spanOf } from "../operation";
import type { Surface } from "../space/deviation";
import { measureDeviation } from "../space/deviation";
import { triangulate } from "../mesh/triangulate";
import { Collapser } from "./collapse";
import { gatherSoup, scatterSoup } from "./soup";

class ToBudgetOptions {
  @field({
    kind: "integer",
    label: "Triangles (0: brief)",
    help: "Budget over all parts together; 0 takes the brief's.",
    unit: "triangles",
    min: 0,
    max: 2000000,
  })
  triangles = 0;

  @field({
    kind: "flag",
    label: "Measure deviation",
    help: "Measures the distance between source and game meshes afterwards.",
  })
  measure = true;
}

export const reduceToBudget = defineOperation({
  id: "reduce/to-budget",
  stage: "reduce",
  title: "Reduce to the budget",
  about:
    "Quadric edge collapse over all parts together, so that triangles go where they matter.",
  runs: "heavy",
  takes: "source",
  makesResult: true,
  Options: ToBudgetOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const budget = options.triangles || asset.brief.triangles;
    const start = performance.now();
    const next = reduceAsset(asset, budget, spanOf(context, 0, 0.85));
    const seconds = (performance.now() - start) / 1000;
    context.check();
    context.progress(0.88, "measuring the deviation");
    const deviation = options.measure
      ? measureDeviation(surfaceOf(next, "source"), surfaceOf(next, "game"))
      : { rms: null, max: null };
    const parts = next.parts.map((part) => ({
      part: part.name,
      source: part.source ? triangleCount(part.source) : 0,
      triangles: part.game ? triangleCount(part.game) : 0,
      budget: part.budget,
    }));
    const triangles = parts.reduce((sum, part) => sum + part.triangles, 0);
    return {
      asset: next,
      headline: `${spaced(triangles)} of ${spaced(budget)}`,
      report: { triangles, budget, ...deviation, parts, seconds },
    };
  },
});

/** Parts with a budget of their own and locked parts are settled first; the rest share what is left. */
function reduceAsset(asset: Asset, budget: number, context: Context): Asset {
  const games = new Map<string, Mesh | null>();
  let left = budget;
  const shared: { name: string; mesh: Mesh }[] = [];
  for (const part of asset.parts) {
    if (part.locked) {
      if (part.game) left -= triangleCount(part.game);
    } else if (part.source && part.budget > 0) {
      const [game] = reduceTogether([part.source], part.budget, context);
      games.set(part.name, game);
      left -= game ? triangleCount(game) : 0;
    } else if (part.source) shared.push({ name: part.name, mesh: part.source });
    else if (part.game) left -= triangleCount(part.game);
  }
  if (shared.length) {
    if (left < 4)
      throw new MissingInputError(
        `locked parts and parts with a budget of their own leave ${left} of ${budget} triangles for ${shared.map((s) => s.name).join(", ")}`,
      );
    const reduced = reduceTogether(
      shared.map((each) => each.mesh),
      left,
      context,
    );
    shared.forEach(({ name }, i) => games.set(name, reduced[i]));
  }
  return mapParts(asset, (part) =>
    games.has(part.name) ? { ...part, game: games.get(part.name)! } : part,
  );
}

/** Reduces meshes to a budget they share. null for a mesh of which nothing was worth its triangles. */
export function reduceTogether(
  meshes: readonly Mesh[],
  budget: number,
  context: Context,
): (Mesh | null)[] {
  context.progress(0.01, "gathering triangles");
  const soup = gatherSoup(meshes);
  context.check();
  const collapser = new Collapser(soup);
  context.check();
  collapser.run(budget, {
    check: () => context.check(),
    progress: (share) =>
      context.progress(
        0.15 + 0.85 * share,
        `collapsing edges, ${spaced(collapser.live)} triangles left`,
      ),
  });
  return scatterSoup(
    soup,
    collapser.alive,
    meshes.map((mesh) => mesh.materials),
  );
}

/** All source or game meshes of the parts that have a source, as one surface. */
function surfaceOf(asset: Asset, which: "source" | "game"): Surface {
  const meshes = asset.parts.flatMap((part) =>
    part.source && part[which] ? [part[which]] : [],
  );
  const positions = new Float32Array(
    meshes.reduce((sum, mesh) => sum + mesh.positions.length, 0),
  );
  const triangles: Uint32Array[] = [];
  let base = 0;
  for (const mesh of meshes) {
    positions.set(mesh.positions, 3 * base);
    const from = base;
    triangles.push(triangulate(mesh).vertices.map((v) => v + from));
    base += mesh.positions.length / 3;
  }
  const all = new Uint32Array(
    triangles.reduce((sum, list) => sum + list.length, 0),
  );
  let at = 0;
  for (const list of triangles) {
    all.set(list, at);
    at += list.length;
  }
  return { positions, triangles: all };
}
