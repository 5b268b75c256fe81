import type { Chart } from "../chart";

/** Gradients of the hat functions of a triangle in its own plane, and its area. 7 numbers a triangle. */
export const PER_TRIANGLE = 7;

/** PER_TRIANGLE × triangleCount: each triangle laid flat by itself, metres: what layouts are compared with. */
export function triangleShapes(chart: Chart): Float64Array {
  const { places: p, triangles } = chart;
  const shapes = new Float64Array((triangles.length / 3) * PER_TRIANGLE);
  for (let t = 0; t < triangles.length / 3; t++) {
    const a = 3 * triangles[3 * t];
    const b = 3 * triangles[3 * t + 1];
    const c = 3 * triangles[3 * t + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const length = Math.hypot(ux, uy, uz);
    const double = Math.hypot(
      uy * vz - uz * vy,
      uz * vx - ux * vz,
      ux * vy - uy * vx,
    );
    if (
      !(length > 0) ||
      !(double > 1e-7 * (length * length + vx * vx + vy * vy + vz * vz))
    )
      continue;
    const x1 = length;
    const x2 = (ux * vx + uy * vy + uz * vz) / length;
    const y2 = double / length;
    // In the plane: (0,0), (x1,0), (x2,y2); gradient of each corner's hat function.
    const at = PER_TRIANGLE * t;
    shapes[at] = -y2 / double;
    shapes[at + 1] = (x2 - x1) / double;
    shapes[at + 2] = y2 / double;
    shapes[at + 3] = -x2 / double;
    shapes[at + 4] = 0;
    shapes[at + 5] = x1 / double;
    shapes[at + 6] = double / 2;
  }
  return shapes;
}

/**
 * The 2 × 2 matrix that takes triangle t from its plane to the sheet: [∂u/∂x ∂u/∂y; ∂v/∂x ∂v/∂y].
 * @param shapes as `triangleShapes` gives them
 * @param uv 2 × vertexCount, metres
 * @param into 4 numbers
 */
export function jacobian(
  chart: Chart,
  shapes: Float64Array,
  uv: Float64Array,
  t: number,
  into: Float64Array,
) {
  const at = PER_TRIANGLE * t;
  let a = 0;
  let b = 0;
  let c = 0;
  let d = 0;
  for (let k = 0; k < 3; k++) {
    const v = 2 * chart.triangles[3 * t + k];
    const gx = shapes[at + 2 * k];
    const gy = shapes[at + 2 * k + 1];
    a += uv[v] * gx;
    b += uv[v] * gy;
    c += uv[v + 1] * gx;
    d += uv[v + 1] * gy;
  }
  into[0] = a;
  into[1] = b;
  into[2] = c;
  into[3] = d;
}

const j = new Float64Array(4);

/**
 * Triangles that are turned over or have no area in the plane.
 * @param shapes as `triangleShapes` gives them
 * @param uv 2 × vertexCount, metres
 */
export function countFlips(
  chart: Chart,
  shapes: Float64Array,
  uv: Float64Array,
): number {
  let flips = 0;
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    if (shapes[PER_TRIANGLE * t + 6] === 0) continue;
    jacobian(chart, shapes, uv, t, j);
    if (!(j[0] * j[3] - j[1] * j[2] > 1e-12)) flips++;
  }
  return flips;
}

/**
 * Scales a layout to the chart's own area.
 * @param shapes as `triangleShapes` gives them
 * @param uv 2 × vertexCount, metres; changed
 */
export function rescale(
  chart: Chart,
  shapes: Float64Array,
  uv: Float64Array,
): void {
  let flat = 0;
  let area = 0;
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    jacobian(chart, shapes, uv, t, j);
    flat += (j[0] * j[3] - j[1] * j[2]) * shapes[PER_TRIANGLE * t + 6];
    area += shapes[PER_TRIANGLE * t + 6];
  }
  const scale = flat > 0 ? Math.sqrt(area / flat) : 1;
  for (let i = 0; i < uv.length; i++) uv[i] *= scale;
}

/**
 * L2 stretch, spread of the length scale and turned triangles of a layout.
 * @param shapes as `triangleShapes` gives them
 * @param uv 2 × vertexCount, metres
 */
export function judge(chart: Chart, shapes: Float64Array, uv: Float64Array) {
  let area = 0;
  let l2 = 0;
  let sum = 0;
  let squares = 0;
  let flipped = 0;
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    const a = shapes[PER_TRIANGLE * t + 6];
    if (a === 0) continue;
    jacobian(chart, shapes, uv, t, j);
    const det = j[0] * j[3] - j[1] * j[2];
    if (!(det > 0)) {
      flipped++;
      continue;
    }
    const norm = j[0] * j[0] + j[1] * j[1] + j[2] * j[2] + j[3] * j[3];
    // Sander's values are those of the inverse map: Γ² + γ² = norm / det².
    l2 += (a * norm) / (2 * det * det);
    const log = Math.log(det) / 2;
    sum += a * log;
    squares += a * log * log;
    area += a;
  }
  const mean = sum / area;
  return {
    stretch: Math.sqrt(l2 / area),
    spread: Math.sqrt(Math.max(0, squares / area - mean * mean)),
    flipped,
  };
}

/**
 * The vertex whose triangles together are smallest in the layout against what they are in space.
 * @param shapes as `triangleShapes` gives them
 * @param uv 2 × vertexCount, metres
 */
export function tightest(
  chart: Chart,
  shapes: Float64Array,
  uv: Float64Array,
): number {
  const flat = new Float64Array(chart.vertexCount);
  const area = new Float64Array(chart.vertexCount);
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    const a = shapes[PER_TRIANGLE * t + 6];
    if (a === 0) continue;
    jacobian(chart, shapes, uv, t, j);
    for (let k = 0; k < 3; k++) {
      const v = chart.triangles[3 * t + k];
      flat[v] += a * (j[0] * j[3] - j[1] * j[2]);
      area[v] += a;
    }
  }
  let best = -1;
  let least = Infinity;
  for (let v = 0; v < area.length; v++)
    if (area[v] > 0 && flat[v] / area[v] < least) {
      least = flat[v] / area[v];
      best = v;
    }
  return best;
}
