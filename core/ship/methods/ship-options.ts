import { field } from "../../asset/operation";
import type { PictureFormat } from "../../formats/encode-picture";
import type { Pivot } from "./delivery";
import type { NamePatterns } from "./names";
import { PLAIN_NAMES } from "./names";

const millimetres = (axis: string) =>
  ({
    kind: "number",
    label: `Point ${axis}`,
    help: "Where the chosen point lies, used with the pivot “a point”.",
    unit: "mm",
    min: -1e6,
    max: 1e6,
    folded: true,
  }) as const;

const pattern = (label: string, help: string) =>
  ({ kind: "text", label, help, max: 120, folded: true }) as const;

/** How things are shipped, whatever the asset: what a delivery profile may say. */
export class ShipWays implements NamePatterns {
  @field({
    kind: "flag",
    label: "A file for each part",
    help: "Writes every part as files of its own, in place of one for all.",
  })
  split = false;

  @field({
    kind: "choice",
    label: "Pivot",
    help: "Which point lies at 0, 0, 0 of a file; levels and hulls keep to it.",
    choices: [
      { value: "origin", label: "origin" },
      { value: "bottom", label: "bottom centre" },
      { value: "centre", label: "centre" },
      { value: "point", label: "a point" },
    ],
  })
  pivot: Pivot = "origin";

  @field({
    kind: "choice",
    label: "Levels of detail",
    help: "In GLB and glTF as levels of their part (MSFT_lod), or as nodes of their own called by the pattern; OBJ has a file for each.",
    choices: [
      { value: "extension", label: "in their part" },
      { value: "name", label: "by name" },
      { value: "none", label: "left out" },
    ],
  })
  levels: "extension" | "name" | "none" = "extension";

  @field({
    kind: "choice",
    label: "Hulls",
    help: "In GLB and glTF as nodes called by the pattern, or as what physics engines read by themselves (KHR_physics_rigid_bodies, KHR_implicit_shapes); in OBJ always by name.",
    choices: [
      { value: "name", label: "by name" },
      { value: "physics", label: "as physics" },
      { value: "none", label: "left out" },
    ],
  })
  hullsAs: "name" | "physics" | "none" = "name";

  @field({
    kind: "flag",
    label: "OBJ too",
    help: "Adds an OBJ with its material library beside the GLB.",
  })
  obj = true;

  @field({
    kind: "flag",
    label: "glTF too",
    help: "Adds the GLB's contents as a glTF file with its data inside.",
    folded: true,
  })
  gltf = false;

  @field({
    kind: "flag",
    label: "PLY too",
    help: "Adds the game meshes as one PLY, with UVs and vertex colours.",
    folded: true,
  })
  ply = false;

  @field({
    kind: "flag",
    label: "STL too",
    help: "Adds the game meshes as one STL: their shape alone.",
    folded: true,
  })
  stl = false;

  @field({
    kind: "flag",
    label: "Map files",
    help: "Adds every map as a PNG of its own, at its full depth; GLB and glTF hold theirs either way.",
    folded: true,
  })
  mapFiles = true;

  @field({
    kind: "flag",
    label: "Packed map",
    help: "Occlusion, roughness and metalness in the red, green and blue of one map, in GLB and glTF and as a file.",
    folded: true,
  })
  packed = false;

  @field({
    kind: "choice",
    label: "Pictures inside",
    help: "How maps are kept inside GLB and glTF: JPEG and WebP are lighter and lose a little; KTX2 stays packed in the memory of the graphics card and holds its mips, and takes longest to write. What is see-through is never a JPEG, and what has sides that are no multiples of 4 never a KTX2.",
    choices: [
      { value: "png", label: "PNG" },
      { value: "jpeg", label: "JPEG" },
      { value: "webp", label: "WebP" },
      { value: "ktx2", label: "KTX2" },
    ],
    folded: true,
  })
  pictures: PictureFormat = "png";

  @field({
    kind: "integer",
    label: "Picture quality",
    help: "Of what loses: 100 loses least. JPEG and WebP get heavier by it, KTX2 takes longer over 95.",
    min: 1,
    max: 100,
    folded: true,
  })
  quality = 90;

  @field({
    kind: "choice",
    label: "See-through cards",
    help: "Cards fade by their mask, or are cut off where it is under the limit, which engines draw faster.",
    choices: [
      { value: "blend", label: "fade" },
      { value: "mask", label: "cut off" },
    ],
    folded: true,
  })
  cards: "blend" | "mask" = "blend";

  @field({
    kind: "number",
    label: "Cut off under",
    help: "Share of the mask under which nothing is drawn, where cards are cut off.",
    min: 0,
    max: 1,
    step: 0.05,
    folded: true,
  })
  cutOff = 0.5;

  @field({
    kind: "flag",
    label: "Tangents",
    help: "Writes tangents into GLB and glTF, as the normal map was baked with; without them engines make their own.",
    folded: true,
  })
  tangents = true;

  @field({
    kind: "flag",
    label: "Order for the cache",
    help: "Orders triangles and vertices in GLB and glTF as graphics cards read them fastest.",
    folded: true,
  })
  ordered = true;

  @field({
    kind: "flag",
    label: "Quantised",
    help: "Positions and UVs in 16 bits, normals in 8 (KHR_mesh_quantization): about half the size, exact to a 65 000th of a part.",
    folded: true,
  })
  quantised = false;

  @field({
    kind: "flag",
    label: "Compressed",
    help: "Compresses meshes in GLB and glTF without loss (EXT_meshopt_compression); what opens them must know it.",
    folded: true,
  })
  compressed = false;

  @field({
    kind: "flag",
    label: "Repeats as instances",
    help: "Parts that repeat another are written as places of it (EXT_mesh_gpu_instancing) in GLB and glTF, drawn in one call; they have no names of their own then.",
    folded: true,
  })
  instances = false;

  @field({
    kind: "flag",
    label: "Report page",
    help: "Adds report.html: pictures, maps and the check list on one page to hand over.",
  })
  page = true;

  @field(pattern("Files are called", "Places: {asset}."))
  nameFile = PLAIN_NAMES.nameFile;

  @field(
    pattern(
      "Files of a part",
      "Where each part has its own. Places: {asset}, {part}.",
    ),
  )
  namePartFile = PLAIN_NAMES.namePartFile;

  @field(pattern("Meshes", "Places: {asset}, {part}."))
  nameMesh = PLAIN_NAMES.nameMesh;

  @field(
    pattern("Levels", "Places: {asset}, {part}, {level}; {level:2} is 01."),
  )
  nameLevel = PLAIN_NAMES.nameLevel;

  @field(
    pattern("Hulls", "Places: {asset}, {part}, {number}; {number:2} is 01."),
  )
  nameHull = PLAIN_NAMES.nameHull;

  @field(pattern("Maps", "Places: {asset}, {map}."))
  nameMap = PLAIN_NAMES.nameMap;

  @field(
    pattern(
      "Maps of several sheets",
      "Places: {asset}, {map}, {tile}, which is 1001 and so on.",
    ),
  )
  nameTile = PLAIN_NAMES.nameTile;
}

export class ShipOptions extends ShipWays {
  @field({ kind: "parts", label: "Parts", help: "Which parts; empty for all." })
  parts: string[] = [];

  @field(millimetres("x"))
  pointX = 0;

  @field(millimetres("y"))
  pointY = 0;

  @field(millimetres("z"))
  pointZ = 0;

  @field({
    kind: "flag",
    label: "Ship in spite of failed checks",
    help: "Writes the files although a check stops the delivery; the report says so.",
    folded: true,
  })
  insist = false;
}

/** Options as they were recorded before hulls could go out in more than one way. */
export function formerShipOptions({
  hulls,
  ...raw
}: Readonly<Record<string, unknown>>): Record<string, unknown> {
  return typeof hulls === "boolean"
    ? { hullsAs: hulls ? "name" : "none", ...raw }
    : { ...raw };
}
