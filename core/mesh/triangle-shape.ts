export const WHERE = { u: 0, v: 0 };

/** Squared distance of a point to a triangle, with the weights of the second and third corner where it is nearest. */
export function triangleDistance2(
  p: ArrayLike<number>,
  a: number,
  b: number,
  c: number,
  x: ArrayLike<number>,
  where = WHERE,
): number {
  const ax = p[3 * a];
  const ay = p[3 * a + 1];
  const az = p[3 * a + 2];
  const e1x = p[3 * b] - ax;
  const e1y = p[3 * b + 1] - ay;
  const e1z = p[3 * b + 2] - az;
  const e2x = p[3 * c] - ax;
  const e2y = p[3 * c + 1] - ay;
  const e2z = p[3 * c + 2] - az;
  const dx = x[0] - ax;
  const dy = x[1] - ay;
  const dz = x[2] - az;
  const d1 = e1x * dx + e1y * dy + e1z * dz;
  const d2 = e2x * dx + e2y * dy + e2z * dz;
  const e11 = e1x * e1x + e1y * e1y + e1z * e1z;
  const e12 = e1x * e2x + e1y * e2y + e1z * e2z;
  const e22 = e2x * e2x + e2y * e2y + e2z * e2z;
  const det = e11 * e22 - e12 * e12 || 1e-300;
  let u = (d1 * e22 - d2 * e12) / det;
  let v = (d2 * e11 - d1 * e12) / det;
  if (u < 0 || v < 0 || u + v > 1) {
    let best = Infinity;
    let bu = 0;
    let bv = 0;
    const along = (value: number) => Math.min(1, Math.max(0, value));
    const tryAt = (tu: number, tv: number) => {
      const f =
        tu * tu * e11 +
        2 * tu * tv * e12 +
        tv * tv * e22 -
        2 * (tu * d1 + tv * d2);
      if (f < best) {
        best = f;
        bu = tu;
        bv = tv;
      }
    };
    tryAt(along(d1 / (e11 || 1e-300)), 0);
    tryAt(0, along(d2 / (e22 || 1e-300)));
    const k = along((d2 - d1 - e12 + e11) / (e11 - 2 * e12 + e22 || 1e-300));
    tryAt(1 - k, k);
    u = bu;
    v = bv;
  }
  where.u = u;
  where.v = v;
  return (
    (dx - u * e1x - v * e2x) ** 2 +
    (dy - u * e1y - v * e2y) ** 2 +
    (dz - u * e1z - v * e2z) ** 2
  );
}

/** Normal of a triangle by its right hand, twice its area long, metres². */
export function cross(
  p: ArrayLike<number>,
  a: number,
  b: number,
  c: number,
): [number, number, number] {
  const ux = p[3 * b] - p[3 * a];
  const uy = p[3 * b + 1] - p[3 * a + 1];
  const uz = p[3 * b + 2] - p[3 * a + 2];
  const vx = p[3 * c] - p[3 * a];
  const vy = p[3 * c + 1] - p[3 * a + 1];
  const vz = p[3 * c + 2] - p[3 * a + 2];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}

/** Triangles thinner than this (1 for equilateral) are not made while a mesh is fitted. */
export const THINNEST = 0.12;

/** Quality of a triangle, 1 for equilateral, from its corners and its normal (twice its area long). */
export function shape(
  p: ArrayLike<number>,
  a: number,
  b: number,
  c: number,
  n: readonly number[],
): number {
  let sides = 0;
  for (let k = 0; k < 3; k++)
    sides +=
      (p[3 * a + k] - p[3 * b + k]) ** 2 +
      (p[3 * b + k] - p[3 * c + k]) ** 2 +
      (p[3 * c + k] - p[3 * a + k]) ** 2;
  return (2 * Math.sqrt(3) * Math.hypot(n[0], n[1], n[2])) / (sides || 1e-300);
}

/** Below this quality (1 for equilateral) a triangle is a sliver. */
export const SLIVER = 0.1;

/** Quality of triangle `t`: 1 for equilateral, 0 without area. */
export function qualityOf(
  p: ArrayLike<number>,
  triangles: ArrayLike<number>,
  t: number,
): number {
  const a = triangles[3 * t];
  const b = triangles[3 * t + 1];
  const c = triangles[3 * t + 2];
  return shape(p, a, b, c, cross(p, a, b, c));
}

/** Writes the unit normal of a triangle into `out`: 3 × triangleCount, unit vectors. Positions are in metres. */
export function setNormal(
  p: ArrayLike<number>,
  a: number,
  b: number,
  c: number,
  out: Float32Array,
  at: number,
): void {
  const n = cross(p, a, b, c);
  const size = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]) || 1;
  for (let k = 0; k < 3; k++) out[at + k] = n[k] / size;
}
