import type { Asset } from "../asset/asset";
import { MissingInputError } from "../errors";
import { budgetOf, requireMeshes, spaced } from "../asset/asset";
import { mapParts } from "../asset/parts";
import { followRepeats } from "../asset/repeats";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import type { Context } from "../operation";
import { defineOperation, field, spanOf } from "../operation";
import type { Surface } from "../space/deviation";
import { measureDeviation } from "../space/deviation";
import { triangulate } from "../mesh/triangulate";
import { reduceTogether } from "../asset/reduce-meshes";

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
    const next = followRepeats(
      reduceAsset(asset, budget, spanOf(context, 0, 0.85)),
      asset,
    );
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

/**
 * Parts with a budget of their own and locked parts are settled first; the rest share what is left. Repeats are
 * reduced once, where they are worked, and count as often as they are placed.
 */
function reduceAsset(asset: Asset, budget: number, context: Context): Asset {
  const games = new Map<string, Mesh | null>();
  const times = new Map<string, number>();
  for (const { repeat } of asset.parts)
    if (repeat) times.set(repeat.of, (times.get(repeat.of) ?? 1) + 1);
  const timesOf = (name: string) => times.get(name) ?? 1;
  let left = budget;
  const shared: { name: string; mesh: Mesh }[] = [];
  for (const part of asset.parts) {
    if (part.repeat) continue;
    const own = budgetOf(asset, part);
    if (part.locked) {
      if (part.game) left -= timesOf(part.name) * triangleCount(part.game);
    } else if (part.source && own > 0) {
      const [game] = reduceTogether([part.source], own, context);
      games.set(part.name, game);
      left -= game ? timesOf(part.name) * triangleCount(game) : 0;
    } else if (part.source) shared.push({ name: part.name, mesh: part.source });
    else if (part.game) left -= timesOf(part.name) * triangleCount(part.game);
  }
  if (shared.length) {
    if (left < 4)
      throw new MissingInputError(
        `locked parts and parts with a budget of their own leave ${left} of ${budget} triangles for ${shared.map((s) => s.name).join(", ")}`,
      );
    shareOut(shared, timesOf, left, context).forEach((game, i) =>
      games.set(shared[i].name, game),
    );
  }
  return mapParts(asset, (part) =>
    games.has(part.name) ? { ...part, game: games.get(part.name)! } : part,
  );
}

/**
 * Reduces meshes together. One that is placed several times stands in the queue as often, so that its triangles
 * weigh what they cost; then the budget is drawn in until the placed sum keeps to it.
 */
function shareOut(
  shared: readonly { name: string; mesh: Mesh }[],
  timesOf: (name: string) => number,
  budget: number,
  context: Context,
): (Mesh | null)[] {
  const each = shared.flatMap(({ mesh, name }, i) =>
    Array.from({ length: timesOf(name) }, () => ({ mesh, i })),
  );
  let allowed = budget;
  for (;;) {
    const reduced = reduceTogether(
      each.map(({ mesh }) => mesh),
      allowed,
      context,
    );
    const fewest: (Mesh | null)[] = [];
    each.forEach(({ i }, k) => {
      const mesh = reduced[k];
      if (!(i in fewest)) fewest[i] = mesh;
      else if (
        mesh &&
        (!fewest[i] || triangleCount(mesh) < triangleCount(fewest[i]))
      )
        fewest[i] = mesh;
    });
    const total = fewest.reduce(
      (sum, mesh, i) =>
        sum + (mesh ? timesOf(shared[i].name) * triangleCount(mesh) : 0),
      0,
    );
    if (total <= budget || allowed <= 4) return fewest;
    allowed = Math.max(4, Math.floor((allowed * budget) / total) - 1);
  }
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
