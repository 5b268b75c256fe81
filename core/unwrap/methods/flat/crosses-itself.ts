import type { Chart } from "../chart";

/**
 * Whether the border of the laid out chart crosses or touches itself, or a hole is turned over: then islands would
 * overlap themselves.
 * @param uv 2 × vertexCount of the chart, metres
 */
export function crossesItself(chart: Chart, uv: Float64Array): boolean {
  if (chart.loops.slice(1).some((hole) => isTurnedOver(hole, uv))) return true;
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

/** Borders run with the faces on their left: round a hole that is clockwise. */
function isTurnedOver(hole: readonly number[], uv: Float64Array): boolean {
  let area = 0;
  hole.forEach((a, i) => {
    const b = hole[(i + 1) % hole.length];
    area += uv[2 * a] * uv[2 * b + 1] - uv[2 * b] * uv[2 * a + 1];
  });
  return area > 0;
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
  const length = (p: number, q: number) =>
    Math.hypot(uv[2 * p] - uv[2 * q], uv[2 * p + 1] - uv[2 * q + 1]);
  // Segments of one straight border lie in line without crossing: what is off by rounding alone counts as 0.
  const slight = NEARLY * length(a, b) * length(c, d);
  const side = (p: number, q: number, r: number) => {
    const area =
      (uv[2 * q] - uv[2 * p]) * (uv[2 * r + 1] - uv[2 * p + 1]) -
      (uv[2 * q + 1] - uv[2 * p + 1]) * (uv[2 * r] - uv[2 * p]);
    return Math.abs(area) <= slight ? 0 : Math.sign(area);
  };
  const [c1, d1, a1, b1] = [
    side(a, b, c),
    side(a, b, d),
    side(c, d, a),
    side(c, d, b),
  ];
  if (c1 * d1 > 0 || a1 * b1 > 0) return false;
  if (c1 || d1 || a1 || b1) return c1 * d1 < 0 || a1 * b1 < 0;
  const along = (v: number) =>
    (uv[2 * v] - uv[2 * a]) * (uv[2 * b] - uv[2 * a]) +
    (uv[2 * v + 1] - uv[2 * a + 1]) * (uv[2 * b + 1] - uv[2 * a + 1]);
  const [from, to] = [
    Math.min(along(c), along(d)),
    Math.max(along(c), along(d)),
  ];
  return from < along(b) * (1 - 1e-9) && to > along(b) * 1e-9;
}

/** Areas below this share of both lengths are none. */
const NEARLY = 1e-9;
