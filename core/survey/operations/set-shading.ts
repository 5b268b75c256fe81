import { PartsOptions } from "../../asset/parts-options";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { hardAbove } from "../../mesh/hard-angle";
import { cornerNormals } from "../../mesh/normals";
import { defineOperation, field } from "../../asset/operation";

class ShadingOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Shading",
    help: "What the source is shaded by from now on.",
    choices: [
      { value: "angle", label: "hard above an angle" },
      { value: "smooth", label: "smooth all over" },
      { value: "flat", label: "flat faces" },
    ],
  })
  shading: "angle" | "smooth" | "flat" = "angle";

  @field({
    kind: "number",
    label: "Hard above",
    help: "Edges that turn by more than this are hard.",
    unit: "°",
    min: 0,
    max: 180,
  })
  angle = 40;
}

export const setShading = defineOperation({
  id: "survey/set-shading",
  stage: "survey",
  title: "Set the source's shading",
  about:
    "Gives the source new normals and hard edges in place of those of the file, before they are baked into everything.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: ShadingOptions,
  run(asset, options) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    let edges = 0;
    const angle = { angle: options.angle, smooth: 180, flat: -1 }[
      options.shading
    ];
    const next = mapParts(asset, (part) => {
      if (!part.source || !chosen.has(part.name)) return part;
      const { hard, count } =
        angle < 0
          ? {
              hard: new Uint8Array(part.source.corners.length).fill(1),
              count: 0,
            }
          : hardAbove(part.source, angle);
      edges += count;
      const shaded = { ...part.source, hard };
      return {
        ...part,
        source: { ...shaded, normals: cornerNormals(shaded) },
      };
    });
    return {
      asset: next,
      headline: "",
      report: {
        hardEdges: edges,
        summary: `${spaced(edges)} edges are hard now`,
      },
    };
  },
});
