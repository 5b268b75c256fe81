import { field } from "../../asset/operation";
import type { SheetWishes } from "./sheet";

/** Options of every operation that packs; what is left open comes from the brief. */
export class SheetOptions implements SheetWishes {
  @field({
    kind: "integer",
    label: "Sheet",
    brief: "sheetSize",
    help: "Width of the sheet; 0 takes the brief's.",
    unit: "px",
    min: 0,
    max: 8192,
    folded: true,
  })
  size = 0;

  @field({
    kind: "integer",
    label: "Padding",
    brief: "padding",
    help: "Free texels round every island; −1 takes the brief's.",
    unit: "px",
    min: -1,
    max: 256,
    folded: true,
  })
  padding = -1;

  @field({
    kind: "integer",
    label: "Smallest mip",
    help: "The last mip level that matters: islands stay a texel apart there too. 0 is the sheet itself.",
    min: 0,
    max: 7,
    folded: true,
  })
  mip = 0;

  @field({
    kind: "integer",
    label: "Margin",
    empty: "half the padding",
    help: "Free texels along the border of the sheet; −1 for half the padding.",
    unit: "px",
    min: -1,
    max: 256,
    folded: true,
  })
  margin = -1;

  @field({
    kind: "number",
    label: "Texel density",
    empty: "the brief's",
    help: "Texels per metre; −1 takes the brief's, 0 as many as fit.",
    unit: "texels/m",
    min: -1,
    max: 100000,
    folded: true,
  })
  density = -1;
}
