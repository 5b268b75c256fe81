import type { BakedMap } from "../base/pictures";

/**
 * Adds to a value before it becomes a whole step, so that gradients finer than a step don't show bands: −0.5 … 0.5, the
 * same for the same pixel (interleaved gradient noise, Jimenez 2014).
 */
export function ditherAt(x: number, y: number, channel: number): number {
  const along = 0.06711056 * (x + 37 * channel) + 0.00583715 * y;
  const turned = 52.9829189 * (along - Math.floor(along));
  return turned - Math.floor(turned) - 0.5;
}

/** Shares of full white this near the middle are a surface at rest: dithered, a flat map would be speckled. */
const REST = 1e-4;

/**
 * A share of full white as one of `top` + 1 steps.
 * @param dither −0.5 … 0.5, 0 for the nearest step
 */
export const stepOf = (share: number, top: number, dither: number): number =>
  Math.max(
    0,
    Math.min(
      top,
      Math.floor(
        share * top + 0.5 + (Math.abs(share - 0.5) < REST ? 0 : dither),
      ),
    ),
  );

/** A map at 8 bits a channel, dithered where it had 16. */
export function inEightBits(map: BakedMap): BakedMap {
  if (map.depth === 8) return map;
  const { width, channels, pixels } = map;
  const steps = new Uint8Array(pixels.length);
  for (let i = 0; i < pixels.length; i++) {
    const at = Math.floor(i / channels);
    const y = Math.floor(at / width);
    steps[i] = stepOf(
      pixels[i] / 65535,
      255,
      ditherAt(at - y * width, y, i % channels),
    );
  }
  return { ...map, depth: 8, pixels: steps };
}
