import type { Chart } from "./chart";
import { SparseSolver, dissectionOrder } from "./sparse";

/** A chart laid flat, in metres, and how well that went. */
export interface Flat {
  /** 2 × vertexCount, metres, same total area as the chart. */
  uv: Float64Array;
  /** Area-weighted L2 stretch (Sander et al. 2001), 1 for none. */
  stretch: number;
  /** Standard deviation of the log of the length scale, area-weighted. */
  spread: number;
  flipped: number;
  overlaps: boolean;
}

/** Gradients of the hat functions of a triangle in its own plane, and its area. 7 numbers a triangle. */
const PER_TRIANGLE = 7;

/**
 * Lays a disc flat: least squares conformal map (Lévy et al. 2002), or Tutte's embedding where that folds,
 * then relaxed towards isometry without ever turning a triangle (Rabinovich et al. 2017, symmetric Dirichlet).
 * @param rounds of the relaxation at the most
 */
export function flatten(chart: Chart, rounds = 12): Flat {
  const shapes = triangleShapes(chart);
  const system = new BlockSystem(chart);
  let uv = conformal(chart, shapes, system);
  if (!uv || countFlips(chart, shapes, uv) > 0) uv = tutte(chart);
  if (!uv || countFlips(chart, shapes, uv) > 0)
    return {
      uv: uv ?? new Float64Array(2 * chart.vertexCount),
      stretch: Infinity,
      spread: Infinity,
      flipped: 1,
      overlaps: true,
    };
  rescale(chart, shapes, uv);
  relax(chart, shapes, system, uv, rounds);
  rescale(chart, shapes, uv);
  return {
    uv,
    ...judge(chart, shapes, uv),
    overlaps: crossesItself(chart, uv),
  };
}

function triangleShapes(chart: Chart): Float64Array {
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

/** The normal matrix over both coordinates of every vertex, assembled in 2 × 2 blocks. */
class BlockSystem {
  readonly rank: Int32Array;
  private readonly solver: SparseSolver;
  private readonly entries: Float64Array;
  private readonly slots: Int32Array;
  private readonly columnStarts: Int32Array;
  readonly right: Float64Array;

  constructor(private readonly chart: Chart) {
    const n = chart.vertexCount;
    const { starts, list } = neighboursOf(chart);
    this.rank = dissectionOrder(chart.places, starts, list);
    const rank = this.rank;
    // Column 2r + d of vertex with rank r: blocks of neighbours with lower rank, then its own.
    const columnStarts = new Int32Array(2 * n + 1);
    const vertexAt = new Int32Array(n);
    for (let v = 0; v < n; v++) vertexAt[rank[v]] = v;
    const rows: number[] = [];
    const slotOf = new Map<number, number>();
    for (let r = 0; r < n; r++) {
      const v = vertexAt[r];
      const lower: number[] = [];
      for (let p = starts[v]; p < starts[v + 1]; p++)
        if (rank[list[p]] < r) lower.push(rank[list[p]]);
      for (let d = 0; d < 2; d++) {
        for (const q of lower) {
          slotOf.set((q * n + r) * 2 + d, rows.length);
          rows.push(2 * q, 2 * q + 1);
        }
        slotOf.set((r * n + r) * 2 + d, rows.length);
        rows.push(2 * r);
        if (d === 1) rows.push(2 * r + 1);
        columnStarts[2 * r + d + 1] = rows.length;
      }
    }
    this.columnStarts = columnStarts;
    this.solver = new SparseSolver(2 * n, columnStarts, new Int32Array(rows));
    this.entries = new Float64Array(rows.length);
    this.right = new Float64Array(2 * n);
    const { triangles } = chart;
    this.slots = new Int32Array(triangles.length * 6);
    for (let t = 0; t < triangles.length / 3; t++)
      for (let i = 0; i < 3; i++)
        for (let j = 0; j < 3; j++) {
          const a = rank[triangles[3 * t + i]];
          const b = rank[triangles[3 * t + j]];
          const at = 2 * (9 * t + 3 * i + j);
          this.slots[at] = a <= b ? slotOf.get((a * n + b) * 2)! : -1;
          this.slots[at + 1] = a <= b ? slotOf.get((a * n + b) * 2 + 1)! : -1;
        }
  }

  clear(): void {
    this.entries.fill(0);
    this.right.fill(0);
  }

  /** Adds the block [xx xy; yx yy] for corners i, j of triangle t (rows of i, columns of j). */
  add(
    t: number,
    i: number,
    j: number,
    xx: number,
    xy: number,
    yx: number,
    yy: number,
  ): void {
    const at = 2 * (9 * t + 3 * i + j);
    const first = this.slots[at];
    if (first < 0) return;
    const second = this.slots[at + 1];
    const { entries } = this;
    entries[first] += xx;
    if (i !== j) entries[first + 1] += yx;
    entries[second] += xy;
    entries[second + 1] += yy;
  }

  /** Adds to the diagonal of a vertex, and the pull to a place to the right side. */
  pin(v: number, weight: number, x: number, y: number): void {
    const r = this.rank[v];
    this.entries[this.columnStarts[2 * r + 1] - 1] += weight;
    this.entries[this.columnStarts[2 * r + 2] - 1] += weight;
    this.right[2 * r] += weight * x;
    this.right[2 * r + 1] += weight * y;
  }

  solve(): Float64Array | null {
    if (!this.solver.factor(this.entries)) return null;
    this.solver.solve(this.right);
    const uv = new Float64Array(2 * this.chart.vertexCount);
    for (let v = 0; v < this.chart.vertexCount; v++) {
      uv[2 * v] = this.right[2 * this.rank[v]];
      uv[2 * v + 1] = this.right[2 * this.rank[v] + 1];
    }
    return uv;
  }
}

function neighboursOf(chart: Chart) {
  const { triangles, vertexCount } = chart;
  const sets: Set<number>[] = Array.from(
    { length: vertexCount },
    () => new Set(),
  );
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const a = triangles[t + k];
      const b = triangles[t + ((k + 1) % 3)];
      if (a === b) continue;
      sets[a].add(b);
      sets[b].add(a);
    }
  const starts = new Int32Array(vertexCount + 1);
  const list: number[] = [];
  for (let v = 0; v < vertexCount; v++) {
    list.push(...sets[v]);
    starts[v + 1] = list.length;
  }
  return { starts, list: new Int32Array(list) };
}

/** Conformal energy ½ Σ A |J − (cofactor of J)|² with the two vertices farthest apart held by stiff pins. */
function conformal(
  chart: Chart,
  shapes: Float64Array,
  system: BlockSystem,
): Float64Array | null {
  const [a, b, distance] = farthestPair(chart);
  if (a === b) return null;
  system.clear();
  let stiffness = 0;
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    const at = PER_TRIANGLE * t;
    const area = shapes[at + 6];
    for (let i = 0; i < 3; i++)
      for (let j = 0; j < 3; j++) {
        const gx = shapes[at + 2 * i];
        const gy = shapes[at + 2 * i + 1];
        const hx = shapes[at + 2 * j];
        const hy = shapes[at + 2 * j + 1];
        const same = area * (gx * hx + gy * hy);
        const turn = area * (gx * hy - gy * hx);
        if (i === j) stiffness = Math.max(stiffness, same);
        system.add(t, i, j, same, -turn, turn, same);
      }
  }
  for (let v = 0; v < chart.vertexCount; v++)
    system.pin(v, stiffness * 1e-12, 0, 0);
  system.pin(a, stiffness * 1e3, 0, 0);
  system.pin(b, stiffness * 1e3, distance, 0);
  return system.solve();
}

function farthestPair(chart: Chart): [number, number, number] {
  const p = chart.places;
  const border = chart.loops.flat();
  const farthest = (from: number) => {
    let best = from;
    let most = -1;
    for (const v of border) {
      const d =
        (p[3 * v] - p[3 * from]) ** 2 +
        (p[3 * v + 1] - p[3 * from + 1]) ** 2 +
        (p[3 * v + 2] - p[3 * from + 2]) ** 2;
      if (d > most) {
        most = d;
        best = v;
      }
    }
    return [best, Math.sqrt(most)] as const;
  };
  if (!border.length) return [0, 0, 0];
  const [a] = farthest(border[0]);
  const [b, distance] = farthest(a);
  return [a, b, distance > 0 ? distance : 1];
}

/** Border on a circle, everything else in the middle of its neighbours: never folds (Tutte 1963). */
function tutte(chart: Chart): Float64Array | null {
  if (chart.loops.length !== 1 || chart.loops[0].length < 3) return null;
  const loop = chart.loops[0];
  const n = chart.vertexCount;
  const uv = new Float64Array(2 * n);
  const held = new Uint8Array(n);
  const lengths = loop.map((v, i) => {
    const w = loop[(i + 1) % loop.length];
    return (
      Math.hypot(
        ...[0, 1, 2].map(
          (k) => chart.places[3 * v + k] - chart.places[3 * w + k],
        ),
      ) + 1e-9
    );
  });
  const total = lengths.reduce((sum, length) => sum + length, 0);
  let run = 0;
  loop.forEach((v, i) => {
    const angle = (2 * Math.PI * run) / total;
    uv[2 * v] = Math.cos(angle);
    uv[2 * v + 1] = Math.sin(angle);
    held[v] = 1;
    run += lengths[i];
  });
  const { starts, list } = neighboursOf(chart);
  const rank = dissectionOrder(chart.places, starts, list);
  const columnStarts = new Int32Array(n + 1);
  const rows: number[] = [];
  const entries: number[] = [];
  const vertexAt = new Int32Array(n);
  for (let v = 0; v < n; v++) vertexAt[rank[v]] = v;
  const bx = new Float64Array(n);
  const by = new Float64Array(n);
  for (let r = 0; r < n; r++) {
    const v = vertexAt[r];
    if (held[v]) {
      bx[r] = uv[2 * v];
      by[r] = uv[2 * v + 1];
      rows.push(r);
      entries.push(1);
    } else {
      for (let p = starts[v]; p < starts[v + 1]; p++) {
        const w = list[p];
        if (held[w]) {
          bx[r] += uv[2 * w];
          by[r] += uv[2 * w + 1];
        } else if (rank[w] < r) {
          rows.push(rank[w]);
          entries.push(-1);
        }
      }
      rows.push(r);
      entries.push(starts[v + 1] - starts[v] || 1);
    }
    columnStarts[r + 1] = rows.length;
  }
  const solver = new SparseSolver(n, columnStarts, new Int32Array(rows));
  if (!solver.factor(new Float64Array(entries))) return null;
  solver.solve(bx);
  solver.solve(by);
  for (let v = 0; v < n; v++) {
    uv[2 * v] = bx[rank[v]];
    uv[2 * v + 1] = by[rank[v]];
  }
  return uv;
}

/** The 2 × 2 matrix that takes triangle t from its plane to the sheet: [∂u/∂x ∂u/∂y; ∂v/∂x ∂v/∂y]. */
function jacobian(
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

function countFlips(
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

function rescale(chart: Chart, shapes: Float64Array, uv: Float64Array): void {
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

function energyOf(
  chart: Chart,
  shapes: Float64Array,
  uv: Float64Array,
): number {
  let sum = 0;
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    const area = shapes[PER_TRIANGLE * t + 6];
    if (area === 0) continue;
    jacobian(chart, shapes, uv, t, j);
    const det = j[0] * j[3] - j[1] * j[2];
    if (!(det > 0)) return Infinity;
    const norm = j[0] * j[0] + j[1] * j[1] + j[2] * j[2] + j[3] * j[3];
    sum += area * norm * (1 + 1 / (det * det));
  }
  return sum;
}

/** Scalable locally injective mapping: reweighted least squares steps with a search that stays unfolded. */
function relax(
  chart: Chart,
  shapes: Float64Array,
  system: BlockSystem,
  uv: Float64Array,
  rounds: number,
): void {
  const area = shapes.reduce(
    (sum, value, i) => (i % PER_TRIANGLE === 6 ? sum + value : sum),
    0,
  );
  let energy = energyOf(chart, shapes, uv);
  const trial = new Float64Array(uv.length);
  for (let round = 0; round < rounds; round++) {
    assembleProxy(chart, shapes, system, uv, area);
    const target = system.solve();
    if (!target) return;
    for (let i = 0; i < uv.length; i++) target[i] -= uv[i];
    let step = Math.min(1, 0.8 * largestStep(chart, uv, target));
    let reached = Infinity;
    for (let tries = 0; tries < 12; tries++, step /= 2) {
      for (let i = 0; i < uv.length; i++) trial[i] = uv[i] + step * target[i];
      reached = energyOf(chart, shapes, trial);
      if (reached < energy) break;
    }
    if (!(reached < energy)) return;
    uv.set(trial);
    const gain = (energy - reached) / energy;
    energy = reached;
    if (gain < 5e-4) return;
  }
}

function assembleProxy(
  chart: Chart,
  shapes: Float64Array,
  system: BlockSystem,
  uv: Float64Array,
  total: number,
): void {
  system.clear();
  for (let t = 0; t < shapes.length / PER_TRIANGLE; t++) {
    const at = PER_TRIANGLE * t;
    const area = shapes[at + 6];
    if (area === 0) continue;
    jacobian(chart, shapes, uv, t, j);
    const [a, b, c, d] = j;
    // Singular values and left vectors of J; R is the rotation nearest to J.
    const e = (a + d) / 2;
    const f = (a - d) / 2;
    const g = (c + b) / 2;
    const h = (c - b) / 2;
    const q = Math.hypot(e, h);
    const r = Math.hypot(f, g);
    const s1 = q + r;
    const s2 = Math.max(1e-9, q - r);
    const phi = (Math.atan2(g, f) + Math.atan2(h, e)) / 2;
    const cos = Math.cos(phi);
    const sin = Math.sin(phi);
    const w1 = weightOf(s1);
    const w2 = weightOf(s2);
    const m00 = w1 * cos * cos + w2 * sin * sin;
    const m01 = (w1 - w2) * cos * sin;
    const m11 = w1 * sin * sin + w2 * cos * cos;
    const rc = q > 0 ? e / q : 1;
    const rs = q > 0 ? h / q : 0;
    const mr00 = m00 * rc + m01 * rs;
    const mr01 = -m00 * rs + m01 * rc;
    const mr10 = m01 * rc + m11 * rs;
    const mr11 = -m01 * rs + m11 * rc;
    for (let i = 0; i < 3; i++) {
      const gx = shapes[at + 2 * i];
      const gy = shapes[at + 2 * i + 1];
      const rank = 2 * system.rank[chart.triangles[3 * t + i]];
      system.right[rank] += area * (gx * mr00 + gy * mr01);
      system.right[rank + 1] += area * (gx * mr10 + gy * mr11);
      for (let k = 0; k < 3; k++) {
        const dot =
          area * (gx * shapes[at + 2 * k] + gy * shapes[at + 2 * k + 1]);
        system.add(t, i, k, dot * m00, dot * m01, dot * m01, dot * m11);
      }
    }
  }
  // A weak hold on the present place: keeps the system definite and the step bounded.
  const hold =
    1e-5 / Math.max(1, chart.vertexCount) + (1e-9 * 1) / Math.max(total, 1e-12);
  for (let v = 0; v < chart.vertexCount; v++)
    system.pin(v, hold, uv[2 * v], uv[2 * v + 1]);
}

/** Square of the weight that makes the proxy's gradient that of s² + s⁻² (Rabinovich et al. 2017, table 1). */
function weightOf(s: number): number {
  if (Math.abs(s - 1) < 1e-4) return 4;
  return Math.min(1e6, (s - 1 / (s * s * s)) / (s - 1));
}

/** The step along the directions at which the first triangle loses its area (Smith and Schaefer 2015). */
function largestStep(
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

function judge(chart: Chart, shapes: Float64Array, uv: Float64Array) {
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

/** Whether the border of the laid out chart crosses or touches itself: then islands would overlap themselves. */
export function crossesItself(chart: Chart, uv: Float64Array): boolean {
  const segments: number[] = [];
  for (const loop of chart.loops)
    for (let i = 0; i < loop.length; i++)
      segments.push(loop[i], loop[(i + 1) % loop.length]);
  const count = segments.length / 2;
  let minX = Infinity;
  let minY = Infinity;
  let length = 0;
  for (let s = 0; s < count; s++) {
    const a = 2 * segments[2 * s];
    const b = 2 * segments[2 * s + 1];
    minX = Math.min(minX, uv[a]);
    minY = Math.min(minY, uv[a + 1]);
    length += Math.hypot(uv[a] - uv[b], uv[a + 1] - uv[b + 1]);
  }
  const cell = Math.max(1e-9, (2 * length) / count);
  const grid = new Map<number, number[]>();
  for (let s = 0; s < count; s++) {
    const a = 2 * segments[2 * s];
    const b = 2 * segments[2 * s + 1];
    const x0 = Math.floor((Math.min(uv[a], uv[b]) - minX) / cell);
    const x1 = Math.floor((Math.max(uv[a], uv[b]) - minX) / cell);
    const y0 = Math.floor((Math.min(uv[a + 1], uv[b + 1]) - minY) / cell);
    const y1 = Math.floor((Math.max(uv[a + 1], uv[b + 1]) - minY) / cell);
    for (let x = x0; x <= x1; x++)
      for (let y = y0; y <= y1; y++) {
        const key = x * 65536 + y;
        const there = grid.get(key);
        if (!there) grid.set(key, [s]);
        else {
          for (const other of there)
            if (crosses(segments, uv, s, other)) return true;
          there.push(s);
        }
      }
  }
  return false;
}

function crosses(
  segments: number[],
  uv: Float64Array,
  s: number,
  o: number,
): boolean {
  const a = segments[2 * s];
  const b = segments[2 * s + 1];
  const c = segments[2 * o];
  const d = segments[2 * o + 1];
  if (a === c || a === d || b === c || b === d) return false;
  const side = (p: number, q: number, r: number) =>
    (uv[2 * q] - uv[2 * p]) * (uv[2 * r + 1] - uv[2 * p + 1]) -
    (uv[2 * q + 1] - uv[2 * p + 1]) * (uv[2 * r] - uv[2 * p]);
  return (
    side(a, b, c) * side(a, b, d) <= 0 && side(c, d, a) * side(c, d, b) <= 0
  );
}
