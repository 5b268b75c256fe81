import { toRanges } from "../../base/ranges";
import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import {
  findRepeats,
  TOLERANCE,
  TOO_SMALL,
} from "../methods/alike/share-islands";
import { unwrappedGames } from "../methods/report";
import { sheetOf } from "../methods/sheet";
import { gatherIslands } from "../methods/sheet-islands";

class FindRepeatsOptions {
  @field({
    kind: "number",
    label: "Tolerance",
    help: "How far points of two islands may be apart, as a share of their size.",
    min: 0.0001,
    max: 0.2,
    step: 0.005,
  })
  tolerance = TOLERANCE;
}

/** Islands that are the same or mirrored, as the bench lists them. */
export interface RepeatRow {
  /** Faces of all of them, `part:ranges` each. */
  faces: string[];
  parts: string[];
  count: number;
  mirrored: number;
  /** Largest share of directions from which two are seen at once. */
  together: number;
  /** Share of all texels that sharing frees. */
  freed: number;
  /** Edge of a square of as many texels as one has, px. */
  size: number;
  /** Sharing is free: never two at once, or too small to notice. */
  free: boolean;
  /** How many of them share already. */
  shared: number;
}

export const findRepeatsOperation = defineOperation({
  id: "unwrap/find-repeats",
  stage: "unwrap",
  title: "Find repeats",
  about:
    "Lists islands that are the same or mirrored, whether copies can ever be seen together, and what sharing their texels frees.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  keepsReport: true,
  madeFrom: ["names of parts", "game meshes", "UVs", "shared texels"],
  Options: FindRepeatsOptions,
  run(asset, options, context) {
    const games = unwrappedGames(asset);
    if (!games.length)
      throw new MissingInputError("no game mesh has UVs yet: unwrap first");
    const sheet = sheetOf(asset);
    const meshes = games.map(({ mesh }) => mesh);
    const islands = gatherIslands(meshes, sheet);
    const found = findRepeats(meshes, islands, options.tolerance, context);
    const rows = found.map((repeat): RepeatRow => {
      const members = [
        repeat.first,
        ...repeat.others.map(({ island }) => island),
      ];
      const byPart = new Map<string, number[]>();
      for (const i of members) {
        const { mesh, faces } = islands[i];
        byPart.set(games[mesh].name, [
          ...(byPart.get(games[mesh].name) ?? []),
          ...faces,
        ]);
      }
      return {
        faces: [...byPart].map(
          ([part, faces]) => `${part}:${toRanges(faces.sort((a, b) => a - b))}`,
        ),
        parts: [...byPart.keys()],
        count: members.length,
        mirrored: repeat.others.filter(({ mirrored }) => mirrored).length,
        together: repeat.together,
        freed: repeat.freed,
        size: repeat.size,
        free: repeat.together === 0 || repeat.size < TOO_SMALL,
        shared: members.filter((i) => islands[i].copy).length,
      };
    });
    rows.sort((a, b) => b.freed - a.freed);
    return {
      asset,
      headline: "",
      report: {
        groups: rows,
        freed: rows.reduce((sum, row) => sum + row.freed, 0),
        freedUnseen: rows.reduce(
          (sum, row) => sum + (row.free ? row.freed : 0),
          0,
        ),
      },
    };
  },
});
