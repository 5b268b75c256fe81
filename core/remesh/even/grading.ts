import type { WorkMesh } from "./work-mesh";

/** Rounds in which bends are averaged with the neighbours', signed, so that noise is none; then the metric. */
const SMOOTH_BENDS = 2;
const SMOOTH_METRIC = 2;
/** Bends less than this share of the middle one count as much: flat places have no directions. */
const FLAT = 0.3;

/**
 * The wanted length of an edge at a vertex: 1 ÷ √(d · M d) along a direction d, relative to the mean.
 * @param metric 6 × vertexCount: xx, yy, zz, xy, yz, zx of M, 1 for the mean length
 */
export function lengthAlong(
  metric: Float64Array,
  v: number,
  x: number,
  y: number,
  z: number,
): number {
  const m = 6 * v;
  return (
    1 /
    Math.sqrt(
      metric[m] * x * x +
        metric[m + 1] * y * y +
        metric[m + 2] * z * z +
        2 *
          (metric[m + 3] * x * y +
            metric[m + 4] * y * z +
            metric[m + 5] * z * x),
    )
  );
}

/**
 * Sets the work mesh's metric, and the directions it is drawn to, by how the surface bends. Of meshes with as many
 * faces the mean square distance is least where edges along the two bends k₁, k₂ are (k₁k₂)^(1/12) ÷ √kᵢ long
 * (Alauzet, Loseille 2010, for the L² norm in the plane).
 * @param grading most that the length of edges differs over the mesh, and that the sides of a quad do; at least 1
 */
export function gradeByBends(work: WorkMesh, grading: number): void {
  const { normals, metric } = work;
  const count = normals.length / 3;
  const bends = smoothed(work, bendsOf(work), SMOOTH_BENDS);
  const middle = middleSize(bends);
  const toward = { x: 0, y: 0, z: 0, first: 0, second: 0 };
  for (let v = 0; v < count; v++) {
    principal(bends, v, normals, toward);
    const floor = FLAT * middle;
    const k1 = Math.max(Math.abs(toward.first), floor);
    const k2 = Math.max(Math.abs(toward.second), floor);
    const aspect = Math.min(
      grading,
      Math.sqrt(Math.max(k1, k2) / Math.min(k1, k2)),
    );
    const reach = Math.sqrt(grading);
    const size = Math.max(
      1 / reach,
      Math.min(reach, (Math.sqrt(k1 * k2) / middle) ** (-1 / 3)),
    );
    const long = size * Math.sqrt(aspect);
    const short = size / Math.sqrt(aspect);
    setMetric(
      work,
      v,
      toward,
      k1 >= k2 ? short : long,
      k1 >= k2 ? long : short,
    );
  }
  work.metric.set(smoothed(work, metric, SMOOTH_METRIC));
}

/** Second fundamental form of every vertex, 6 × vertexCount, least squares over what normals turn by along edges. */
function bendsOf(work: WorkMesh): Float64Array {
  const { positions: p, normals: n, starts, links, bound } = work;
  const count = starts.length - 1;
  const bends = new Float64Array(6 * count);
  for (let v = 0; v < count; v++) {
    // Normals jump at lines: what bends there is no measure.
    if (bound[v]) continue;
    const [e, f] = tangents(n, v);
    // Least squares for a, b, c of [a b; b c] · d = turn.
    const m = [0, 0, 0, 0, 0, 0];
    const r = [0, 0, 0];
    for (let k = starts[v]; k < starts[v + 1]; k++) {
      const w = links[k];
      if (bound[w]) continue;
      let [dx, dy, tx, ty] = [0, 0, 0, 0];
      for (let i = 0; i < 3; i++) {
        const d = p[3 * w + i] - p[3 * v + i];
        const t = n[3 * w + i] - n[3 * v + i];
        dx += d * e[i];
        dy += d * f[i];
        tx += t * e[i];
        ty += t * f[i];
      }
      m[0] += dx * dx;
      m[1] += dx * dy;
      m[2] += dx * dx + dy * dy;
      m[3] += dx * dy;
      m[5] += dy * dy;
      r[0] += dx * tx;
      r[1] += dy * tx + dx * ty;
      r[2] += dy * ty;
    }
    const [a, b, c] = solve3(m, r);
    for (let i = 0; i < 3; i++) {
      const j = (i + 1) % 3;
      bends[6 * v + i] =
        a * e[i] * e[i] + 2 * b * e[i] * f[i] + c * f[i] * f[i];
      bends[6 * v + 3 + i] =
        a * e[i] * e[j] + b * (e[i] * f[j] + e[j] * f[i]) + c * f[i] * f[j];
    }
  }
  return bends;
}

/** Solves the symmetric system with rows (m0 m1 0), (m1 m2 m3), (0 m3 m5); zeros where it is singular. */
function solve3(m: number[], r: number[]): [number, number, number] {
  const [a, b, , d] = m;
  const c = m[2];
  const f = m[5];
  const det = a * (c * f - d * d) - b * b * f;
  if (!(Math.abs(det) > 1e-12 * (a + f) ** 3)) return [0, 0, 0];
  const x = (r[0] * (c * f - d * d) - b * (r[1] * f - d * r[2])) / det;
  const y = (a * (r[1] * f - d * r[2]) - b * r[0] * f) / det;
  const z = (a * (c * r[2] - d * r[1]) - b * b * r[2] + b * d * r[0]) / det;
  return [x, y, z];
}

/** Two directions square to a normal and to each other. */
function tangents(n: Float64Array, v: number) {
  const [x, y, z] = [n[3 * v], n[3 * v + 1], n[3 * v + 2]];
  const flat = Math.abs(x) < 0.8;
  let e = flat ? [0, z, -y] : [-z, 0, x];
  const size = Math.hypot(...e) || 1;
  e = e.map((c) => c / size);
  return [
    e,
    [y * e[2] - z * e[1], z * e[0] - x * e[2], x * e[1] - y * e[0]],
  ] as const;
}

/** Of a symmetric form: its direction of the larger bend in the tangent plane, that bend and the one across. */
function principal(
  form: Float64Array,
  v: number,
  normals: Float64Array,
  found: { x: number; y: number; z: number; first: number; second: number },
): void {
  const [e, f] = tangents(normals, v);
  const m = 6 * v;
  const times = (a: readonly number[], b: readonly number[]) =>
    form[m] * a[0] * b[0] +
    form[m + 1] * a[1] * b[1] +
    form[m + 2] * a[2] * b[2] +
    form[m + 3] * (a[0] * b[1] + a[1] * b[0]) +
    form[m + 4] * (a[1] * b[2] + a[2] * b[1]) +
    form[m + 5] * (a[2] * b[0] + a[0] * b[2]);
  const [a, b, c] = [times(e, e), times(e, f), times(f, f)];
  const turn = 0.5 * Math.atan2(2 * b, a - c);
  const d = e.map((x, k) => Math.cos(turn) * x + Math.sin(turn) * f[k]);
  const across = e.map((x, k) => -Math.sin(turn) * x + Math.cos(turn) * f[k]);
  const first = times(d, d);
  const second = times(across, across);
  const swap = Math.abs(second) > Math.abs(first);
  const way = swap ? across : d;
  found.x = way[0];
  found.y = way[1];
  found.z = way[2];
  found.first = swap ? second : first;
  found.second = swap ? first : second;
}

/** Lengths along a direction of the tangent plane and across it; the normal's is as along the shorter. */
function setMetric(
  { metric, normals, pull }: WorkMesh,
  v: number,
  { x, y, z }: { x: number; y: number; z: number },
  along: number,
  across: number,
): void {
  const d = [x, y, z];
  const n = [normals[3 * v], normals[3 * v + 1], normals[3 * v + 2]];
  const s = [n[1] * z - n[2] * y, n[2] * x - n[0] * z, n[0] * y - n[1] * x];
  const a = 1 / along ** 2;
  const b = 1 / across ** 2;
  const c = 1 / (along * across);
  for (let i = 0; i < 3; i++) {
    const j = (i + 1) % 3;
    metric[6 * v + i] = a * d[i] * d[i] + b * s[i] * s[i] + c * n[i] * n[i];
    metric[6 * v + 3 + i] = a * d[i] * d[j] + b * s[i] * s[j] + c * n[i] * n[j];
  }
  const strength = 1 - Math.min(along, across) / Math.max(along, across);
  for (let i = 0; i < 3; i++) pull[3 * v + i] = strength * d[i];
}

function smoothed(
  { starts, links }: WorkMesh,
  form: Float64Array,
  rounds: number,
): Float64Array {
  let now = form;
  for (let round = 0; round < rounds; round++) {
    const next = new Float64Array(now.length);
    for (let v = 0; v < starts.length - 1; v++)
      for (let i = 0; i < 6; i++) {
        let sum = now[6 * v + i];
        for (let k = starts[v]; k < starts[v + 1]; k++)
          sum += now[6 * links[k] + i];
        next[6 * v + i] = sum / (1 + starts[v + 1] - starts[v]);
      }
    now = next;
  }
  return now;
}

/** The middle one of all bends, 1 ÷ metre; 1 where nothing bends. */
function middleSize(bends: Float64Array): number {
  const sizes = new Float64Array(bends.length / 6);
  for (let v = 0; v < sizes.length; v++)
    sizes[v] = Math.hypot(...bends.subarray(6 * v, 6 * v + 6));
  sizes.sort();
  return sizes[sizes.length >> 1] || 1;
}
