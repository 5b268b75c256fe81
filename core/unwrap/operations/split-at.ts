import { chosenParts, requireMeshes } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { PartsOptions } from "../../asset/parts-options";
import { MissingInputError } from "../../base/errors";
import { buildEdges } from "../../mesh/edges";
import { defineOperation, field } from "../../asset/operation";
import { reportUnwrap } from "../methods/report";
import { borderSeams } from "../methods/seams/border-seams";
import { sheetOf } from "../methods/sheet";
import { unfoldSeams } from "../methods/unfold-seams";

class SplitOptions extends PartsOptions {
  @field({
    kind: "flag",
    label: "Hard edges",
    help: "A hard edge within an island bakes as a gradient on both of its sides.",
  })
  hard = true;

  @field({
    kind: "flag",
    label: "Material borders",
    help: "Edges at which materials meet; an engine parts vertices there anyhow.",
  })
  materials = false;

  @field({
    kind: "flag",
    label: "ID borders",
    help: "Edges at which IDs meet, so that no texel lies between two of them.",
  })
  ids = false;
}

export const splitAt = defineOperation({
  id: "unwrap/split-at",
  stage: "unwrap",
  title: "Split UVs at borders",
  about:
    "Makes hard edges, and edges at which materials or IDs meet, seams where UVs run on, and unfolds the islands that changes.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: SplitOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const chosen = chosenParts(asset, options.parts);
    const sheet = sheetOf(asset);
    let split = 0;
    const next = mapParts(asset, (part) => {
      const { game } = part;
      if (!game?.uvs || !chosen.has(part.name)) return part;
      const wanted = borderSeams(game, options);
      const seams = game.seams?.slice() ?? new Uint8Array(game.corners.length);
      const { count, first, second, uses } = buildEdges(game);
      let own = 0;
      for (let e = 0; e < count; e++) {
        const [c, d] = [first[e], second[e]];
        // Where more than two faces meet UVs part anyhow.
        if (!wanted[c] || seams[c] || uses[e] !== 2) continue;
        seams[c] = seams[d] = 1;
        own++;
      }
      split += own;
      return own
        ? { ...part, game: unfoldSeams({ ...game, seams }, sheet).mesh }
        : part;
    });
    if (!split)
      throw new MissingInputError(
        `every ${wordsOf(options)} is a UV split already`,
      );
    const told = reportUnwrap(next, sheet, 0);
    return {
      asset: next,
      headline: told.headline,
      report: { ...told.report, split },
    };
  },
});

function wordsOf({ hard, materials, ids }: SplitOptions): string {
  const words = [
    ...(hard ? ["hard edge"] : []),
    ...(materials ? ["material border"] : []),
    ...(ids ? ["ID border"] : []),
  ];
  return words.join(" and ") || "edge of those asked for";
}
