import { field } from "../../asset/operation";
import { PartsOptions } from "../../asset/parts-options";
import type { Pivot } from "./delivery";

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

export class ShipOptions extends PartsOptions {
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

  @field(millimetres("x"))
  pointX = 0;

  @field(millimetres("y"))
  pointY = 0;

  @field(millimetres("z"))
  pointZ = 0;

  @field({
    kind: "choice",
    label: "Levels of detail",
    help: "In GLB and glTF as levels of their part (MSFT_lod), or as nodes of their own called NAME_lod1; OBJ has a file for each.",
    choices: [
      { value: "extension", label: "in their part" },
      { value: "name", label: "by name" },
      { value: "none", label: "left out" },
    ],
  })
  levels: "extension" | "name" | "none" = "extension";

  @field({
    kind: "flag",
    label: "Hulls",
    help: "Puts the collision hulls in as named nodes.",
  })
  hulls = true;

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
    label: "Order for the cache",
    help: "Orders triangles and vertices in GLB and glTF as graphics cards read them fastest.",
    folded: true,
  })
  ordered = true;

  @field({
    kind: "flag",
    label: "Report page",
    help: "Adds report.html: pictures, maps and the check list on one page to hand over.",
  })
  page = true;

  @field({
    kind: "flag",
    label: "Ship in spite of failed checks",
    help: "Writes the files although a check stops the delivery; the report says so.",
  })
  insist = false;
}
