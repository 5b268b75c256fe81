import { withReport } from "../../asset/reports";
import { MissingInputError } from "../../base/errors";
import type { OperationResult } from "../../asset/operation";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { shareIslands, TOLERANCE } from "../methods/alike/share-islands";
import { chosenIslands, meshesResult } from "../methods/change-islands";
import type { RepeatRow } from "./find-repeats";
import { IslandOptions } from "../methods/island-options";
import type { SheetMove } from "../methods/sheet-islands";
import {
  boxOf,
  markIslands,
  moveIslands,
  shiftBy,
} from "../methods/sheet-islands";

class ShareOptions extends IslandOptions {
  @field({
    kind: "choice",
    label: "Share",
    help: "Which of the chosen islands share the texels of one.",
    choices: [
      { value: "never seen together", label: "those never seen together" },
      { value: "all", label: "all that are alike" },
      { value: "none", label: "none: unique texels again" },
    ],
  })
  only: "never seen together" | "all" | "none" = "never seen together";

  @field({
    kind: "number",
    label: "Tolerance",
    help: "How far points of two islands may be apart, as a share of their size.",
    min: 0.0001,
    max: 0.2,
    step: 0.005,
    folded: true,
  })
  tolerance = TOLERANCE;
}

export const shareTexels = defineOperation({
  id: "unwrap/share",
  stage: "unwrap",
  title: "Share texels",
  about:
    "Lays islands that are the same or mirrored exactly on one another. Copies follow their first one and are left out of the bake.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: ShareOptions,
  run(asset, options, context) {
    const found = chosenIslands(asset, options);
    const { islands, meshes, sheet, names } = found;
    const chosen = new Set(found.chosen);
    if (options.only === "none") {
      let freed = 0;
      // Copies come to lie beside the sheet, to be packed with the others.
      const moves = islands.map((island, i): SheetMove | null => {
        if (!chosen.has(i) || !island.copy) return null;
        freed++;
        const [x0] = boxOf(island.pixels);
        return shiftBy(sheet.width * 1.02 - x0 + 4 * freed, 0);
      });
      const moved = moveIslands(meshes, islands, moves, sheet);
      const unique = markIslands(moved, islands, "copies", (_, i) =>
        moves[i] ? 0 : null,
      );
      return listed(
        meshesResult(asset, names, unique, sheet, { unshared: freed }),
        options,
      );
    }
    const faces = new Set(
      found.chosen.map((i) => `${islands[i].mesh} ${islands[i].faces[0]}`),
    );
    const shared = shareIslands(
      meshes,
      sheet,
      {
        only: options.only,
        tolerance: options.tolerance,
        chosen: (island) => faces.has(`${island.mesh} ${island.faces[0]}`),
      },
      spanOf(context, 0, 0.9),
    );
    if (!shared.copies)
      throw new MissingInputError(
        "none of the chosen islands are alike within the tolerance, or all that are can be seen together",
      );
    return listed(
      meshesResult(asset, names, shared.meshes, sheet, {
        copies: shared.copies,
        freed: shared.freed,
      }),
      options,
    );
  },
});

/** The list of repeats knows which of them share their texels now. */
function listed(
  result: OperationResult,
  { faces, only }: ShareOptions,
): OperationResult {
  const dealtWith = (row: RepeatRow) =>
    row.faces.every((each) => faces.includes(each));
  return {
    ...result,
    asset: withReport(result.asset, "unwrap/find-repeats", (report) => ({
      ...report,
      groups: (report.groups as RepeatRow[]).map((row) =>
        dealtWith(row)
          ? { ...row, shared: only === "none" ? 0 : row.count - 1 }
          : row,
      ),
    })),
  };
}
