import type { Asset } from "../asset/asset";
import { field } from "../operation";

/** One texture space: its pixels, and how islands are to lie on it. */
export interface Sheet {
  /** px */
  width: number;
  height: number;
  /** Free pixels between islands. */
  padding: number;
  /** Free pixels along the border. */
  margin: number;
  /** Wanted pixels per metre, or 0 for as many as fit. */
  texelsPerMetre: number;
}

/** Options of every operation that packs; what is left open comes from the brief. */
export class SheetOptions {
  @field({
    kind: "integer",
    label: "Sheet",
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
    help: "Texels per metre; −1 takes the brief's, 0 as many as fit.",
    unit: "texels/m",
    min: -1,
    max: 100000,
    folded: true,
  })
  density = -1;
}

/** The sheet that an asset's brief and some options ask for. A lower sheet keeps its aspect when its width changes. */
export function sheetOf(
  { brief }: Pick<Asset, "brief">,
  options: Partial<SheetOptions> = {},
): Sheet {
  const {
    size = 0,
    padding = -1,
    mip = 0,
    margin = -1,
    density = -1,
  } = options;
  const width = size || brief.sheetSize;
  const free = Math.max(
    padding < 0 ? brief.padding : padding,
    mip > 0 ? 2 ** (mip + 1) : 0,
  );
  return {
    width,
    height: Math.max(
      1,
      Math.round(
        (width * (brief.sheetHeight || brief.sheetSize)) / brief.sheetSize,
      ),
    ),
    padding: free,
    margin: margin < 0 ? free / 2 : margin,
    texelsPerMetre: density < 0 ? brief.texelsPerMetre : density,
  };
}

/** Columns of tiles in a UDIM row. */
export const TILES_A_ROW = 10;

/** The number that a tile has by the UDIM convention. @param tile 0 for the first one */
export const udimOf = (tile: number) => 1001 + tile;

/** Where a tile lies in UV space: whole sheets to the right and up. */
export const tileAt = (tile: number): [number, number] => [
  tile % TILES_A_ROW,
  Math.floor(tile / TILES_A_ROW),
];

/** The tile that a place in UV space lies on, or −1 where there is none: left of, below or right of all of them. */
export function tileOf(u: number, v: number): number {
  const [x, y] = [Math.floor(u), Math.floor(v)];
  return x < 0 || y < 0 || x >= TILES_A_ROW ? -1 : x + TILES_A_ROW * y;
}
