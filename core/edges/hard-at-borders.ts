import { chosenParts, requireMeshes } from "../asset/asset";
import { PartsOptions } from "../asset/parts-options";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceOfCorners } from "../mesh/mesh";
import { defineOperation, field } from "../operation";
import { shadeParts } from "./shade";

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

function markBorders(
  mesh: Mesh,
  of: ArrayLike<number> | null,
  hard: Uint8Array,
): void {
  if (!of) return;
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  for (let e = 0; e < edges.count; e++) {
    const [c, d] = [edges.first[e], edges.second[e]];
    if (d >= 0 && of[face[c]] !== of[face[d]]) hard[c] = hard[d] = 1;
  }
}
