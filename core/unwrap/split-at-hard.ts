import { requireMeshes } from "../asset/asset";
import { mapParts } from "../asset/parts";
import { chosenParts } from "../asset/asset";
import { PartsOptions } from "../asset/parts-options";
import { MissingInputError } from "../errors";
import { buildEdges } from "../mesh/edges";
import { defineOperation } from "../operation";
import { reportUnwrap } from "./report";
import { sheetOf } from "./sheet";
import { unfoldSeams } from "./unfold-seams";

export const splitAtHard = defineOperation({
  id: "unwrap/split-at-hard",
  stage: "unwrap",
  title: "Split UVs at hard edges",
  about:
    "Makes every hard edge at which UVs run on a seam, and unfolds the islands that changes.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  refreshes: "unwrap/unfold",
  Options: PartsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const chosen = chosenParts(asset, options.parts);
    const sheet = sheetOf(asset);
    let split = 0;
    const next = mapParts(asset, (part) => {
      const { game } = part;
      if (!game?.uvs || !game.hard || !chosen.has(part.name)) return part;
      const edges = buildEdges(game);
      const seams = game.seams?.slice() ?? new Uint8Array(game.corners.length);
      let own = 0;
      for (let e = 0; e < edges.count; e++) {
        const [c, d] = [edges.first[e], edges.second[e]];
        if (d < 0 || edges.uses[e] !== 2 || !game.hard[c] || seams[c]) continue;
        seams[c] = seams[d] = 1;
        own++;
      }
      split += own;
      return own
        ? { ...part, game: unfoldSeams({ ...game, seams }, sheet).mesh }
        : part;
    });
    if (!split)
      throw new MissingInputError("every hard edge is a UV split already");
    const told = reportUnwrap(next, sheet, 0);
    return {
      asset: next,
      headline: told.headline,
      report: { ...told.report, split },
    };
  },
});
