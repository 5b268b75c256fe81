import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import { unwrappedGames } from "../methods/report";
import { sheetOf } from "../methods/sheet";
import { tileAt } from "../../mesh/tiles";
import type { LinesBy, TemplateOptions } from "../methods/template/template";
import { templatePng, templateSvg } from "../methods/template/template";

class MakeTemplateOptions {
  @field({
    kind: "choice",
    label: "Format",
    help: "PNG with a transparent ground, or SVG.",
    choices: [
      { value: "png", label: "PNG" },
      { value: "svg", label: "SVG" },
    ],
  })
  format: "png" | "svg" = "png";

  @field({
    kind: "integer",
    label: "Width",
    empty: "the sheet's",
    help: "Width of the picture; 0 takes the sheet's.",
    unit: "px",
    min: 0,
    max: 8192,
  })
  size = 0;

  @field({
    kind: "choice",
    label: "Lines by",
    help: "What lines are coloured by.",
    choices: [
      { value: "island", label: "part" },
      { value: "seam", label: "seam" },
      { value: "hard", label: "hard edge" },
    ],
  })
  lines: LinesBy = "island";

  @field({
    kind: "flag",
    label: "Inner edges",
    help: "Draws the edges within islands too.",
  })
  wire = true;

  @field({
    kind: "flag",
    label: "Fill by ID",
    help: "Fills faces with the colour of their ID.",
  })
  fillIds = false;

  @field({
    kind: "flag",
    label: "Part names",
    help: "Writes the name of each part on its largest face.",
  })
  names = false;

  @field({
    kind: "integer",
    label: "Tile",
    help: "UDIM number of the tile that is drawn.",
    min: 1001,
    max: 1100,
    folded: true,
  })
  tile = 1001;
}

export const makeTemplate = defineOperation({
  id: "unwrap/template",
  stage: "unwrap",
  title: "Make a template",
  about:
    "Draws the islands as a picture to paint after: PNG with a transparent ground, or SVG.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  Options: MakeTemplateOptions,
  run(asset, options) {
    const games = unwrappedGames(asset);
    if (!games.length)
      throw new MissingInputError("no game mesh has UVs yet: unwrap first");
    const sheet = sheetOf(asset, { size: options.size });
    const parts = games.map(({ name, mesh }) => ({
      name,
      mesh,
      colour: asset.parts.find((part) => part.name === name)!.colour,
    }));
    const wanted: TemplateOptions = {
      ...options,
      width: sheet.width,
      height: sheet.height,
      tile: tileAt(options.tile - 1001),
    };
    const bytes =
      options.format === "png"
        ? templatePng(parts, asset.palette, wanted)
        : new TextEncoder().encode(templateSvg(parts, asset.palette, wanted));
    const name = `${asset.name}_template${options.tile > 1001 ? `.${options.tile}` : ""}.${options.format}`;
    return {
      asset,
      headline: "",
      report: {
        file: name,
        bytes: bytes.length,
        width: sheet.width,
        height: sheet.height,
      },
      files: [{ name, bytes }],
    };
  },
});
