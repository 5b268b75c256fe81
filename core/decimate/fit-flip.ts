import type { FitState } from "./fit-state";
import { buildEdges } from "../mesh/edges";
import {
  cross,
  shape,
  THINNEST,
  triangleDistance2,
  WHERE,
} from "../mesh/triangle-shape";

/** Flips every edge whose other diagonal lies nearer to the samples, or makes a thin pair better for free. */
export function flipEdges(fit: FitState): void {
  const { triangles, mesh } = fit;
  const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
    (_, t) => 3 * t,
  );
  const edges = buildEdges({ corners: triangles, faceStarts });
  const joined = new Set<number>();
  const key = (a: number, b: number) =>
    Math.min(a, b) * (fit.p.length / 3) + Math.max(a, b);
  for (let e = 0; e < edges.count; e++)
    joined.add(key(edges.vertices[2 * e], edges.vertices[2 * e + 1]));
  const touched = new Uint8Array(triangles.length / 3);
  let flipped = 0;
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const s = (edges.first[e] / 3) | 0;
    const t = (edges.second[e] / 3) | 0;
    if (touched[s] || touched[t]) continue;
    if (
      fit.stays &&
      fit.held[edges.vertices[2 * e]] === 2 &&
      fit.held[edges.vertices[2 * e + 1]] === 2
    )
      continue;
    if (mesh.material[s] !== mesh.material[t] || mesh.id[s] !== mesh.id[t])
      continue;
    const k = edges.first[e] - 3 * s;
    const a = triangles[3 * s + k];
    const b = triangles[3 * s + ((k + 1) % 3)];
    const c = triangles[3 * s + ((k + 2) % 3)];
    const j = edges.second[e] - 3 * t;
    if (triangles[3 * t + j] !== b) continue;
    const d = triangles[3 * t + ((j + 2) % 3)];
    if (c === d || joined.has(key(c, d))) continue;
    if (!betterFlipped(fit, s, t, a, b, c, d)) continue;
    joined.delete(key(a, b));
    joined.add(key(c, d));
    triangles.set([a, d, c], 3 * s);
    triangles.set([d, b, c], 3 * t);
    moveSamples(fit, s, t);
    touched[s] = touched[t] = 1;
    flipped++;
  }
  if (!flipped) return;
  fit.moved = true;
  fit.linkVertices();
  fit.sortSamples();
}

/** Lets the samples of two triangles that were flipped fall on the nearer of the new ones. */
function moveSamples(fit: FitState, s: number, t: number): void {
  const { triangles, p, points } = fit;
  for (const from of [s, t])
    for (let i = fit.sampleStarts[from]; i < fit.sampleStarts[from + 1]; i++) {
      const sample = fit.sampleOrder[i];
      const x = points.subarray(3 * sample, 3 * sample + 3);
      let best = Infinity;
      for (const to of [s, t]) {
        const [a, b, c] = triangles.subarray(3 * to, 3 * to + 3);
        const distance2 = triangleDistance2(p, a, b, c, x, WHERE);
        if (distance2 >= best) continue;
        best = distance2;
        fit.on[sample] = to;
        fit.u[sample] = WHERE.u;
        fit.v[sample] = WHERE.v;
      }
    }
}

function betterFlipped(
  fit: FitState,
  s: number,
  t: number,
  a: number,
  b: number,
  c: number,
  d: number,
): boolean {
  const { p } = fit;
  const n1 = cross(p, a, b, c);
  const n2 = cross(p, b, a, d);
  const m1 = cross(p, a, d, c);
  const m2 = cross(p, d, b, c);
  const sum = [0, 1, 2].map((k) => n1[k] + n2[k]);
  const toward = (m: readonly number[]) =>
    m[0] * sum[0] + m[1] * sum[1] + m[2] * sum[2];
  const limit = 0.3 * Math.hypot(...sum);
  if (toward(m1) <= limit * Math.hypot(...m1)) return false;
  if (toward(m2) <= limit * Math.hypot(...m2)) return false;
  const before = Math.min(shape(p, a, b, c, n1), shape(p, b, a, d, n2));
  const after = Math.min(shape(p, a, d, c, m1), shape(p, d, b, c, m2));
  if (after < THINNEST && after < before) return false;
  let old = 0;
  let now = 0;
  let used = 0;
  for (const from of [s, t])
    for (let i = fit.sampleStarts[from]; i < fit.sampleStarts[from + 1]; i++) {
      const sample = fit.sampleOrder[i];
      old += fit.distance2(sample);
      const x = fit.points.subarray(3 * sample, 3 * sample + 3);
      now += Math.min(
        triangleDistance2(p, a, d, c, x),
        triangleDistance2(p, d, b, c, x),
      );
      used++;
    }
  if (used && now < 0.85 * old) return true;
  const lengths =
    (p[3 * a] - p[3 * b]) ** 2 +
    (p[3 * a + 1] - p[3 * b + 1]) ** 2 +
    (p[3 * a + 2] - p[3 * b + 2]) ** 2;
  // On flat ground, where nothing is lost, the rounder pair is the better one.
  return (
    after > 1.3 * before &&
    before < 0.35 &&
    now <= old * 1.02 + used * 1e-12 * lengths
  );
}
