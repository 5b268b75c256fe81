import { chosenParts, requireMeshes } from "../../asset/asset";
import { PartsOptions } from "../../asset/parts-options";
import { MissingInputError } from "../../base/errors";
import { hardAbove } from "../../mesh/hard-angle";
import { defineOperation, field } from "../../asset/operation";
import { countHard, shadeParts } from "../methods/shade";

export const smoothUnsplit = defineOperation({
  id: "edges/smooth-unsplit",
  stage: "edges",
  title: "Smooth hard edges without a UV split",
  about:
    "Smooths every hard edge at which UVs run on: a normal map can't follow the break there.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "edges/weigh-normals",
  preserves: ["unwrap"],
  Options: PartsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    const chosen = chosenParts(asset, options.parts);
    const broken = asset.parts.reduce(
      (sum, { name, game }) =>
        sum + (game && chosen.has(name) ? countHard(game).unsplit : 0),
      0,
    );
    if (!broken)
      throw new MissingInputError("every hard edge is a UV split already");
    return shadeParts(asset, chosen, (mesh) =>
      Uint8Array.from(
        mesh.hard ?? new Uint8Array(mesh.corners.length),
        (hard, c) => (hard && (!mesh.uvs || mesh.seams?.[c]) ? 1 : 0),
      ),
    );
  },
});

class HardenSeamsOptions extends PartsOptions {
  @field({
    kind: "number",
    label: "That turn by",
    help: "Seams at which the faces turn by less stay smooth.",
    unit: "°",
    min: 0,
    max: 180,
    step: 1,
  })
  angle = 30;
}

export const hardenSeams = defineOperation({
  id: "edges/harden-seams",
  stage: "edges",
  title: "Harden seams that show",
  about:
    "Makes seams hard where the surface turns: a break in the shading that is meant hides the seam, and costs no vertex more.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "edges/weigh-normals",
  preserves: ["unwrap"],
  Options: HardenSeamsOptions,
  run(asset, options) {
    requireMeshes(asset, "game");
    return shadeParts(asset, chosenParts(asset, options.parts), (mesh) => {
      const sharp = hardAbove(mesh, options.angle).hard;
      return Uint8Array.from(sharp, (turns, c) =>
        mesh.hard?.[c] || (turns && mesh.seams?.[c]) ? 1 : 0,
      );
    });
  },
});
