import { chosenParts, requireMeshes } from "../../asset/asset";
import { PartsOptions } from "../../asset/parts-options";
import { markBorders } from "../../mesh/border-edges";
import { defineOperation, field } from "../../asset/operation";
import { shadeParts } from "../methods/shade";

class HardAtBordersOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Where",
    help: "Borders of what become hard.",
    choices: [
      { value: "IDs", label: "IDs meet" },
      { value: "materials", label: "materials meet" },
      { value: "both", label: "either meet" },
    ],
  })
  where: "IDs" | "materials" | "both" = "IDs";

  @field({
    kind: "flag",
    label: "Keep others",
    help: "Leaves edges hard that are; otherwise all others become smooth.",
  })
  others = true;
}

export const hardAtBorders = defineOperation({
  id: "edges/hard-at-borders",
  stage: "edges",
  title: "Hard where IDs or materials meet",
  about: "Makes edges hard at which faces of other IDs or materials meet.",
  runs: "instant",
  takes: "game",
  makesResult: true,
  madeFrom: ({ where }) => [
    "names of parts",
    "game meshes",
    ...(where !== "materials" ? (["game IDs"] as const) : []),
    ...(where !== "IDs" ? (["game materials"] as const) : []),
  ],
  Options: HardAtBordersOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    return shadeParts(asset, chosenParts(asset, options.parts), (mesh) => {
      const hard =
        options.others && mesh.hard
          ? mesh.hard.slice()
          : new Uint8Array(mesh.corners.length);
      if (options.where !== "materials") markBorders(mesh, mesh.ids, hard);
      if (options.where !== "IDs") markBorders(mesh, mesh.faceMaterials, hard);
      return hard;
    });
  },
});
