import { PartsOptions } from "../../asset/parts-options";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import { defineOperation } from "../../asset/operation";
import { shadeParts } from "../methods/shade";

export const hardAtIslands = defineOperation({
  id: "edges/hard-at-islands",
  stage: "edges",
  title: "Smooth, hard at island borders",
  about:
    "Makes every edge smooth but those at the borders of UV islands, where a hard edge costs nothing.",
  runs: "instant",
  takes: "game",
  makesResult: true,
  madeFrom: ["names of parts", "game meshes", "seams"],
  preserves: ["unwrap"],
  Options: PartsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    if (!asset.parts.some((part) => part.game?.seams))
      throw new MissingInputError("there are no UV islands yet: unwrap first");
    return shadeParts(
      asset,
      chosenParts(asset, options.parts),
      (mesh) => mesh.seams ?? new Uint8Array(mesh.corners.length),
    );
  },
});
