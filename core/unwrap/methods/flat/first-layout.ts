import type { Chart } from "../chart";
import { dissectionOrder, SparseSolver } from "../sparse";
import type { BlockSystem } from "./block-system";
import { neighboursOf } from "./block-system";
import { PER_TRIANGLE } from "./shapes";

/**
 * Conformal energy ½ Σ A |J − (cofactor of J)|² with the two vertices farthest apart held by stiff pins.
 * @returns 2 × vertexCount of the chart, metres
 */
export function conformal(
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

/**
 * Outer border on a circle, everything else in the middle of its neighbours: never folds (Tutte 1963), holes or not.
 * @returns 2 × vertexCount of the chart, metres
 */
export function tutte(chart: Chart): Float64Array | null {
  const [loop] = chart.loops;
  if (!loop || loop.length < 3) return null;
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
