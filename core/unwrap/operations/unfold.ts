import { edgesByPart } from "../../asset/chosen-edges";
import { defineOperation, field } from "../../asset/operation";
import { meshesResult } from "../methods/change-islands";
import { chosenGames, IslandOptions } from "../methods/island-options";
import { sheetOf } from "../methods/sheet";
import { unfoldSeams } from "../methods/unfold-seams";

class UnfoldOptions extends IslandOptions {
  @field({
    kind: "choice",
    label: "Keep",
    help: "What a layout keeps as well as it can.",
    choices: [
      { value: "both", label: "lengths and areas" },
      { value: "lengths", label: "lengths" },
      { value: "angles", label: "angles" },
    ],
  })
  what: "both" | "lengths" | "angles" = "both";

  @field({
    kind: "edges",
    label: "Pins",
    help: "Edges whose ends stay where they are on the sheet.",
    folded: true,
  })
  pins: string[] = [];
}

export const unfoldIslands = defineOperation({
  id: "unwrap/unfold",
  stage: "unwrap",
  title: "Unfold again",
  about:
    "Lays chosen islands flat along the seams there are: angle-true first, then relaxed without ever turning a triangle. Ends of chosen edges stay pinned.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: UnfoldOptions,
  run(asset, options, context) {
    const games = chosenGames(asset, options, false);
    const sheet = sheetOf(asset);
    const pins = edgesByPart(asset, options.pins);
    let stretch = 1;
    let islands = 0;
    const chosen = games.filter(({ marks }) => marks.some((mark) => mark));
    const meshes = chosen.map(({ name, mesh, marks }, i) => {
      context.check();
      context.progress(i / chosen.length, `laying ${name} flat`);
      const held = pins.get(name);
      const made = unfoldSeams(mesh, sheet, {
        anew: marks,
        evenness: options.what === "both" ? 4 : 0,
        rounds: options.what === "angles" ? 0 : 24,
        pins:
          held && mesh.uvs
            ? new Set([...held].flatMap((key) => key.split(" ").map(Number)))
            : null,
      });
      stretch = Math.max(stretch, made.stretch);
      islands += made.islands;
      return made.mesh;
    });
    return meshesResult(
      asset,
      chosen.map(({ name }) => name),
      meshes,
      sheet,
      {
        unfolded: islands,
        worst: stretch,
      },
    );
  },
});
