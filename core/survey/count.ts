import { chosenParts, requireMeshes, spaced } from "../asset/asset";
import { defineOperation, field } from "../operation";
import type { MeshSurvey } from "./survey-mesh";
import { surveyMesh } from "./survey-mesh";

class CountOptions {
  @field({ kind: "parts", label: "Parts", help: "Which parts; empty for all." })
  parts: string[] = [];

  @field({
    kind: "number",
    label: "Tolerance",
    help: "Vertices nearer than this count as coincident.",
    unit: "mm",
    min: 0,
    max: 100,
    step: 0.01,
  })
  tolerance = 0.01;
}

export interface PartSurvey extends MeshSurvey {
  part: string;
}

export const countParts = defineOperation({
  id: "survey/count",
  stage: "survey",
  title: "Survey the source",
  about:
    "Counts triangles, quads and n-gons and finds borders, non-manifold edges, doubles and turned faces.",
  runs: "heavy",
  takes: "source",
  makesResult: true,
  Options: CountOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    const parts: PartSurvey[] = [];
    asset.parts.forEach((part, i) => {
      context.check();
      context.progress(i / asset.parts.length, `counting ${part.name}`);
      if (part.source && chosen.has(part.name))
        parts.push({
          part: part.name,
          ...surveyMesh(part.source, options.tolerance / 1000),
        });
    });
    const total = totalOf(parts);
    const wrong =
      total.nonManifoldEdges +
      total.degenerateFaces +
      total.flippedFaces +
      total.duplicateVertices;
    return {
      asset,
      headline: wrong ? `${spaced(wrong)} defects` : "clean",
      report: { ...total, defects: wrong, perPart: parts },
    };
  },
});

function totalOf(parts: readonly PartSurvey[]) {
  const sum = (key: keyof MeshSurvey) =>
    parts.reduce((total, part) => total + (part[key] as number), 0);
  return {
    parts: parts.length,
    triangles: sum("triangles"),
    quads: sum("quads"),
    ngons: sum("ngons"),
    vertices: sum("vertices"),
    borderEdges: sum("borderEdges"),
    nonManifoldEdges: sum("nonManifoldEdges"),
    degenerateFaces: sum("degenerateFaces"),
    flippedFaces: sum("flippedFaces"),
    duplicateVertices: sum("duplicateVertices"),
    components: sum("components"),
    closed: parts.length > 0 && parts.every((part) => part.closed),
  };
}
