import type { Chart } from "../chart";
import type { BlockSystem } from "./block-system";
import { jacobian, PER_TRIANGLE } from "./shapes";
import { largestStep } from "./step";

export interface RelaxOptions {
  /** Steps at the most. */
  rounds: number;
  /** How much even area counts against even shape: 0 is the symmetric Dirichlet energy alone. */
  evenness: number;
  /** Chart vertices that stay where they are, or null. */
  pins: ReadonlySet<number> | null;
}

/**
 * Moves a layout towards one that keeps lengths and, more so, areas: Newton's method on the symmetric Dirichlet
 * energy Σ A (σ1² + σ2² + σ1⁻² + σ2⁻²) / 4 plus evenness × (s² + s⁻²) / 2 with s = σ1 σ2, whose Hessian is made
 * positive a triangle at a time from its eigensystem (Smith, De Goes, Kim 2019, 2D). Steps stop short of the
 * first triangle that would turn over (Smith and Schaefer 2015), so a layout without flips keeps none.
 *
 * Notes: a hemisphere laid out by shape alone spreads the density by 0.06 and more; by area it can be laid out
 * with no spread at all at an L2 stretch of 1.034 (Lambert), so even area buys fewer seams than even shape.
 * Newton needs 6 to 12 steps where reweighted least squares needed 30.
 */
export function relax(
  chart: Chart,
  shapes: Float64Array,
  system: BlockSystem,
  uv: Float64Array,
  { rounds, evenness, pins }: RelaxOptions,
): void {
  let energy = energyOf(chart, shapes, uv, evenness);
  const trial = new Float64Array(uv.length);
  for (let round = 0; round < rounds; round++) {
    assemble(chart, shapes, system, uv, evenness, pins);
    const along = system.solve();
    if (!along) return;
    let step = Math.min(1, 0.9 * largestStep(chart, uv, along));
    let reached = Infinity;
    for (let tries = 0; tries < 14; tries++, step /= 2) {
      for (let i = 0; i < uv.length; i++) trial[i] = uv[i] + step * along[i];
      reached = energyOf(chart, shapes, trial, evenness);
      if (reached < energy) break;
    }
    if (!(reached < energy)) return;
    uv.set(trial);
    const gain = (energy - reached) / energy;
    energy = reached;
    if (gain < 2e-5) return;
  }
}

const j = new Float64Array(4);

function energyOf(
  chart: Chart,
  shapes: Float64Array,
  uv: Float64Array,
  evenness: number,
): number {
  let sum = 0;
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    const area = shapes[PER_TRIANGLE * t + 6];
    if (area === 0) continue;
    jacobian(chart, shapes, uv, t, j);
    const det = j[0] * j[3] - j[1] * j[2];
    if (!(det > 0)) return Infinity;
    const norm = j[0] * j[0] + j[1] * j[1] + j[2] * j[2] + j[3] * j[3];
    const square = det * det;
    sum +=
      area *
      (0.25 * norm * (1 + 1 / square) + 0.5 * evenness * (square + 1 / square));
  }
  return sum;
}

/**
 * Gradient to the right side (negative), projected Hessian to the matrix.
 * In one piece, with its sums in locals: it is the innermost loop of unfolding.
 */
function assemble(
  chart: Chart,
  shapes: Float64Array,
  system: BlockSystem,
  uv: Float64Array,
  evenness: number,
  pins: ReadonlySet<number> | null,
): void {
  system.clear();
  const { triangles } = chart;
  const { right, rank } = system;
  let stiffness = 0;
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    const at = PER_TRIANGLE * t;
    const area = shapes[at + 6];
    if (area === 0) continue;
    jacobian(chart, shapes, uv, t, j);
    const [a, b, c, d] = j;
    // J = U diag(s1, s2) Vᵀ with rotations U by phi and V by theta.
    const e = (a + d) / 2;
    const f = (a - d) / 2;
    const g = (c + b) / 2;
    const h = (c - b) / 2;
    const q = Math.hypot(e, h);
    const r = Math.hypot(f, g);
    const s1 = q + r;
    const s2 = Math.max(1e-9, q - r);
    const a1 = Math.atan2(g, f);
    const a2 = Math.atan2(h, e);
    const phi = (a1 + a2) / 2;
    const theta = (a1 - a2) / 2;
    const s = s1 * s2;
    const s3 = 1 / (s * s * s);
    const pull = evenness * (s - s3);
    const bend = evenness * (1 + (3 * s3) / s);
    const p1 = 0.5 * (s1 - 1 / (s1 * s1 * s1)) + pull * s2;
    const p2 = 0.5 * (s2 - 1 / (s2 * s2 * s2)) + pull * s1;
    const h11 = 0.5 * (1 + 3 / (s1 * s1 * s1 * s1)) + bend * s2 * s2;
    const h22 = 0.5 * (1 + 3 / (s2 * s2 * s2 * s2)) + bend * s1 * s1;
    const h12 = pull + bend * s;
    const cu = Math.cos(phi);
    const su = Math.sin(phi);
    const cv = Math.cos(theta);
    const sv = Math.sin(theta);
    // The stretch modes: eigenvectors of [[h11, h12], [h12, h22]].
    const middle = (h11 + h22) / 2;
    const apart = Math.hypot((h11 - h22) / 2, h12);
    const tilt = Math.atan2(h12, (h11 - h22) / 2) / 2;
    const ct = Math.cos(tilt);
    const st = Math.sin(tilt);
    const twist = (p1 + p2) / (s1 + s2);
    const flip = Math.abs(s1 - s2) > 1e-9 ? (p1 - p2) / (s1 - s2) : h11 - h12;
    const modes = [middle + apart, middle - apart, twist, flip];
    for (let mode = 0; mode < 4; mode++) {
      const weight = area * modes[mode];
      if (!(weight > 0)) continue;
      if (weight > stiffness) stiffness = weight;
      // The mode as a matrix in the frame of U and V, turned out of it: U M Vᵀ.
      let m00 = 0;
      let m01 = 0;
      let m10 = 0;
      let m11 = 0;
      if (mode === 0) {
        m00 = ct;
        m11 = st;
      } else if (mode === 1) {
        m00 = -st;
        m11 = ct;
      } else {
        m01 = (mode === 2 ? -1 : 1) * Math.SQRT1_2;
        m10 = Math.SQRT1_2;
      }
      const n00 = cu * m00 - su * m10;
      const n01 = cu * m01 - su * m11;
      const n10 = su * m00 + cu * m10;
      const n11 = su * m01 + cu * m11;
      const k00 = n00 * cv - n01 * sv;
      const k01 = n00 * sv + n01 * cv;
      const k10 = n10 * cv - n11 * sv;
      const k11 = n10 * sv + n11 * cv;
      for (let i = 0; i < 3; i++) {
        const xi = k00 * shapes[at + 2 * i] + k01 * shapes[at + 2 * i + 1];
        const yi = k10 * shapes[at + 2 * i] + k11 * shapes[at + 2 * i + 1];
        for (let k = 0; k < 3; k++) {
          const xk = k00 * shapes[at + 2 * k] + k01 * shapes[at + 2 * k + 1];
          const yk = k10 * shapes[at + 2 * k] + k11 * shapes[at + 2 * k + 1];
          system.add(
            t,
            i,
            k,
            weight * xi * xk,
            weight * xi * yk,
            weight * yi * xk,
            weight * yi * yk,
          );
        }
      }
    }
    // U diag(p1, p2) Vᵀ, spread over the corners.
    const g00 = cu * p1 * cv + su * p2 * sv;
    const g01 = cu * p1 * sv - su * p2 * cv;
    const g10 = su * p1 * cv - cu * p2 * sv;
    const g11 = su * p1 * sv + cu * p2 * cv;
    for (let i = 0; i < 3; i++) {
      const at2 = 2 * rank[triangles[3 * t + i]];
      const gx = shapes[at + 2 * i];
      const gy = shapes[at + 2 * i + 1];
      right[at2] -= area * (g00 * gx + g01 * gy);
      right[at2 + 1] -= area * (g10 * gx + g11 * gy);
    }
  }
  // A weak hold on the present place keeps the system definite: nothing else says where the whole lies.
  const hold = 1e-9 * stiffness * slopeOf(shapes);
  for (let v = 0; v < chart.vertexCount; v++)
    system.pin(v, pins?.has(v) ? 1e12 * hold : hold, 0, 0);
}

/** Mean square of the gradients: what turns weights of modes into weights of vertices. */
function slopeOf(shapes: Float64Array): number {
  let sum = 0;
  let count = 0;
  for (let at = 0; at < shapes.length; at += PER_TRIANGLE)
    if (shapes[at + 6] > 0) {
      sum += shapes[at] * shapes[at] + shapes[at + 1] * shapes[at + 1];
      count++;
    }
  return count ? sum / count : 1;
}
