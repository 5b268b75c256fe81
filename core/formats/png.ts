import { encode } from "fast-png";
import type { BakedMap } from "../base/pictures";

/** A baked map as PNG. */
export function writePng(map: BakedMap): Uint8Array {
  return encode({
    width: map.width,
    height: map.height,
    data: map.pixels,
    channels: map.channels,
    depth: map.depth,
  });
}

/** The same map with its green channel turned over: 0 becomes the largest value. */
export function flipGreen(map: BakedMap): BakedMap {
  const pixels = map.pixels.slice();
  const top = map.depth === 16 ? 65535 : 255;
  for (let i = 1; i < pixels.length; i += 3) pixels[i] = top - pixels[i];
  return { ...map, pixels };
}
