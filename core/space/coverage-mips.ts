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
  const share = mask.filter((value) => value >= cutOff).length / mask.length;
  const levels: MipLevel[] = [{ values: mask, width, height }];
  let last: Means = { values: Float32Array.from(mask), width, height };
  while (last.width > 1 || last.height > 1) {
    last = halved(last);
    levels.push({ ...last, values: scaled(last.values, share, cutOff) });
  }
  return levels;
}

/** A level before it is scaled, not rounded: pixels of a thin mask are soon nearly alike. */
interface Means {
  values: Float32Array;
  width: number;
  height: number;
}

/** Means of two by two, the last row and column once more where there is an odd one. */
function halved({ values, width, height }: Means): Means {
  const w = Math.max(1, width >> 1);
  const h = Math.max(1, height >> 1);
  const half = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const x1 = Math.min(width - 1, 2 * x + 1);
      const y1 = Math.min(height - 1, 2 * y + 1);
      half[y * w + x] =
        (values[2 * y * width + 2 * x] +
          values[2 * y * width + x1] +
          values[y1 * width + 2 * x] +
          values[y1 * width + x1]) /
        4;
    }
  return { values: half, width: w, height: h };
}

/** The values times what brings the wanted share of them to the cut-off. */
function scaled(
  values: Float32Array,
  share: number,
  cutOff: number,
): Uint8Array {
  const wanted = Math.round(share * values.length);
  if (wanted <= 0 || wanted >= values.length)
    return Uint8Array.from(values, (value) => Math.round(value));
  const sorted = values.slice().sort();
  const at = sorted[values.length - wanted];
  const from = sorted.indexOf(at);
  const after = sorted.lastIndexOf(at) + 1;
  // Of pixels that are alike all are above the cut-off or none: whichever comes nearer.
  const fewer = sorted.length - after;
  const least =
    fewer > 0 && wanted - fewer < sorted.length - from - wanted
      ? sorted[after]
      : at;
  const times = cutOff / Math.max(1e-3, least);
  // Rounded down, so that what lies just under the cut-off stays there.
  return Uint8Array.from(values, (value) =>
    Math.min(255, Math.floor(value * times + 1e-4)),
  );
}
