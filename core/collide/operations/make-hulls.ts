import { PartsOptions } from "../../asset/parts-options";
import { chosenParts } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { followRepeats, workedParts } from "../../asset/repeats";
import type { Input } from "../../asset/stale";
import { INPUTS } from "../../asset/stale";
import { spanOf } from "../../base/context";
import { defineOperation, field } from "../../asset/operation";
import type { Hull } from "../../mesh/hull";
import { ownHulls } from "../../mesh/hull";
import type { HullsFrom } from "../methods/hull-meshes";
import { meshForHulls } from "../methods/hull-meshes";
import { hullResult } from "../methods/hull-result";
import { levelHulls } from "../methods/level-hulls";
import type { HullOptions, ShapeWanted, Together } from "../methods/hulls";
import { makeHulls } from "../methods/hulls";

export class HullsOptions extends PartsOptions {
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
    empty: "a hundredth of the asset",
    help: "Loose pieces that are smaller, rivets say, have no say in the shapes; 0 takes a hundredth of the asset's size.",
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

  @field({
    kind: "flag",
    label: "Also for each level",
    help: "Makes shapes from every level of detail too, to go out with it; those are not counted among the hulls allowed.",
    folded: true,
  })
  forLevels = false;

  @field({
    kind: "flag",
    label: "Also what nobody sees",
    help: "Once Survey has looked for what is seen, loose pieces that are not have no say in the shapes; with this they have.",
    folded: true,
  })
  unseenToo = false;

  @field({
    kind: "flag",
    label: "Also where worked by hand",
    help: "Parts with shapes that were placed or changed by hand keep theirs; with this they are made anew as well.",
    folded: true,
  })
  handToo = false;
}

/** By what it is told which faces nobody sees. */
const seenIn = (from: HullsFrom, ofLevels: boolean): Input[] => [
  ...(from === "source" ? ["source faces that are seen" as const] : []),
  ...(from === "game" ? ["seen faces that hulls hold" as const] : []),
  ...(ofLevels ? ["level faces that are seen" as const] : []),
];

export const collideAsset = defineOperation({
  id: "collide/hulls",
  stage: "collide",
  title: "Make hulls",
  about:
    "Makes boxes, spheres, capsules, prisms, convex hulls or a ground mesh for collision, and says how far they stand off.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  madeFrom: ({ from, together, unseenToo, forLevels }) => {
    const ofLevels = forLevels || (from !== "source" && from !== "game");
    return [
      ...INPUTS.collide,
      ...(from === "source"
        ? (["source meshes", "how sources are settled"] as const)
        : []),
      ...(ofLevels ? (["levels"] as const) : []),
      ...(together === "group" ? (["groups of parts"] as const) : []),
      ...(together === "asset" ? (["the asset's name"] as const) : []),
      ...(unseenToo ? [] : seenIn(from, ofLevels)),
    ];
  },
  formerly: ({ whole, ...rest }) =>
    whole === undefined
      ? rest
      : { together: whole ? "asset" : "part", ...rest },
  forOnce: ["handToo"],
  Options: HullsOptions,
  run(asset, options, context) {
    const start = performance.now();
    const named = chosenParts(asset, options.parts);
    const kept = workedParts(asset).filter(
      ({ name, hulls }) =>
        named.has(name) &&
        !options.handToo &&
        hulls.some((hull) => hull.byHand),
    );
    const chosen = new Set(
      [...named].filter((name) => !kept.some((part) => part.name === name)),
    );
    const placed = asset.parts.filter(({ name, repeat }) =>
      kept.some((part) => part.name === (repeat?.of ?? name)),
    );
    const most = options.maxHulls || asset.brief.hulls;
    const asked: HullOptions = {
      shape: options.kind,
      together: options.together,
      mostHulls: Math.max(
        1,
        most -
          placed.reduce((sum, { hulls }) => sum + ownHulls(hulls).length, 0),
      ),
      vertices: options.vertices,
      error: options.error / 1000,
      smallestGap: options.smallestGap / 1000,
    };
    const { byPart, flat } = chosen.size
      ? makeHulls(
          asset,
          chosen,
          meshForHulls(asset, options, () => context.check()),
          asked,
          spanOf(context, 0, options.forLevels ? 0.5 : 0.85),
        )
      : { byPart: new Map<string, Hull[]>(), flat: [] };
    const ofLevels = options.forLevels
      ? levelHulls(asset, chosen, asked, options, spanOf(context, 0.5, 0.85))
      : new Map<string, Hull[]>();
    const own = mapParts(asset, (part) =>
      chosen.has(part.name) && !part.repeat
        ? {
            ...part,
            hulls: [
              ...(byPart.get(part.name) ?? []),
              ...(ofLevels.get(part.name) ?? []),
            ],
          }
        : part,
    );
    const next = followRepeats(own, asset);
    const made = next.parts.filter(({ name, repeat }) =>
      named.has(repeat?.of ?? name),
    );
    context.progress(0.85, "measuring");
    const { headline, report } = hullResult(next, made, options, () =>
      context.check(),
    );
    return {
      asset: next,
      headline,
      report: {
        ...report,
        flat,
        byHand: kept.map(({ name }) => name),
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});
