import { ToBudgetOptions } from "../methods/budget-options";
import type { Asset } from "../../asset/asset";
import { budgetOf, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { clearNames, withSeenFaces } from "../../asset/hidden";
import type { KeptRecord } from "../../decimate/kept-record";
import { kneesOf } from "../../asset/knee";
import { allocationOf } from "../../decimate/kept-record";
import { mapParts } from "../../asset/parts";
import { finishDeal, recordTogether } from "../../decimate/reduce-together";
import { followRepeats } from "../../asset/repeats";
import { shapesOf } from "../../asset/stand-ins";
import { isWorked, workedSources } from "../../asset/worked-sources";
import type { TooSmall } from "../../decimate/too-small";
import { NONE_TOO_SMALL } from "../../decimate/too-small";
import { halvesOf, wholeMeshes } from "../../mesh/symmetry";
import { MissingInputError } from "../../base/errors";
import type { CollapseWeights } from "../../decimate/collapse-planes";
import type {
  BudgetAllocation,
  ErrorCurve,
} from "../../decimate/collapse-record";
import { errorCurves } from "../../decimate/collapse-record";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import { joinMeshes } from "../../mesh/change-faces";
import { pairQuads, quadShare } from "../../remesh/pair-quads";
import type { Context } from "../../base/context";
import { defineOperation } from "../../asset/operation";
import { spanOf } from "../../base/context";
import type { Unbroken } from "../methods/broken";
import { insteadOfBroken } from "../methods/broken";
import { JUDGED, judgeAsset, seenParts } from "./judge";

/** Places of what was too small that are told, at the most. */
const MOST_PLACES = 40;

export const reduceToBudget = defineOperation({
  id: "reduce/to-budget",
  stage: "reduce",
  title: "Reduce to the budget",
  about:
    "Quadric edge collapse over all parts together, fitted to the source, so that triangles go where they matter.",
  runs: "heavy",
  takes: "source",
  makesResult: true,
  tellsOf: JUDGED,
  Options: ToBudgetOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const budget = options.triangles || asset.brief.triangles;
    const start = performance.now();
    const looked = options.unseen
      ? { asset, hidden: [] }
      : withSeenFaces(asset, clearNames(asset), context);
    const unseen = new Set(looked.hidden.map(({ part }) => part));
    const reduced = reduceAsset(
      looked.asset,
      budget,
      options,
      unseen,
      spanOf(context, 0, 0.85),
    );
    // What a quick look found out is for dealing the budget out; the sources stay as they were.
    const own = mapParts(reduced.asset, (part, i) => ({
      ...part,
      source: asset.parts[i].source,
    }));
    const next = followRepeats(own, asset);
    const seconds = (performance.now() - start) / 1000;
    context.check();
    context.progress(0.88, "measuring the deviation");
    const parts = next.parts.map((part) => ({
      part: part.name,
      source: part.source ? triangleCount(part.source) : 0,
      triangles: part.game ? triangleCount(part.game) : 0,
      budget: part.budget,
      curve: reduced.curves.get(part.name) ?? null,
    }));
    const triangles = parts.reduce((sum, part) => sum + part.triangles, 0);
    const { shapes, instead } = reduced.unbroken;
    const { knee, breaking } = reduced.curve
      ? kneesOf(
          reduced.curve,
          next.parts.flatMap(({ name, source, game }) => {
            const curve = reduced.curves.get(name);
            return source && curve && !unseen.has(name) && !instead.has(name)
              ? [
                  {
                    name,
                    source,
                    curve,
                    triangles: game ? triangleCount(game) : 0,
                  },
                ]
              : [];
          }),
          budget,
        )
      : { knee: null, breaking: [] };
    return {
      asset: next,
      headline: `${spaced(triangles)} of ${spaced(budget)}`,
      report: {
        triangles,
        budget,
        ...(triangles > budget && {
          failed: whyOver(triangles, budget, reduced.fixed),
        }),
        knee,
        breaking,
        unbroken: {
          shapes,
          baked: [...instead].flatMap(([name, mesh]) => (mesh ? [] : [name])),
        },
        tooSmall: tooSmallReport(reduced.tooSmall, reduced.names),
        hidden: looked.hidden,
        ...(options.measure
          ? judgeAsset(next, options.from, seenParts(next, looked.hidden))
          : { rms: null, max: null }),
        parts,
        curve: reduced.curve,
        plane: reduced.plane,
        seconds,
      },
    };
  },
});

/** @param fixed triangles that parts have by budgets of their own */
const whyOver = (triangles: number, budget: number, fixed: number) =>
  fixed > budget
    ? `parts have ${spaced(fixed)} triangles by budgets of their own, and ${spaced(budget)} are allowed in all: lower them, or raise the budget`
    : `${spaced(budget)} triangles can't be reached: ${spaced(triangles)} are left, and fewer would join surfaces, open what is closed or leave faces without area. Leave parts out, or remake them: skin over, stand-in shapes`;

interface Reduced {
  asset: Asset;
  /** Triangles that parts have by budgets of their own. */
  fixed: number;
  /** Estimated distance, metres, against triangles: of all shared parts, and part by part. */
  curve: ErrorCurve | null;
  curves: Map<string, ErrorCurve>;
  plane: KeptRecord["plane"];
  tooSmall: TooSmall;
  unbroken: Unbroken;
  /** Of the parts whose meshes were worked, in the order in which places name them. */
  names: readonly string[];
}

const tooSmallReport = (
  { pieces, handles, edge }: TooSmall,
  names: readonly string[],
) => ({
  pieces: pieces.length,
  handles: handles.length,
  places: [...pieces, ...handles]
    .slice(0, MOST_PLACES)
    .map(({ mesh, at }) => ({ part: names[mesh], at, radius: edge })),
});

/**
 * One record over all parts that are not locked; parts with a budget of their own keep to it, the rest share what
 * is left. Repeats are reduced once, where they are worked, and count as often as they are placed.
 * In one piece: what the budget leaves is handed from each step to the next.
 */
function reduceAsset(
  asset: Asset,
  budget: number,
  options: ToBudgetOptions,
  unseen: ReadonlySet<string>,
  context: Context,
): Reduced {
  const shapes = new Map<string, Mesh>();
  const { worked, left, timesOf } = workedSources(asset, budget, (part) => {
    const mesh = shapesOf(part, () => context.check());
    if (mesh) shapes.set(part.name, mesh);
    return mesh ? triangleCount(mesh) : 0;
  });
  const own: Record<string, number> = {};
  const cap: Record<string, number> = {};
  let fixed = 0;
  for (const part of asset.parts) {
    const shape = shapes.get(part.name);
    const ownBudget = restOf(budgetOf(asset, part), shape, part.name);
    if (ownBudget && part.capped) cap[part.name] = ownBudget;
    else if (ownBudget) own[part.name] = ownBudget;
    if (own[part.name] && worked.some(({ name }) => name === part.name))
      fixed += timesOf(part.name) * own[part.name];
  }
  const shared = worked.filter(({ name }) => !own[name]);
  if (shared.length && left - fixed < 4)
    throw new MissingInputError(
      `locked parts, shapes and parts with a budget of their own leave ${left - fixed} of ${budget} triangles for ${shared.map((s) => s.name).join(", ")}`,
    );
  if (left < 0 && shapes.size)
    throw new MissingInputError(
      `shapes and locked parts are ${-left} triangles over the budget of ${budget}: give shapes fewer sides, or drop one`,
    );
  if (!worked.length)
    return {
      asset: mapParts(asset, (part) =>
        isWorked(part)
          ? { ...part, game: shapes.get(part.name) ?? null }
          : part,
      ),
      fixed,
      curve: null,
      curves: new Map(),
      plane: null,
      tooSmall: NONE_TOO_SMALL,
      unbroken: NONE_BROKEN,
      names: [],
    };
  const { plane, halves } = halvesOf(
    worked,
    options.symmetry,
    options.halveAll,
  );
  const parts = halves.map(({ name, mesh, halved, twin }) => ({
    name,
    materials: mesh.materials,
    times: timesOf(name) * (halved || twin ? 2 : 1),
    halved,
    twin,
  }));
  const weights: Partial<CollapseWeights> = {
    border: options.border,
    crease: options.crease,
    region: options.region,
    seam: options.seam,
    normals: options.normals,
    evenness: options.evenness,
  };
  const reduction = recordTogether(
    halves.map(({ mesh }) => mesh),
    Math.min(left, options.symmetry === "off" ? left : Math.ceil(left / 2)),
    {
      weights,
      outline: { weight: options.outline, from: options.from },
      density: options.density,
      seen: !options.unseen,
      smallest: options.smallest,
      mirror: plane,
    },
    spanOf(context, 0, 0.75),
  );
  const unbroken = options.broken
    ? NONE_BROKEN
    : insteadOfBroken(
        reduction.record,
        parts.map((part, m) => ({
          ...part,
          mesh: halves[m].mesh,
          free:
            !part.halved &&
            !part.twin &&
            !own[part.name] &&
            !shapes.has(part.name) &&
            !unseen.has(part.name),
        })),
        left,
        own,
        cap,
        () => context.check(),
      );
  const games = wholeMeshes(
    plane,
    parts,
    finishDeal(
      reduction,
      dealWithout(unbroken, parts, left, own, cap),
      spanOf(context, 0.75, 1),
    ),
  );
  for (const [name, mesh] of unbroken.instead) games.set(name, mesh);
  const { all, meshes } = errorCurves(reduction.record, (m) => parts[m].times);
  const curves = new Map<string, ErrorCurve>();
  parts.forEach(({ name, halved }, m) => {
    const curve = meshes[m];
    curves.set(name, {
      ...curve,
      triangles: curve.triangles.map((n) => n * (halved ? 2 : 1)),
    });
  });
  const next = mapParts(asset, (part) => {
    const own = shapes.get(part.name) ?? null;
    if (!games.has(part.name))
      return isWorked(part) ? { ...part, game: own } : part;
    const game = games.get(part.name)!;
    const rest =
      game && !unbroken.instead.has(part.name)
        ? withQuads(game, part.source!, options)
        : game;
    return {
      ...part,
      game: rest && own ? joinMeshes([rest, own]) : (rest ?? own),
    };
  });
  return {
    asset: { ...next, record: { parts, plane, record: reduction.record } },
    fixed,
    curve: all,
    curves,
    plane,
    tooSmall: reduction.tooSmall,
    unbroken,
    names: parts.map(({ name }) => name),
  };
}

const NONE_BROKEN: Unbroken = { instead: new Map(), shapes: [], triangles: 0 };

/** A deal that leaves nothing of parts for which something else stands, and its triangles to the others. */
function dealWithout(
  { instead, triangles }: Unbroken,
  parts: KeptRecord["parts"],
  budget: number,
  own: Readonly<Record<string, number>>,
  cap: Readonly<Record<string, number>>,
): BudgetAllocation {
  // With one triangle of its own a mesh is given up whole: that one is not used.
  const unused = parts.reduce(
    (sum, { name, times }) => sum + (instead.has(name) ? times : 0),
    0,
  );
  const one = Object.fromEntries([...instead.keys()].map((name) => [name, 1]));
  return allocationOf(
    parts,
    budget - triangles + unused,
    { ...own, ...one },
    cap,
  );
}

/** What a part's own budget leaves beside its shapes. @throws MissingInputError where that is nothing */
function restOf(own: number, shape: Mesh | undefined, name: string): number {
  if (!own || !shape) return own;
  const left = own - triangleCount(shape);
  if (left < 4)
    throw new MissingInputError(
      `the shapes of ${name} leave ${left} of its own ${own} triangles: give it more, or drop one`,
    );
  return left;
}

/** A source counts as one of quads where at least half its faces are. */
function withQuads(game: Mesh, source: Mesh, options: ToBudgetOptions): Mesh {
  const wanted =
    options.quads === "always" ||
    (options.quads === "as the source" && quadShare(source) >= 0.5);
  return wanted ? pairQuads(game) : game;
}
