import { MissingInputError } from "../../base/errors";
import { PartsOptions } from "../../asset/parts-options";
import type { Asset } from "../../asset/asset";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { toShare, withinDeviation } from "../../decimate/lighten-mesh";
import { triangleCount } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { triangleArea } from "../../space/sample";

class LightenOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Down to",
    help: "A share of the triangles, or as few as a deviation allows.",
    choices: [
      { value: "deviation", label: "a deviation" },
      { value: "share", label: "a share of the triangles" },
    ],
  })
  by: "deviation" | "share" = "deviation";

  @field({
    kind: "number",
    label: "Deviation",
    empty: "half a texel",
    help: "Farthest the surface may move; 0 takes half a texel of the brief's sheet, less than a map can show.",
    unit: "mm",
    min: 0,
    max: 1000,
    step: 0.01,
  })
  deviation = 0;

  @field({
    kind: "number",
    label: "Share",
    help: "Share of the triangles that stay.",
    unit: "%",
    min: 0.1,
    max: 100,
  })
  share = 25;
}

export const lighten = defineOperation({
  id: "survey/lighten",
  stage: "survey",
  title: "Lighten a source",
  about:
    "Reduces a source that is denser than any map can show; the original is kept and can be put back.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: LightenOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    const limit = options.deviation / 1000 || halfTexel(asset);
    let before = 0;
    let after = 0;
    let farthest = 0;
    const next = mapParts(asset, (part) => {
      if (!part.source || !chosen.has(part.name)) return part;
      before += triangleCount(part.source);
      const made =
        options.by === "share"
          ? toShare(part.source, options.share / 100, context)
          : withinDeviation(part.source, limit, context);
      after += triangleCount(made.mesh);
      farthest = Math.max(farthest, made.deviation);
      return made.mesh === part.source
        ? part
        : { ...part, source: made.mesh, dense: part.dense ?? part.source };
    });
    return {
      asset: next,
      headline: "",
      report: {
        before,
        triangles: after,
        deviation: farthest,
        limit: options.by === "deviation" ? limit : null,
        summary: `${spaced(before)} triangles became ${spaced(after)}, at most ${(1000 * farthest).toFixed(3)} mm off`,
      },
    };
  },
});

/** Half the edge of a texel, metres, on the brief's sheet filled to three fifths. */
function halfTexel(asset: Asset): number {
  const { texelsPerMetre, sheetSize } = asset.brief;
  if (texelsPerMetre) return 0.5 / texelsPerMetre;
  let area = 0;
  for (const { source } of asset.parts) {
    if (!source) continue;
    const { vertices, faces } = triangulate(source);
    for (let t = 0; t < faces.length; t++)
      area += triangleArea(source.positions, vertices, t);
  }
  return (0.5 * Math.sqrt(area / 0.6)) / sheetSize;
}

export const restoreDense = defineOperation({
  id: "survey/restore-dense",
  stage: "survey",
  title: "Put the dense source back",
  about: "Undoes lightening and new skins, however long ago that was.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: PartsOptions,
  run(asset, options) {
    const chosen = chosenParts(asset, options.parts);
    let count = 0;
    const next = mapParts(asset, (part) => {
      if (!part.dense || !chosen.has(part.name)) return part;
      count++;
      return { ...part, source: part.dense, dense: null, skinned: false };
    });
    if (!count)
      throw new MissingInputError(
        "no chosen part has been lightened or skinned",
      );
    return {
      asset: next,
      headline: "",
      report: { restored: count, summary: `${count} sources are dense again` },
    };
  },
});
