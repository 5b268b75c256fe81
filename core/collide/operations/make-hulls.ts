import { PartsOptions } from "../../asset/parts-options";
import { chosenParts } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { followRepeats } from "../../asset/repeats";
import { defineOperation, field } from "../../asset/operation";
import type { HullsFrom } from "../methods/hull-meshes";
import { meshForHulls } from "../methods/hull-meshes";
import type { ShapeWanted, Together } from "../methods/hulls";
import { makeHulls } from "../methods/hulls";
import type { HullFigures } from "../methods/measure-hulls";
import { measureHulls } from "../methods/measure-hulls";

class HullsOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Shape",
    help: "Hulls cuts parts where that frees most volume, best takes the cheapest shape for each piece of that; ground is for what never moves; the others make one shape each.",
    choices: [
      { value: "hulls", label: "several hulls" },
      { value: "best", label: "the cheapest that fits" },
      { value: "hull", label: "convex hull" },
      { value: "box", label: "box" },
      { value: "sphere", label: "sphere" },
      { value: "capsule", label: "capsule" },
      { value: "prism", label: "prism" },
      { value: "ground", label: "ground mesh" },
    ],
  })
  kind: ShapeWanted = "hulls";

  @field({
    kind: "integer",
    label: "Hulls",
    brief: "hulls",
    help: "At the most over all that is made, repeats counted as well; 0 takes the brief's.",
    min: 0,
    max: 256,
  })
  maxHulls = 0;

  @field({
    kind: "integer",
    label: "Vertices",
    help: "At the most in each convex hull; a prism has half as many sides.",
    min: 4,
    max: 255,
  })
  vertices = 32;

  @field({
    kind: "choice",
    label: "For each",
    help: "One shape, or several hulls dealt out, for each part, each group of the ledger, or all that is chosen.",
    choices: [
      { value: "part", label: "part" },
      { value: "group", label: "group" },
      { value: "asset", label: "all together" },
    ],
  })
  together: Together = "part";

  @field({
    kind: "number",
    label: "Error",
    empty: "as little as they allow",
    help: "How far a shape may stand off; cutting stops there, and the cheapest shape is looked for within it. 0: hulls as near as their number allows, ground and the cheapest within a hundredth of the size.",
    unit: "mm",
    min: 0,
    max: 100_000,
    step: 0.1,
  })
  error = 0;

  @field({
    kind: "number",
    label: "Smallest gap",
    help: "Openings that are narrower may be covered; where a wider one is covered, that is told.",
    unit: "mm",
    min: 0,
    max: 100_000,
    step: 1,
    folded: true,
  })
  smallestGap = 0;

  @field({
    kind: "number",
    label: "Smallest piece",
    help: "Loose pieces that are smaller, rivets say, have no say in the shapes.",
    unit: "mm",
    min: 0,
    max: 100_000,
    step: 1,
    folded: true,
  })
  smallestPiece = 0;

  @field({
    kind: "choice",
    label: "Made from",
    help: "The game mesh where there is one, the source, or a level of detail; what a part has no such mesh of gets no shape.",
    choices: [
      { value: "game", label: "game mesh" },
      { value: "source", label: "source" },
      { value: "1", label: "level 1" },
      { value: "2", label: "level 2" },
      { value: "3", label: "level 3" },
    ],
    folded: true,
  })
  from: HullsFrom = "game";
}

export const collideAsset = defineOperation({
  id: "collide/hulls",
  stage: "collide",
  title: "Make hulls",
  about:
    "Makes boxes, spheres, capsules, prisms, convex hulls or a ground mesh for collision, and says how far they stand off.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  Options: HullsOptions,
  run(asset, options, context) {
    const start = performance.now();
    const chosen = chosenParts(asset, options.parts);
    const most = options.maxHulls || asset.brief.hulls;
    const meshOf = meshForHulls(asset, options.from, () => context.check());
    const gap = options.smallestGap / 1000;
    const error = options.error / 1000;
    const { byPart, flat } = makeHulls(
      asset,
      chosen,
      meshOf,
      {
        shape: options.kind,
        together: options.together,
        mostHulls: most,
        vertices: options.vertices,
        error,
        smallestGap: gap,
        smallestPiece: options.smallestPiece / 1000,
      },
      context,
    );
    const own = mapParts(asset, (part) =>
      chosen.has(part.name) && !part.repeat
        ? { ...part, hulls: byPart.get(part.name) ?? [] }
        : part,
    );
    const next = followRepeats(own, asset);
    const total = next.parts.reduce((sum, part) => sum + part.hulls.length, 0);
    const made = next.parts.filter(({ name, repeat }) =>
      chosen.has(repeat?.of ?? name),
    );
    const figures = measureHulls(
      made.flatMap(({ hulls }) => hulls),
      made.flatMap((part) => meshOf(part) ?? []),
    );
    return {
      asset: next,
      headline: `${total} ${total === 1 ? "hull" : "hulls"}`,
      report: {
        ...figures,
        flat,
        ...brokenPromise(figures, { most, error, gap, kind: options.kind }),
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

/** What was asked for and could not be had, in words; nothing where all was. */
function brokenPromise(
  { hulls, maxDistance, outside }: HullFigures,
  asked: { most: number; error: number; gap: number; kind: ShapeWanted },
): { failed?: string } {
  const { most, error, gap, kind } = asked;
  const mm = (metres: number) => `${(1000 * metres).toFixed(1)} mm`;
  if (hulls > most && kind !== "ground")
    return {
      failed: `${hulls} hulls are the fewest here, ${most} are allowed: what is repeated has a hull of its own wherever it stands`,
    };
  // What is measured at sampled points is held to the limit but for rounding.
  const allowed = Math.max(error, gap / 2) * 1.001;
  if (gap > 0 && 2 * maxDistance > gap && maxDistance > allowed)
    return {
      failed: `a gap of ${mm(2 * maxDistance)} is covered, and ${mm(gap)} count: allow more hulls`,
    };
  if (error > 0 && maxDistance > allowed)
    return {
      failed: `a shape stands ${mm(maxDistance)} off, ${mm(error)} are allowed: allow more hulls, or another shape`,
    };
  if (error > 0 && outside > error * 1.001)
    return {
      failed: `the mesh stands ${mm(outside)} out of its shapes, ${mm(error)} are allowed: allow more vertices`,
    };
  return {};
}
