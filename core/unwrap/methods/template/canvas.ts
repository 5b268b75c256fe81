/** A transparent picture that lines and triangles are drawn into. */
export class TemplateCanvas {
  /** 4 × width × height, rows from the top. */
  readonly pixels: Uint8Array;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.pixels = new Uint8Array(4 * width * height);
  }

  /** A line with soft edges. Coordinates in px from the lower left. */
  line(
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    thick: number,
    colour: Rgb,
  ): void {
    const r = thick / 2;
    const low = Math.max(0, Math.floor(Math.min(y0, y1) - r - 1));
    const high = Math.min(this.height - 1, Math.ceil(Math.max(y0, y1) + r + 1));
    const dx = x1 - x0;
    const dy = y1 - y0;
    const size = dx * dx + dy * dy;
    for (let row = low; row <= high; row++) {
      const cy = row + 0.5;
      // Only the stretch of the row that comes near the line is looked at.
      const t0 = dy ? Math.max(0, Math.min(1, (cy - r - 1 - y0) / dy)) : 0;
      const t1 = dy ? Math.max(0, Math.min(1, (cy + r + 1 - y0) / dy)) : 1;
      const from = Math.max(
        0,
        Math.floor(x0 + Math.min(t0 * dx, t1 * dx) - r - 1),
      );
      const to = Math.min(
        this.width - 1,
        Math.ceil(x0 + Math.max(t0 * dx, t1 * dx) + r + 1),
      );
      for (let x = from; x <= to; x++) {
        const cx = x + 0.5;
        const t =
          size > 0
            ? Math.max(0, Math.min(1, ((cx - x0) * dx + (cy - y0) * dy) / size))
            : 0;
        const off = Math.hypot(x0 + t * dx - cx, y0 + t * dy - cy);
        const cover = Math.max(0, Math.min(1, r + 0.5 - off));
        if (cover > 0) this.blend(x, row, colour, cover);
      }
    }
  }

  /** Puts a colour over a pixel. @param row from the bottom */
  blend(x: number, row: number, [red, green, blue]: Rgb, cover: number): void {
    const i = 4 * ((this.height - 1 - row) * this.width + x);
    const { pixels } = this;
    const below = pixels[i + 3] / 255;
    const alpha = cover + below * (1 - cover);
    if (!(alpha > 0)) return;
    const mix = (over: number, under: number) =>
      Math.round((over * cover + under * below * (1 - cover)) / alpha);
    pixels[i] = mix(red, pixels[i]);
    pixels[i + 1] = mix(green, pixels[i + 1]);
    pixels[i + 2] = mix(blue, pixels[i + 2]);
    pixels[i + 3] = Math.round(255 * alpha);
  }
}

export type Rgb = readonly [number, number, number];

/** Red, green and blue of `#rrggbb`, 0 … 255. */
export const rgbOf = (hex: string): Rgb =>
  [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)) as unknown as Rgb;
