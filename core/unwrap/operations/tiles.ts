import { defineOperation, field } from "../../asset/operation";
import { chosenIslands, meshesResult } from "../methods/change-islands";
import { IslandOptions } from "../methods/island-options";
import { toTile } from "../methods/pack-meshes";

class ToTileOptions extends IslandOptions {
  @field({
    kind: "integer",
    label: "Tile",
    help: "UDIM number of the tile, 1001 for the first one.",
    min: 1001,
    max: 1100,
  })
  tile = 1002;
}

export const moveToTile = defineOperation({
  id: "unwrap/to-tile",
  stage: "unwrap",
  title: "Move to tile",
  about: "Moves chosen islands by whole sheets onto another UDIM tile.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: ToTileOptions,
  run(asset, options) {
    const { names, meshes, islands, chosen, sheet } = chosenIslands(
      asset,
      options,
    );
    const keys = new Set(
      chosen.map((i) => `${islands[i].mesh} ${islands[i].faces[0]}`),
    );
    const moved = toTile(
      meshes,
      sheet,
      ({ mesh, faces }) => keys.has(`${mesh} ${faces[0]}`),
      options.tile - 1001,
    );
    return meshesResult(asset, names, moved, sheet, {
      moved: keys.size,
      tile: options.tile,
    });
  },
});
