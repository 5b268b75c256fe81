import { PartsOptions } from "../../asset/parts-options";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { triangleCount } from "../../mesh/mesh";
import { subdivide } from "../../mesh/subdivide";
import { defineOperation, field } from "../../asset/operation";

class SubdivideOptions extends PartsOptions {
  @field({
    kind: "integer",
    label: "Levels",
    help: "Each level makes four quads of every quad.",
    min: 1,
    max: 5,
  })
  levels = 2;
}

const MOST_TRIANGLES = 20_000_000;

export const subdivideParts = defineOperation({
  id: "survey/subdivide",
  stage: "survey",
  title: "Subdivide control meshes",
  about:
    "Makes the smooth mesh that a control mesh stands for, with its creases and borders, as the new source.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: SubdivideOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    const expected = asset.parts.reduce(
      (sum, part) =>
        part.source && chosen.has(part.name)
          ? sum + 2 * part.source.corners.length * 4 ** (options.levels - 1)
          : sum,
      0,
    );
    if (expected > MOST_TRIANGLES)
      throw new MissingInputError(
        `${options.levels} levels would make ${spaced(expected)} triangles, more than ${spaced(MOST_TRIANGLES)}: take fewer levels or parts`,
      );
    let triangles = 0;
    const next = mapParts(asset, (part) => {
      if (!part.source || !chosen.has(part.name)) return part;
      context.check();
      const source = subdivide(part.source, options.levels);
      triangles += triangleCount(source);
      return { ...part, source, dense: null };
    });
    return {
      asset: next,
      headline: "",
      report: { triangles, summary: `${spaced(triangles)} triangles now` },
    };
  },
});
