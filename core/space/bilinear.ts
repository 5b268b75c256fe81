/** The four texels that a map is read from at a place, and how much each counts. */
export class Bilinear {
  /** Their numbers, row after row from the top; at the map's own border some are the same. */
  readonly texels = new Uint32Array(4);
  /** Their shares, 1 together. */
  readonly shares = new Float64Array(4);

  /** @param width, height of the map, px; @param u, v the place, from 0 to 1, v from the bottom */
  find(width: number, height: number, u: number, v: number): void {
    const x = u * width - 0.5;
    const y = (1 - v) * height - 0.5;
    const x0 = Math.floor(x);
    const y0 = Math.floor(y);
    for (let k = 0; k < 4; k++) {
      const dx = k & 1;
      const dy = k >> 1;
      const px = Math.max(0, Math.min(width - 1, x0 + dx));
      const py = Math.max(0, Math.min(height - 1, y0 + dy));
      this.texels[k] = py * width + px;
      this.shares[k] = (dx ? x - x0 : 1 - x + x0) * (dy ? y - y0 : 1 - y + y0);
    }
  }
}
