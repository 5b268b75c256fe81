import { chosenParts, requireMeshes, spaced } from "../asset/asset";
import { mapParts } from "../asset/parts";
import { weld } from "../mesh/weld";
import { defineOperation, field } from "../operation";

class WeldOptions {
  @field({ kind: "parts", label: "Parts", help: "Which parts; empty for all." })
  parts: string[] = [];

  @field({
    kind: "number",
    label: "Tolerance",
    help: "Vertices nearer than this become one.",
    unit: "mm",
    min: 0,
    max: 100,
    step: 0.01,
  })
  tolerance = 0.01;
}

export const weldParts = defineOperation({
  id: "survey/weld",
  stage: "survey",
  title: "Weld coincident vertices",
  about:
    "Joins vertices of the source that lie within a tolerance; faces that fall together by it go.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: WeldOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    let vertices = 0;
    let faces = 0;
    const next = mapParts(asset, (part) => {
      context.check();
      if (!part.source || !chosen.has(part.name)) return part;
      const welded = weld(part.source, options.tolerance / 1000);
      vertices += welded.verticesGone;
      faces += welded.facesGone;
      return welded.verticesGone ? { ...part, source: welded.mesh } : part;
    });
    return {
      asset: next,
      headline: "",
      report: {
        verticesGone: vertices,
        facesGone: faces,
        summary: `${spaced(vertices)} vertices and ${spaced(faces)} faces went`,
      },
    };
  },
});
