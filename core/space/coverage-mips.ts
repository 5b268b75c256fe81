/** One level of a pyramid of pictures. */
export interface MipLevel {
  /** width × height, 0 … 255, row by row. */
  values: Uint8Array;
  width: number;
  height: number;
}

/**
 * A mask and its halves, quarters and so on down to one pixel, each scaled so that as large a share of it as of the
 * mask lies at or above the cut-off: what is thin neither vanishes nor swells with distance (Castaño 2010).
 * @param mask width × height, 0 … 255
 * @param cutOff 1 … 255
 */
export function coverageMips(
  mask: Uint8Array,
  width: number,
  height: number,
  cutOff: number,
): MipLevel[] {
  const share = shareAbove(mask, cutOff);
  const levels: MipLevel[] = [{ values: mask, width, height }];
  let last = levels[0];
  while (last.width > 1 || last.height > 1) {
    last = halved(last);
    levels.push({ ...last, values: scaled(last.values, share, cutOff) });
  }
  return levels;
}

function shareAbove(values: Uint8Array, cutOff: number): number {
  let count = 0;
  for (const value of values) if (value >= cutOff) count++;
  return count / values.length;
}

/** Means of two by two, the last row and column once more where there is an odd one. */
function halved({ values, width, height }: MipLevel): MipLevel {
  const w = Math.max(1, width >> 1);
  const h = Math.max(1, height >> 1);
  const half = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const x1 = Math.min(width - 1, 2 * x + 1);
      const y1 = Math.min(height - 1, 2 * y + 1);
      half[y * w + x] = Math.round(
        (values[2 * y * width + 2 * x] +
          values[2 * y * width + x1] +
          values[y1 * width + 2 * x] +
          values[y1 * width + x1]) /
          4,
      );
    }
  return { values: half, width: w, height: h };
}

/** The values times what brings the wanted share of them to the cut-off. */
function scaled(values: Uint8Array, share: number, cutOff: number): Uint8Array {
  const wanted = Math.round(share * values.length);
  if (wanted <= 0 || wanted >= values.length) return values;
  const counts = new Uint32Array(256);
  for (const value of values) counts[value]++;
  let above = 0;
  let least = 255;
  for (; least > 0 && above + counts[least] < wanted; least--)
    above += counts[least];
  // Of two thresholds the one that comes nearer.
  if (above > 0 && wanted - above < above + counts[least] - wanted) least++;
  const times = cutOff / Math.max(1, Math.min(255, least));
  return values.map((value) => Math.min(255, Math.round(value * times)));
}
