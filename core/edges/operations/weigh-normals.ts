import { chosenParts, requireMeshes } from "../../asset/asset";
import { PartsOptions } from "../../asset/parts-options";
import type { NormalWeights } from "../../mesh/normals";
import { defineOperation, field } from "../../asset/operation";
import { shadeParts } from "../methods/shade";

class WeighNormalsOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Weigh by",
    help: "How much each face round a vertex counts for its normal. Large faces stay flat by area.",
    choices: [
      { value: "area and angle", label: "area and angle" },
      { value: "area", label: "area" },
      { value: "angle", label: "angle" },
    ],
  })
  by: NormalWeights = "area and angle";
}

export const weighNormals = defineOperation({
  id: "edges/weigh-normals",
  stage: "edges",
  title: "Weigh vertex normals",
  about:
    "Makes the vertex normals anew, weighted by the area of the faces, their angles, or both.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "edges/weigh-normals",
  Options: WeighNormalsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    return shadeParts(
      asset,
      chosenParts(asset, options.parts),
      (mesh) => mesh.hard ?? new Uint8Array(mesh.corners.length),
      options.by,
    );
  },
});
