import { PartsOptions } from "../../asset/parts-options";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { defineOperation, field } from "../../asset/operation";
import { piecesAndSize } from "./count";
import { findGaps, pushIn } from "../methods/gaps";
import { PieceDistances } from "../../asset/pieces";

class CloseGapsOptions extends PartsOptions {
  @field({
    kind: "number",
    label: "Gaps up to",
    empty: "½ % of the asset",
    help: "What is farther apart was not meant to touch; 0 takes half a percent of the asset.",
    unit: "mm",
    min: 0,
    max: 1000,
  })
  gap = 0;

  @field({
    kind: "number",
    label: "Push in by",
    help: "How far beyond touching the pieces go in.",
    unit: "mm",
    min: 0,
    max: 1000,
  })
  amount = 0.5;
}

export const closeGaps = defineOperation({
  id: "survey/close-gaps",
  stage: "survey",
  title: "Push in what does not touch",
  about:
    "Moves hovering pieces, open borders beside another piece and ends that stick out into what they were meant to touch.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: CloseGapsOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    const { pieces, diagonal } = piecesAndSize(asset);
    context.progress(0.1, "measuring gaps");
    const gaps = findGaps(
      pieces,
      new PieceDistances(pieces),
      options.gap / 1000 || 0.005 * diagonal,
      context.check,
    ).filter(({ part }) => chosen.has(part));
    const next = mapParts(asset, (part) => {
      const own = gaps.filter((gap) => gap.part === part.name);
      if (!own.length || !part.source) return part;
      const positions = pushIn(
        part.source.positions,
        own,
        options.amount / 1000,
      );
      return { ...part, source: { ...part.source, positions } };
    });
    const widest = gaps.reduce((most, { width }) => Math.max(most, width), 0);
    return {
      asset: next,
      headline: "",
      report: {
        gaps: gaps.length,
        widest,
        summary: `${spaced(gaps.length)} gaps closed, the widest ${(1000 * widest).toFixed(2)} mm`,
      },
    };
  },
});
