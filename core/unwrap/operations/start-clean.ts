import { faceComponents } from "../../mesh/components";
import { defineOperation, field } from "../../asset/operation";
import { meshesResult } from "../methods/change-islands";
import { chosenGames, IslandOptions } from "../methods/island-options";
import { projectMarked } from "./project";
import { sheetOf } from "../methods/sheet";

class StartCleanOptions extends IslandOptions {
  @field({
    kind: "flag",
    label: "Forget wishes",
    help: "Also forgets which edges were wanted or forbidden as seams.",
  })
  forget = true;
}

export const startClean = defineOperation({
  id: "unwrap/start-clean",
  stage: "unwrap",
  title: "Start clean",
  about:
    "Takes all seams off and lays every connected piece down as one island, projected onto its best plane.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: StartCleanOptions,
  run(asset, options) {
    const games = chosenGames(asset, options, false).filter(({ marks }) =>
      marks.some((mark) => mark),
    );
    const sheet = sheetOf(asset);
    let pieces = 0;
    const meshes = games.map(({ mesh }) => {
      let next = {
        ...mesh,
        uvs: null,
        seams: null,
        held: null,
        copies: null,
        seamOverrides: options.forget ? null : mesh.seamOverrides,
      } as typeof mesh;
      const { count, ofFace } = faceComponents(mesh);
      for (let k = 0; k < count; k++)
        next = projectMarked(
          next,
          Uint8Array.from(ofFace, (piece) => (piece === k ? 1 : 0)),
          "plane",
          [0, 0, 1],
          sheet,
        );
      pieces += count;
      return next;
    });
    return meshesResult(
      asset,
      games.map(({ name }) => name),
      meshes,
      sheet,
      { pieces },
    );
  },
});
