import { field } from "../../asset/operation";
import type { BakedKind } from "../../base/pictures";
import { MAP_KINDS, MAP_TITLES } from "../../base/pictures";
import { MOST_ROUND } from "../../mesh/rounds";

/** Maps besides the two that every asset has. */
const FURTHER = MAP_KINDS.filter(
  (kind) => kind !== "normal" && kind !== "ao" && kind !== "status",
);

/** What a bake can be told, in millimetres, degrees and texels. */
export class BakeOptions {
  @field({
    kind: "flag",
    label: "Normal map",
    help: "Tangent space, MikkTSpace.",
  })
  normal = true;

  @field({
    kind: "flag",
    label: "Ambient occlusion",
    help: "How much of the sky every texel sees.",
  })
  ao = true;

  @field({
    kind: "choices",
    label: "Further maps",
    help: "What else is baked.",
    empty: "none",
    choices: FURTHER.map((kind) => ({ value: kind, label: MAP_TITLES[kind] })),
  })
  also: BakedKind[] = [];

  @field({
    kind: "choice",
    label: "Size this time",
    help: "Smaller maps are soon there to be looked at, and are baked in full before they are shipped.",
    choices: [
      { value: "1", label: "in full" },
      { value: "2", label: "a half" },
      { value: "4", label: "a quarter" },
      { value: "8", label: "an eighth" },
    ],
  })
  fraction: "1" | "2" | "4" | "8" = "1";

  @field({
    kind: "integer",
    label: "Rays",
    help: "Rays a texel for occlusion, bent normals, curvature, thickness and visibility; more are smoother and slower.",
    min: 4,
    max: 1024,
  })
  rays = 64;

  @field({
    kind: "integer",
    label: "Samples",
    help: "Normal samples along each side of a texel.",
    min: 1,
    max: 4,
    folded: true,
  })
  samples = 2;

  @field({
    kind: "number",
    label: "Ray distance",
    empty: "found for each part",
    help: "How far rays start outside the game mesh; 0 finds it for each part.",
    unit: "mm",
    min: 0,
    max: 10000,
    folded: true,
  })
  distance = 0;

  @field({
    kind: "text",
    label: "Distances of parts",
    help: "Ray distances of single parts in mm, such as lid = 4.2; body = 1.5.",
    max: 4000,
    folded: true,
  })
  distances = "";

  @field({
    kind: "parts",
    label: "Parts",
    help: "Bakes these parts only, into the maps that stand; the other islands keep what they have. None for all that has changed.",
  })
  parts: string[] = [];

  @field({
    kind: "choices",
    label: "Left out",
    help: "Parts that are not baked: their islands keep what they have. They shade the others as before.",
    empty: "none",
    choices: [
      { value: "locked", label: "locked parts" },
      { value: "hidden", label: "hidden parts" },
    ],
    folded: true,
  })
  leaveOut: ("locked" | "hidden")[] = [];

  @field({
    kind: "parts",
    label: "Hidden",
    help: "Parts that are hidden, which are left out where that is asked for.",
    from: "hidden parts",
  })
  hidden: string[] = [];

  @field({
    kind: "text",
    label: "Sheets",
    help: "Bakes these sheets only, by UDIM numbers such as 1001, 1003; those of the others that still hold stay. None for all.",
    max: 400,
    folded: true,
  })
  sheets = "";

  @field({
    kind: "choice",
    label: "Depth",
    help: "Bits of each channel in the PNG; normals, position, gradient and height are dithered at 8.",
    choices: [
      { value: "map", label: "16 bit where steps would show" },
      { value: "8", label: "8 bit" },
      { value: "16", label: "16 bit" },
    ],
    folded: true,
  })
  depth: "map" | "8" | "16" = "map";

  @field({
    kind: "number",
    label: "Rounded edges",
    empty: "sharp",
    help: "Radius of the bevel that normals show on hard edges, with a source or without one; edges may have their own from Edges.",
    unit: "mm",
    min: 0,
    max: 1000 * MOST_ROUND,
  })
  round = 0;

  @field({
    kind: "number",
    label: "Occlusion reach",
    empty: "two fifths of the asset",
    help: "How far away something still darkens; 0 follows from the asset's size.",
    unit: "mm",
    min: 0,
    max: 1e6,
    folded: true,
  })
  reach = 0;

  @field({
    kind: "number",
    label: "Occlusion cone",
    help: "Angle of the cone in which occlusion and bent normals look; 180 is the whole sky.",
    unit: "°",
    min: 5,
    max: 180,
    folded: true,
  })
  cone = 180;

  @field({
    kind: "flag",
    label: "Floor",
    help: "A floor under everything hides the sky from below.",
    folded: true,
  })
  floor = false;

  @field({
    kind: "number",
    label: "Curvature radius",
    empty: "a hundredth of the asset",
    help: "At which radius the source is told convex or hollow; 0 follows from the asset's size.",
    unit: "mm",
    min: 0,
    max: 1e5,
    folded: true,
  })
  radius = 0;

  @field({
    kind: "number",
    label: "Thickness depth",
    empty: "a twentieth of the asset",
    help: "What is thicker is white; 0 follows from the asset's size.",
    unit: "mm",
    min: 0,
    max: 1e6,
    folded: true,
  })
  thick = 0;

  @field({
    kind: "number",
    label: "Height range",
    empty: "as found",
    help: "What stands so far out is white, as far in black; 0 takes the largest that is found.",
    unit: "mm",
    min: 0,
    max: 1e6,
    folded: true,
  })
  range = 0;

  @field({
    kind: "choice",
    label: "Green",
    help: "Which way green points in normal maps.",
    choices: [
      { value: "profile", label: "by the profile" },
      { value: "up", label: "up" },
      { value: "down", label: "down" },
    ],
    folded: true,
  })
  green: "profile" | "up" | "down" = "profile";

  @field({
    kind: "integer",
    label: "Run islands on",
    empty: "by the padding; with cards all of it",
    help: "Texels that islands run on into the ground; 0 takes the padding, or with cards all of it; 8192 fills it.",
    unit: "px",
    min: 0,
    max: 8192,
    folded: true,
  })
  dilate = 0;

  @field({
    kind: "flag",
    label: "Spread",
    help: "Bakes as if parts stood so far apart that no ray of one reaches another. What is only baked goes with the part that it lies nearest to.",
    folded: true,
  })
  spread = false;

  @field({
    kind: "text",
    label: "Pairs",
    help: "Parts that shade each other though spread, or don't though not, such as hood + burner; cap + glass.",
    max: 4000,
    folded: true,
  })
  pairs = "";

  @field({
    kind: "text",
    label: "Also catch",
    help: "Further parts whose sources a part shows, such as lid: rivets, trim; body: trim.",
    max: 4000,
    folded: true,
  })
  catches = "";

  @field({
    kind: "parts",
    label: "Piece by piece",
    help: "Parts of several pieces, each of which only catches what of the source lies nearest to it, as for a lid and a pot in one part.",
    folded: true,
    from: null,
  })
  pieces: string[] = [];

  @field({
    kind: "parts",
    label: "Cards",
    help: "Parts whose rays may go through them, as through the holes of a net: what they miss is see-through in the opacity map and no fault. None for those that a card stands for.",
    folded: true,
    from: null,
  })
  cards: string[] = [];

  @field({
    kind: "integer",
    label: "Masks grown",
    help: "Texels by which the opacity of cards grows; below 0 it shrinks.",
    unit: "px",
    min: -64,
    max: 64,
    folded: true,
  })
  grow = 0;

  @field({
    kind: "flag",
    label: "Masks inverted",
    help: "What rays meet on cards is see-through, and not what they miss.",
    folded: true,
  })
  invert = false;

  @field({
    kind: "number",
    label: "Cut-off",
    help: "From which opacity on a card is seen where nothing is blended: how much of it is left from afar is told.",
    unit: "%",
    min: 1,
    max: 100,
    folded: true,
  })
  cutOff = 50;

  @field({
    kind: "integer",
    label: "Sheet",
    brief: "sheetSize",
    help: "Edge of the maps; 0 takes the brief's.",
    unit: "px",
    min: 0,
    max: 8192,
    folded: true,
  })
  size = 0;
}
