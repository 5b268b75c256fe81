import { encode } from "fast-png";
import type { BakedMap } from "../base/pictures";

/** A baked map as PNG. */
export function writePng(
  map: Omit<BakedMap, "channels"> & { channels: 1 | 3 | 4 },
): Uint8Array {
  return encode({
    width: map.width,
    height: map.height,
    data: map.pixels,
    channels: map.channels,
    depth: map.depth,
  });
}

/** White with a mask as its alpha: colour multiplied with it has no halo at any mip level. @param mask of one channel */
export function whiteWith(mask: BakedMap) {
  const pixels = new Uint8Array(4 * mask.width * mask.height).fill(255);
  const shift = mask.depth === 16 ? 8 : 0;
  for (let i = 0; i < mask.pixels.length; i++)
    pixels[4 * i + 3] = mask.pixels[i] >> shift;
  return { ...mask, channels: 4 as const, depth: 8 as const, pixels };
}

/** The same map with its green channel turned over: 0 becomes the largest value. */
export function flipGreen(map: BakedMap): BakedMap {
  const pixels = map.pixels.slice();
  const top = map.depth === 16 ? 65535 : 255;
  for (let i = 1; i < pixels.length; i += 3) pixels[i] = top - pixels[i];
  return { ...map, pixels };
}
