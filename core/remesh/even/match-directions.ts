export const MATCH = { ax: 0, ay: 0, az: 0, bx: 0, by: 0, bz: 0 };

/**
 * The quarter turns of two directions that agree best: of the first, and of the second with its sign.
 * @param n, q, m 3 × vertexCount unit vectors; the answer is left in MATCH
 */
export function match(
  qx: number,
  qy: number,
  qz: number,
  n: Float64Array,
  i: number,
  q: Float64Array,
  m: Float64Array,
  j: number,
): void {
  const tx = n[i + 1] * qz - n[i + 2] * qy;
  const ty = n[i + 2] * qx - n[i] * qz;
  const tz = n[i] * qy - n[i + 1] * qx;
  const rx = q[j];
  const ry = q[j + 1];
  const rz = q[j + 2];
  const sx = m[j + 1] * rz - m[j + 2] * ry;
  const sy = m[j + 2] * rx - m[j] * rz;
  const sz = m[j] * ry - m[j + 1] * rx;
  const d0 = qx * rx + qy * ry + qz * rz;
  const d1 = qx * sx + qy * sy + qz * sz;
  const d2 = tx * rx + ty * ry + tz * rz;
  const d3 = tx * sx + ty * sy + tz * sz;
  const a0 = Math.abs(d0);
  const a1 = Math.abs(d1);
  const a2 = Math.abs(d2);
  const a3 = Math.abs(d3);
  const first = Math.max(a0, a1) >= Math.max(a2, a3);
  MATCH.ax = first ? qx : tx;
  MATCH.ay = first ? qy : ty;
  MATCH.az = first ? qz : tz;
  const straight = first ? a0 >= a1 : a2 >= a3;
  const d = first ? (straight ? d0 : d1) : straight ? d2 : d3;
  const sign = d < 0 ? -1 : 1;
  MATCH.bx = sign * (straight ? rx : sx);
  MATCH.by = sign * (straight ? ry : sy);
  MATCH.bz = sign * (straight ? rz : sz);
}
