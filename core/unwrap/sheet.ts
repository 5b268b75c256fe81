import type { Asset } from "../asset/asset";

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

/** What an operation may ask of the sheet; 0, and below 0 where 0 means something, take the brief's. */
export interface SheetWishes {
  size: number;
  padding: number;
  /** Last mip level at which islands stay a texel apart. */
  mip: number;
  margin: number;
  density: number;
}

/** The sheet that an asset's brief and some options ask for. A lower sheet keeps its aspect when its width changes. */
export function sheetOf(
  { brief }: Pick<Asset, "brief">,
  options: Partial<SheetWishes> = {},
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
