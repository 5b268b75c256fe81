import type { BakedMap } from "../../base/pictures";
import { coverageMips } from "../../space/coverage-mips";

/**
 * Grows what a mask shows, or shrinks it, within the islands: rings by sides and by sides and corners in turn, so that
 * what is round stays nearly so.
 * @param mask width × height, 0 … 1, changed in place; @param covered width × height: not 0 where an island lies
 * @param by texels, below 0 to shrink
 */
export function growMask(
  mask: Float32Array,
  covered: Uint8Array,
  width: number,
  height: number,
  by: number,
): void {
  const wins = by > 0 ? Math.max : Math.min;
  let now = mask.slice();
  let next = mask.slice();
  for (let ring = 0; ring < Math.abs(by); ring++) {
    const corners = ring % 2 === 1;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        if (!covered[i]) continue;
        let value = now[i];
        for (let dy = -1; dy <= 1; dy++)
          for (let dx = -1; dx <= 1; dx++) {
            if ((dx !== 0 && dy !== 0 && !corners) || x + dx < 0) continue;
            if (x + dx >= width || y + dy < 0 || y + dy >= height) continue;
            const j = i + dy * width + dx;
            if (covered[j]) value = wins(value, now[j]);
          }
        next[i] = value;
      }
    [now, next] = [next, now];
  }
  mask.set(now);
}

/** How many halvings of a mask its coverage is told of. */
export const MIPS_TOLD = 6;

/** Shares of a mask at or above the cut-off, from full size down. */
export interface MaskCoverage extends Record<string, unknown> {
  /** As plain means of texels have it, and as scaled so that it is kept. */
  plain: number[];
  kept: number[];
}

/**
 * How much of a mask is still seen from afar.
 * @param cutOff share of white from which on it is, above 0
 */
export function maskCoverage(map: BakedMap, cutOff: number): MaskCoverage {
  const { width, height, depth } = map;
  const shift = depth === 16 ? 8 : 0;
  const values = Uint8Array.from(map.pixels, (value) => value >> shift);
  const from = Math.max(1, Math.round(255 * cutOff));
  const share = (of: ArrayLike<number>) => {
    let count = 0;
    for (let i = 0; i < of.length; i++) if (of[i] >= from) count++;
    return count / of.length;
  };
  const plain = [share(values)];
  const kept: number[] = [];
  for (const [i, level] of coverageMips(values, width, height, from)
    .slice(0, MIPS_TOLD)
    .entries()) {
    kept.push(share(level.values));
    if (i > 0) plain.push(share(meansOf(values, width, height, 2 ** i)));
  }
  return { plain, kept };
}

/** Means over squares of a size, as an engine halves a picture that many times. */
function meansOf(
  values: Uint8Array,
  width: number,
  height: number,
  size: number,
): Float32Array {
  const [w, h] = [
    Math.max(1, (width / size) | 0),
    Math.max(1, (height / size) | 0),
  ];
  const means = new Float32Array(w * h);
  for (let y = 0; y < h * size; y++)
    for (let x = 0; x < w * size; x++)
      means[((y / size) | 0) * w + ((x / size) | 0)] += values[y * width + x];
  return means.map((sum) => sum / (size * size));
}
