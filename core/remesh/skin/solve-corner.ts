/** How strongly the vertex is drawn to the middle of its crossings along directions the planes leave free. */
const PULL = 0.02;

/**
 * The place in a cell that lies nearest to all planes of its crossings: the middle of the crossings plus a least
 * squares step, held in the cell.
 * @param low lowest corner of the cell
 */
export function solveCorner(
  crossings: readonly {
    x: number;
    y: number;
    z: number;
    nx: number;
    ny: number;
    nz: number;
  }[],
  low: readonly number[],
  cell: number,
): [number, number, number] {
  let mx = 0;
  let my = 0;
  let mz = 0;
  for (const c of crossings) {
    mx += c.x / crossings.length;
    my += c.y / crossings.length;
    mz += c.z / crossings.length;
  }
  let xx = PULL;
  let yy = PULL;
  let zz = PULL;
  let xy = 0;
  let xz = 0;
  let yz = 0;
  let gx = 0;
  let gy = 0;
  let gz = 0;
  for (const { x, y, z, nx, ny, nz } of crossings) {
    const d = nx * (x - mx) + ny * (y - my) + nz * (z - mz);
    gx += d * nx;
    gy += d * ny;
    gz += d * nz;
    xx += nx * nx;
    yy += ny * ny;
    zz += nz * nz;
    xy += nx * ny;
    xz += nx * nz;
    yz += ny * nz;
  }
  const c00 = yy * zz - yz * yz;
  const c01 = xz * yz - xy * zz;
  const c02 = xy * yz - xz * yy;
  const inverse = 1 / (xx * c00 + xy * c01 + xz * c02);
  const place = [
    mx + (c00 * gx + c01 * gy + c02 * gz) * inverse,
    my +
      (c01 * gx + (xx * zz - xz * xz) * gy + (xy * xz - xx * yz) * gz) *
        inverse,
    mz +
      (c02 * gx + (xy * xz - xx * yz) * gy + (xx * yy - xy * xy) * gz) *
        inverse,
  ];
  const hold = (x: number, k: number) =>
    Math.min(low[k] + cell, Math.max(low[k], x));
  return [hold(place[0], 0), hold(place[1], 1), hold(place[2], 2)];
}
