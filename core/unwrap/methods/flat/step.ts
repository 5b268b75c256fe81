import type { Chart } from "../chart";

/**
 * The step along the directions at which the first triangle loses its area (Smith and Schaefer 2015).
 * @param uv 2 × vertexCount, metres
 * @param step the same count: where all would go
 */
export function largestStep(
  chart: Chart,
  uv: Float64Array,
  along: Float64Array,
): number {
  let most = Infinity;
  const { triangles } = chart;
  for (let t = 0; t < triangles.length; t += 3) {
    const a = 2 * triangles[t];
    const b = 2 * triangles[t + 1];
    const c = 2 * triangles[t + 2];
    const x1 = uv[b] - uv[a];
    const y1 = uv[b + 1] - uv[a + 1];
    const x2 = uv[c] - uv[a];
    const y2 = uv[c + 1] - uv[a + 1];
    const p1 = along[b] - along[a];
    const q1 = along[b + 1] - along[a + 1];
    const p2 = along[c] - along[a];
    const q2 = along[c + 1] - along[a + 1];
    const k0 = x1 * y2 - x2 * y1;
    const k1 = x1 * q2 + p1 * y2 - x2 * q1 - p2 * y1;
    const k2 = p1 * q2 - p2 * q1;
    if (!(k0 > 0)) continue;
    let root = Infinity;
    if (Math.abs(k2) < 1e-300) {
      if (k1 < 0) root = -k0 / k1;
    } else {
      const disc = k1 * k1 - 4 * k2 * k0;
      if (disc >= 0) {
        const half = -0.5 * (k1 + Math.sign(k1 || 1) * Math.sqrt(disc));
        for (const x of [half / k2, k0 / half]) if (x > 0 && x < root) root = x;
      }
    }
    if (root < most) most = root;
  }
  return most;
}
