import type { AssetDocument } from "../../../core/asset/document";
import { sheetOf } from "../../../core/unwrap/methods/sheet";
import { numbersOf } from "../../shared/bench";

interface Tile {
  tile: number;
  fill: number;
}

/** Tiles that islands lie on, by UDIM number; the first one where nothing is laid out. */
export function udims(document: AssetDocument): Tile[] {
  const tiles = document.results.unwrap?.report.perTile as Tile[] | undefined;
  return tiles?.length ? tiles : [{ tile: 1001, fill: 0 }];
}

/** What the view needs to know of the sheets. */
export function sheetState(document: AssetDocument) {
  const { width, height, padding } = sheetOf(document);
  return {
    sheetWidth: width,
    sheetHeight: height,
    padding,
    tiles: udims(document).map(({ tile }) => tile - 1001),
    texels: document.brief.texelsPerMetre,
  };
}

/** Sheets that the brief's texel density takes, about: at three quarters of each filled. */
export function tilesNeeded(document: AssetDocument): number {
  const { brief, results } = document;
  const n = numbersOf(results.unwrap?.report ?? {});
  if (!brief.texelsPerMetre || !n("density")) return 0;
  const { width, height } = sheetOf(document);
  const texels = n("fill") * udims(document).length * width * height;
  const wanted = texels * (brief.texelsPerMetre / n("density")) ** 2;
  return Math.max(1, Math.ceil(wanted / (0.75 * width * height)));
}
