import type { Brief } from "../../asset/asset";
import { DEFAULT_BRIEF } from "../../asset/asset";
import { PROFILES } from "../../asset/profile";
import { spaced } from "../../base/wording";
import {
  SHEET_SIZES,
  texelDensityOf,
  densitySeenFrom,
  sheetFor,
  texturedArea,
} from "../../asset/density";
import { OptionsError } from "../../base/errors";
import { safeName } from "../../formats/raw-mesh";
import { defineOperation, field } from "../../asset/operation";

/** Stands for the profile that the asset has, whichever it is. */
const OWN_PROFILE = "own";

class BriefOptions {
  @field({
    kind: "text",
    label: "Name",
    help: "Names the asset and the files it is shipped in; empty keeps the name.",
    max: 80,
  })
  name = "";

  @field({
    kind: "integer",
    label: "Triangles",
    help: "Budget of the whole asset.",
    unit: "triangles",
    min: 4,
    max: 2000000,
  })
  triangles = DEFAULT_BRIEF.triangles;

  @field({
    kind: "text",
    label: "Further levels",
    help: "Triangles of each further level of detail, falling, parted by commas.",
    unit: "triangles",
    max: 200,
  })
  levels = "";

  @field({
    kind: "choice",
    label: "Texels by",
    help: "What is given; the other follows from it and the area of the surface.",
    choices: [
      { value: "sheet", label: "sheet size" },
      { value: "density", label: "texels per metre" },
      { value: "seen", label: "where it is seen from" },
    ],
  })
  by: "sheet" | "density" | "seen" = "sheet";

  @field({
    kind: "choice",
    label: "Sheet",
    help: "Width of the sheet that all parts share.",
    unit: "px",
    choices: SHEET_SIZES.map((size) => ({
      value: String(size),
      label: `${size} px wide`,
    })),
  })
  sheet = String(DEFAULT_BRIEF.sheetSize);

  @field({
    kind: "choice",
    label: "Height",
    help: "Height of the sheet against its width.",
    choices: [
      { value: "1", label: "square" },
      { value: "0.5", label: "half its width" },
      { value: "0.25", label: "a quarter" },
      { value: "2", label: "twice its width" },
    ],
  })
  aspect: "1" | "0.5" | "0.25" | "2" = "1";

  @field({
    kind: "integer",
    label: "Sheets",
    help: "Sheets allowed, each a UDIM tile.",
    min: 1,
    max: 100,
  })
  sheets = DEFAULT_BRIEF.sheets;

  @field({
    kind: "integer",
    label: "Vertices",
    empty: "any number",
    help: "Vertices allowed as an engine counts them, with all that splits them; 0 for no limit.",
    unit: "vertices",
    min: 0,
    max: 10000000,
  })
  vertices = DEFAULT_BRIEF.vertices;

  @field({
    kind: "integer",
    label: "Padding",
    help: "Free texels round every island.",
    unit: "px",
    min: 0,
    max: 64,
  })
  padding = DEFAULT_BRIEF.padding;

  @field({
    kind: "number",
    label: "Texel density",
    empty: "as many as fit",
    help: "Wanted texels per metre; 0 takes as many as fit.",
    unit: "texels/m",
    min: 0,
    max: 100000,
  })
  density = DEFAULT_BRIEF.texelsPerMetre;

  @field({
    kind: "number",
    label: "Seen from",
    help: "Nearest distance the asset is looked at from.",
    unit: "m",
    min: 0.01,
    max: 10000,
  })
  seenFrom = 2;

  @field({
    kind: "integer",
    label: "Screen height",
    help: "Pixels the screen is high.",
    unit: "px",
    min: 100,
    max: 20000,
  })
  screen = 1080;

  @field({
    kind: "number",
    label: "Field of view",
    help: "From the bottom to the top of the screen.",
    unit: "°",
    min: 5,
    max: 150,
    folded: true,
  })
  view = 60;

  @field({
    kind: "integer",
    label: "Hulls",
    help: "Collision hulls allowed.",
    min: 1,
    max: 256,
  })
  hulls = DEFAULT_BRIEF.hulls;

  @field({
    kind: "choice",
    label: "Delivery profile",
    help: "Axes, unit and green channel of what is shipped.",
    choices: [
      ...PROFILES.map(({ name }) => ({ value: name, label: name })),
      { value: OWN_PROFILE, label: "its own, set at Ship" },
    ],
  })
  profile: string = PROFILES[0].name;
}

export const setBrief = defineOperation({
  id: "intake/brief",
  stage: "intake",
  title: "Set the brief",
  about: "Sets the limits and wishes the asset is made to.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: BriefOptions,
  run(asset, options) {
    const area = texturedArea(asset);
    const texelsPerMetre =
      options.by === "seen"
        ? Math.round(
            densitySeenFrom(options.seenFrom, options.screen, options.view),
          )
        : options.density;
    const sheetSize =
      options.by === "sheet" || !texelsPerMetre
        ? Number(options.sheet)
        : sheetFor(texelsPerMetre, area);
    const brief: Brief = {
      triangles: options.triangles,
      levels: levelsOf(options.levels, options.triangles),
      sheetSize,
      sheetHeight:
        options.aspect === "1"
          ? 0
          : Math.round(sheetSize * Number(options.aspect)),
      sheets: options.sheets,
      vertices: options.vertices,
      padding: options.padding,
      texelsPerMetre,
      hulls: options.hulls,
      profile:
        options.profile === OWN_PROFILE ? asset.brief.profile : options.profile,
    };
    return {
      asset: {
        ...asset,
        name: options.name.trim()
          ? safeName(options.name.trim(), asset.name)
          : asset.name,
        brief,
      },
      headline: "",
      report: {
        ...brief,
        texelsThatFit: texelDensityOf(sheetSize, area),
        summary: `${sheetSize} px gives about ${spaced(texelDensityOf(sheetSize, area))} texels per metre`,
      },
    };
  },
});

/** @throws OptionsError for levels that do not fall */
function levelsOf(text: string, first: number): number[] {
  const levels = text
    .split(",")
    .filter((word) => word.trim())
    .map((word) => Number(word.replace(/\s/g, "")));
  let before = first;
  for (const level of levels) {
    if (!Number.isInteger(level) || level < 4 || level >= before)
      throw new OptionsError("intake/brief", {
        levels:
          "whole numbers of triangles are needed, each smaller than the one before",
      });
    before = level;
  }
  return levels;
}
