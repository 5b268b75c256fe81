import { partOf } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { PartsOptions } from "../../asset/parts-options";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import { carrySeams } from "../../mesh/carry-seams";
import type { Mesh } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { reportUnwrap } from "../methods/report";
import { seamsFromUvs } from "../../mesh/seams-from-uvs";
import { sheetOf } from "../methods/sheet";
import { unfoldSeams } from "../methods/unfold-seams";

class CarryOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "From",
    help: "Which mesh has the seams, or UVs that part.",
    choices: [
      { value: "source", label: "the source" },
      { value: "game", label: "the game mesh, to its levels" },
      { value: "part", label: "another part" },
    ],
  })
  from: "source" | "game" | "part" = "source";

  @field({
    kind: "text",
    label: "Part",
    help: "Name of that other part.",
    folded: true,
  })
  part = "";
}

export const carryOver = defineOperation({
  id: "unwrap/carry-seams",
  stage: "unwrap",
  title: "Carry seams over",
  about:
    "Draws the seams of one mesh on another of the same shape, by place: from a source with UVs, from another part, or from a game mesh to its levels of detail.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: CarryOptions,
  run(asset, options, context) {
    requireMeshes(asset, "game");
    const chosen = chosenParts(asset, options.parts);
    const other =
      options.from === "part" ? partOf(asset, options.part).game : null;
    const sheet = sheetOf(asset);
    let carried = 0;
    const next = mapParts(asset, (part) => {
      context.check();
      if (!chosen.has(part.name) || !part.game) return part;
      if (options.from === "game") {
        const seams = seamsOf(part.game);
        if (!seams || !part.levels.length) return part;
        carried++;
        return {
          ...part,
          levels: part.levels.map((level) =>
            level.uvs
              ? level
              : { ...level, seams: carrySeams(part.game!, seams, level) },
          ),
        };
      }
      const from = options.from === "source" ? part.source : other;
      const seams = from && seamsOf(from);
      if (!seams) return part;
      carried++;
      const marks = carrySeams(from, seams, part.game);
      const game = { ...part.game, seamOverrides: marks, seams: marks };
      return { ...part, game: game.uvs ? unfoldSeams(game, sheet).mesh : game };
    });
    if (!carried)
      throw new MissingInputError(
        options.from === "game"
          ? "no chosen part has both seams and levels of detail"
          : "no mesh to carry from has seams or UVs",
      );
    const told = reportUnwrap(next, sheet, 0);
    return {
      asset: next,
      headline: told.headline,
      report: { ...told.report, carried },
    };
  },
});

function seamsOf(mesh: Mesh): Uint8Array | null {
  const marks =
    mesh.seams ??
    (mesh.uvs
      ? seamsFromUvs(mesh, mesh.uvs)
      : mesh.seamOverrides?.map((cut) => (cut === 1 ? 1 : 0)));
  return marks?.some((mark) => mark) ? marks : null;
}
