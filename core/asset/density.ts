import { areaOf } from "../mesh/area";
import type { Asset } from "./asset";

/** Share of a sheet that islands usually fill. */
const FILL = 0.6;
export const SHEET_SIZES = [256, 512, 1024, 2048, 4096] as const;

/** Area of the game meshes, or of the sources where there are none yet, m². Repeats share their texels. */
export function texturedArea(asset: Asset): number {
  const which = asset.parts.some((part) => part.game) ? "game" : "source";
  let area = 0;
  for (const part of asset.parts) {
    const mesh = part[which];
    if (!mesh || part.repeat) continue;
    area += areaOf(mesh);
  }
  return area;
}

/** Texels per metre that a sheet gives an area, about. */
export const texelDensityOf = (sheetSize: number, area: number) =>
  area > 0 ? sheetSize * Math.sqrt(FILL / area) : 0;

/** The smallest sheet that gives an area as many texels per metre, about; the largest one where none does. */
export const sheetFor = (texelsPerMetre: number, area: number): number =>
  SHEET_SIZES.find((size) => texelDensityOf(size, area) >= texelsPerMetre) ??
  SHEET_SIZES[SHEET_SIZES.length - 1];

/**
 * Texels per metre that give one texel a pixel.
 * @param metres nearest distance the asset is seen from
 * @param pixels height of the screen
 * @param degrees vertical field of view
 */
export const densitySeenFrom = (
  metres: number,
  pixels: number,
  degrees: number,
) => pixels / (2 * metres * Math.tan((degrees * Math.PI) / 360));
