import { PartsOptions } from "../../asset/parts-options";
import { chosenParts, requireMeshes } from "../../asset/asset";
import { hardAbove } from "../../mesh/hard-angle";
import { defineOperation, field } from "../../asset/operation";
import { shadeParts } from "../methods/shade";

class HardByAngleOptions extends PartsOptions {
  @field({
    kind: "number",
    label: "Hard above",
    help: "Edges whose faces turn by more than this are hard; 180 makes all smooth.",
    unit: "°",
    min: 0,
    max: 180,
    step: 1,
  })
  angle = 180;
}

export const hardByAngle = defineOperation({
  id: "edges/hard-by-angle",
  stage: "edges",
  title: "Hard above an angle",
  about:
    "Marks sharp edges hard, all others smooth, and sets the vertex normals by it.",
  runs: "instant",
  takes: "game",
  makesResult: true,
  Options: HardByAngleOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    return shadeParts(
      asset,
      chosenParts(asset, options.parts),
      (mesh) => hardAbove(mesh, options.angle).hard,
    );
  },
});
