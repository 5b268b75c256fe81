import type { Asset } from "../../asset/asset";

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
