import { chosenParts } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { PartsOptions } from "../../asset/parts-options";
import { workedParts } from "../../asset/repeats";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { measureUnwrap } from "../methods/measure";
import { packMeshes } from "../methods/pack-meshes";
import { sheetOf } from "../methods/sheet";
import { layOut, spreadOut } from "../methods/unwrap-parts";

class UnwrapLevelsOptions extends PartsOptions {
  @field({
    kind: "integer",
    label: "Sheet of level 1",
    empty: "half the asset's",
    help: "Width of the first level's own sheet, each further one's half as wide; 0 begins with half of the asset's.",
    unit: "px",
    min: 0,
    max: 8192,
  })
  size = 0;

  @field({
    kind: "number",
    label: "Stretch allowed",
    help: "L2 stretch an island may have; 1 is none. Less stretch makes more islands.",
    min: 1.01,
    max: 2,
    step: 0.01,
    folded: true,
  })
  stretch = 1.15;

  @field({
    kind: "flag",
    label: "Anew",
    help: "Lays out levels too that have UVs, be they the first level's.",
    folded: true,
  })
  anew = false;
}

/** No sheet is narrower than this, px. */
const NARROWEST = 32;

export const unwrapLevels = defineOperation({
  id: "unwrap/levels",
  stage: "unwrap",
  title: "Unwrap levels",
  about:
    "Gives levels of detail that do not share the first level's UVs islands of their own, each level on a sheet of its own.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  keepsReport: true,
  madeFrom: ["names of parts", "levels", "sheet size", "padding"],
  Options: UnwrapLevelsOptions,
  run(asset, options, context) {
    const chosen = chosenParts(asset, options.parts);
    const worked = new Set(workedParts(asset).map(({ name }) => name));
    const parts = asset.parts.filter(
      ({ name, levels }) =>
        levels.length && chosen.has(name) && worked.has(name),
    );
    const most = Math.max(0, ...parts.map(({ levels }) => levels.length));
    if (!most)
      throw new MissingInputError(
        "no chosen part has levels of detail: make them at Reduce",
      );
    const made = new Map(parts.map((part) => [part.name, [...part.levels]]));
    const first = options.size || asset.brief.sheetSize / 2;
    const levels = [];
    for (let l = 0; l < most; l++) {
      const bare = parts.flatMap(({ name, levels: own }) =>
        own[l] && (options.anew || !own[l].uvs) ? [{ name, mesh: own[l] }] : [],
      );
      if (!bare.length) continue;
      const step = spanOf(context, l / most, (l + 1) / most);
      step.progress(0, `unwrapping level ${l + 1}`);
      const sheet = sheetOf(asset, {
        size: Math.max(NARROWEST, Math.round(first / 2 ** l)),
        density: 0,
      });
      const meshes = bare.map(({ mesh }): Mesh => ({ ...mesh, uvs: null }));
      const islands = layOut(
        meshes,
        { stretch: options.stretch },
        spanOf(step, 0, 0.6),
      );
      const packed = packMeshes(
        spreadOut(meshes, islands, sheet.width / sheet.height),
        sheet,
        {},
        spanOf(step, 0.6, 1),
      );
      bare.forEach(({ name }, i) => (made.get(name)![l] = packed.meshes[i]));
      const figures = measureUnwrap(packed.meshes, sheet);
      levels.push({
        level: l + 1,
        width: sheet.width,
        height: sheet.height,
        parts: bare.map(({ name }) => name),
        ...figures,
      });
    }
    if (!levels.length)
      throw new MissingInputError(
        "every level has UVs: those of the first level, or its own",
      );
    return {
      asset: mapParts(asset, (part) =>
        made.has(part.name) ? { ...part, levels: made.get(part.name)! } : part,
      ),
      headline: "",
      report: {
        levels,
        summary: levels
          .map(
            ({ level, islands, width, fill }) =>
              `level ${level}: ${islands} islands on ${width} px, fill ${Math.round(100 * fill)}\u2009%`,
          )
          .join(", "),
      },
    };
  },
});
