import { strokesOf } from "../../core/unwrap/methods/template/glyphs";

/** Fields along the width of the checker, and px of one. */
export const FIELDS = 16;
const FIELD = 64;

/** Pennants at the lower left, lower right, upper left and upper right of the sheet, mixed in between. */
const PENNANTS = [
  [31, 111, 120],
  [52, 72, 154],
  [79, 127, 58],
  [181, 127, 30],
];
/**
 * A checker to judge UVs by. In each field a pennant stands upright on its pole and flies to the right: where it
 * lies, an island is turned; where it flies to the left, it is mirrored; where it is longer than high, it is
 * stretched. Fields are counted row by row from the lower left, and the colour of the pennants tells where on the
 * sheet one is.
 * @param width px of the sheet; a field is a sixteenth of it
 * @param height px of the sheet
 * @returns RGBA, rows from the lower edge up
 */
export function checkerPixels(
  width: number,
  height: number,
): { data: Uint8Array; width: number; height: number } {
  const rows = Math.max(1, Math.round((FIELDS * height) / width));
  const [wide, high] = [FIELDS * FIELD, rows * FIELD];
  const data = new Uint8Array(4 * wide * high);
  const pixels = new Uint32Array(data.buffer);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < FIELDS; column++) {
      const dark = (row + column) % 2 === 1;
      const [x, y] = [column * FIELD, row * FIELD];
      const ground = word(dark ? [196, 195, 189] : [238, 236, 229]);
      const ink = word(dark ? [58, 64, 70] : [84, 92, 98]);
      const colour = word(
        pennantAt(column / (FIELDS - 1), rows > 1 ? row / (rows - 1) : 0),
      );
      for (let j = 0; j < FIELD; j++) {
        const from = (y + j) * wide + x;
        pixels.fill(ground, from, from + FIELD);
        // The pole, and the pennant that narrows from it to its tip at the right.
        if (j >= 8 && j < 58) pixels.fill(ink, from + 9, from + 13);
        const reach = 40 * (1 - Math.abs(j - 44) / 14);
        if (reach > 0)
          pixels.fill(colour, from + 13, from + 13 + Math.round(reach));
      }
      const number = String(row * FIELDS + column + 1);
      for (const [x0, y0, x1, y1] of strokesOf(number, x + 19, y + 9, 15)) {
        const steps = Math.ceil(2 * Math.hypot(x1 - x0, y1 - y0)) + 1;
        for (let i = 0; i <= steps; i++) {
          const px = Math.round(x0 + ((x1 - x0) * i) / steps);
          const py = Math.round(y0 + ((y1 - y0) * i) / steps);
          for (let k = 0; k < 4; k++)
            pixels[(py + (k >> 1)) * wide + px + (k & 1)] = ink;
        }
      }
    }
  return { data, width: wide, height: high };
}

const word = ([r, g, b]: readonly number[]) =>
  ((255 << 24) | (b << 16) | (g << 8) | r) >>> 0;

const pennantAt = (u: number, v: number) =>
  [0, 1, 2].map((k) => {
    const mix = (a: number, b: number, share: number) => a + (b - a) * share;
    const [ll, lr, ul, ur] = PENNANTS.map((colour) => colour[k]);
    return Math.round(mix(mix(ll, lr, u), mix(ul, ur, u), v));
  });
