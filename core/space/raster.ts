/**
 * Calls `span` for every row of pixel centres that a triangle covers, with the first column and the one after
 * the last. Triangles that share an edge neither leave out nor share a centre: the crossing of an edge with a
 * row is always reckoned from its lower to its upper end.
 * Coordinates in pixels; a centre is at + 0.5. Rows and columns outside width × height are left out.
 */
export function rasterizeTriangle(
  ax: number,
  ay: number,
  bx: number,
  by: number,
  cx: number,
  cy: number,
  width: number,
  height: number,
  span: (row: number, from: number, to: number) => void,
): void {
  const low = Math.min(ay, by, cy);
  const high = Math.max(ay, by, cy);
  const first = Math.max(0, Math.ceil(low - 0.5));
  const last = Math.min(height - 1, Math.ceil(high - 0.5) - 1);
  for (let row = first; row <= last; row++) {
    const y = row + 0.5;
    let x0 = Infinity;
    let x1 = -Infinity;
    for (let k = 0; k < 3; k++) {
      const px = k === 0 ? ax : k === 1 ? bx : cx;
      const py = k === 0 ? ay : k === 1 ? by : cy;
      const qx = k === 0 ? bx : k === 1 ? cx : ax;
      const qy = k === 0 ? by : k === 1 ? cy : ay;
      if (py <= y === qy <= y) continue;
      const up = py < qy;
      const lx = up ? px : qx;
      const ly = up ? py : qy;
      const hx = up ? qx : px;
      const hy = up ? qy : py;
      const x = lx + ((y - ly) / (hy - ly)) * (hx - lx);
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
    }
    const from = Math.max(0, Math.ceil(x0 - 0.5));
    const to = Math.min(width, Math.ceil(x1 - 0.5));
    if (to > from) span(row, from, to);
  }
}
