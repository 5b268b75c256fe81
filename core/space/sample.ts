import { seededRandom } from "../base/random";

/**
 * Points spread evenly over triangles by area (stratified along the running area, so small parts get theirs).
 * @param positions 3 × vertexCount, metres
 * @param indices 3 × triangleCount vertex indices
 * @returns points: 3 × count, metres; triangles: count
 */
export function sampleSurface(
  positions: Float32Array,
  indices: ArrayLike<number>,
  count: number,
  seed = 1,
) {
  const total = indices.length / 3;
  const running = new Float64Array(total + 1);
  for (let t = 0; t < total; t++)
    running[t + 1] = running[t] + triangleArea(positions, indices, t);
  const points = new Float32Array(3 * count);
  const triangles = new Uint32Array(count);
  const random = seededRandom(seed);
  const area = running[total];
  let t = 0;
  for (let i = 0; i < count; i++) {
    const at = ((i + random()) / count) * area;
    while (t + 1 < total && running[t + 1] < at) t++;
    const r = Math.sqrt(random());
    const v = r * random();
    const u = r - v;
    triangles[i] = t;
    for (let k = 0; k < 3; k++) {
      const a = positions[3 * indices[3 * t] + k];
      const b = positions[3 * indices[3 * t + 1] + k];
      const c = positions[3 * indices[3 * t + 2] + k];
      points[3 * i + k] = a + u * (b - a) + v * (c - a);
    }
  }
  return { points, triangles, area };
}

/** Area of triangle t. */
export function triangleArea(
  p: ArrayLike<number>,
  indices: ArrayLike<number>,
  t: number,
): number {
  const a = 3 * indices[3 * t];
  const b = 3 * indices[3 * t + 1];
  const c = 3 * indices[3 * t + 2];
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  return (
    Math.sqrt(
      (uy * vz - uz * vy) ** 2 +
        (uz * vx - ux * vz) ** 2 +
        (ux * vy - uy * vx) ** 2,
    ) / 2
  );
}
