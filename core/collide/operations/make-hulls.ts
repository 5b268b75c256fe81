import { PartsOptions } from "../../asset/parts-options";
import { chosenParts } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { followRepeats } from "../../asset/repeats";
import { defineOperation, field } from "../../asset/operation";
import type { ShapeWanted } from "../methods/hulls";
import { meshForHulls, makeHulls, measureHulls } from "../methods/hulls";

class HullsOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Shape",
    help: "Hulls cuts parts where that frees most volume; the others make one shape each.",
    choices: [
      { value: "hulls", label: "several hulls" },
      { value: "hull", label: "convex hull" },
      { value: "box", label: "box" },
      { value: "sphere", label: "sphere" },
      { value: "capsule", label: "capsule" },
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
    help: "At the most in each convex hull.",
    min: 4,
    max: 255,
  })
  vertices = 32;

  @field({
    kind: "flag",
    label: "One for all",
    help: "One shape for the whole asset instead of one for each part.",
  })
  whole = false;
}

export const collideAsset = defineOperation({
  id: "collide/hulls",
  stage: "collide",
  title: "Make hulls",
  about:
    "Makes boxes, spheres, capsules or convex hulls for collision, and says how much volume they add.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  Options: HullsOptions,
  run(asset, options, context) {
    const start = performance.now();
    const chosen = chosenParts(asset, options.parts);
    const most = options.maxHulls || asset.brief.hulls;
    const { byPart, flat } = makeHulls(
      asset,
      chosen,
      {
        shape: options.kind,
        whole: options.whole,
        mostHulls: most,
        vertices: options.vertices,
      },
      () => context.check(),
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
    const meshOf = meshForHulls(next, () => context.check());
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
        ...(figures.hulls > most && {
          failed: `${figures.hulls} hulls are the fewest here, ${most} are allowed: what is repeated has a hull of its own wherever it stands`,
        }),
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});
