import { MissingInputError, OptionsError } from "../../base/errors";
import { partOf } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { buildEdges } from "../../mesh/edges";
import { SHARP } from "../../mesh/subdivide";
import { defineOperation, field } from "../../asset/operation";

class CreaseOptions {
  @field({
    kind: "edges",
    label: "Edges",
    help: "Edges of the source, as part:vertex-vertex.",
  })
  edges: string[] = [];

  @field({
    kind: "number",
    label: "Sharpness",
    help: "Levels of subdivision the edge stays sharp for; 10 stays sharp for good, 0 takes the crease off.",
    min: 0,
    max: 10,
    step: 0.1,
  })
  sharpness = 2;
}

export const creaseEdges = defineOperation({
  id: "survey/crease",
  stage: "survey",
  title: "Crease chosen edges",
  about: "Says how sharp edges of a control mesh stay when it is subdivided.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: CreaseOptions,
  run(asset, options) {
    if (!options.edges.length) throw new MissingInputError("no edge is chosen");
    const byPart = new Map<string, Set<string>>();
    for (const text of options.edges) {
      const match = /^(.*):(\d+)-(\d+)$/.exec(text);
      const part = match && partOf(asset, match[1]);
      if (!match || !part?.source)
        throw new OptionsError("survey/crease", {
          edges: `"${text}" is no edge of a source`,
        });
      const pair = [Number(match[2]), Number(match[3])].sort((a, b) => a - b);
      byPart.set(
        match[1],
        (byPart.get(match[1]) ?? new Set()).add(pair.join("-")),
      );
    }
    let count = 0;
    const next = mapParts(asset, (part) => {
      const wanted = byPart.get(part.name);
      if (!wanted || !part.source || part.locked) return part;
      const { source } = part;
      const edges = buildEdges(source);
      const creases =
        source.creases?.slice() ?? new Uint8Array(source.corners.length);
      for (let e = 0; e < edges.count; e++) {
        const key = `${edges.vertices[2 * e]}-${edges.vertices[2 * e + 1]}`;
        if (!wanted.has(key)) continue;
        count++;
        const value = Math.min(SHARP, Math.round(10 * options.sharpness));
        for (const c of [edges.first[e], edges.second[e]])
          if (c >= 0) creases[c] = value;
      }
      return { ...part, source: { ...source, creases } };
    });
    if (!count)
      throw new OptionsError("survey/crease", {
        edges: "none of these edges is in the source",
      });
    return {
      asset: next,
      headline: "",
      report: { edges: count, summary: `${spaced(count)} edges creased` },
    };
  },
});
