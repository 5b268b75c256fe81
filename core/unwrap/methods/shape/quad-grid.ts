import type { Mesh } from "../../../mesh/mesh";

/** Quads in rows and columns. */
export interface QuadGrid {
  /** Column and row of each corner, from 0. */
  at: Map<number, [number, number]>;
  /** Mean length of each column's and each row's edges, metres. */
  columns: number[];
  rows: number[];
}

/** Steps from a corner of a quad to the next, turned by quarters. */
const STEPS = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
] as const;

/**
 * Finds rows and columns of some faces whose UVs are joined: a strip, or a grid without holes.
 * @returns null where a face is no quad, where walking round comes to another place, or where the grid has gaps
 */
export function gridOf(mesh: Mesh, faces: readonly number[]): QuadGrid | null {
  const { faceStarts, corners, uvs } = mesh;
  const own = new Set(faces);
  const byEdge = new Map<string, number[]>();
  const point = (c: number) =>
    `${corners[c]} ${uvs![2 * c]} ${uvs![2 * c + 1]}`;
  const after = (f: number, c: number) =>
    c + 1 < faceStarts[f + 1] ? c + 1 : faceStarts[f];
  const edge = (f: number, c: number) =>
    [point(c), point(after(f, c))].sort().join("|");
  for (const f of faces) {
    if (faceStarts[f + 1] - faceStarts[f] !== 4) return null;
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++)
      byEdge.set(edge(f, c), [...(byEdge.get(edge(f, c)) ?? []), c]);
  }
  const at = new Map<number, [number, number]>();
  const faceOf = new Map<number, number>();
  for (const f of faces)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) faceOf.set(c, f);
  const waiting = [faces[0]];
  const placed = new Set(waiting);
  for (let k = 0; k < 4; k++) {
    const [x, y] =
      k === 0 ? [0, 0] : k === 1 ? [1, 0] : k === 2 ? [1, 1] : [0, 1];
    at.set(faceStarts[faces[0]] + k, [x, y]);
  }
  while (waiting.length) {
    const f = waiting.pop()!;
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      const d = byEdge.get(edge(f, c))!.find((each) => faceOf.get(each) !== f);
      if (d === undefined) continue;
      const g = faceOf.get(d)!;
      if (!own.has(g) || placed.has(g)) continue;
      placed.add(g);
      waiting.push(g);
      // The shared edge runs the other way in the neighbour, whose quad turns the same way round.
      const from = at.get(after(f, c))!;
      const to = at.get(c)!;
      let way = STEPS.findIndex(
        ([x, y]) => x === to[0] - from[0] && y === to[1] - from[1],
      );
      if (way < 0) return null;
      let corner = d;
      let [x, y] = from;
      for (let k = 0; k < 4; k++) {
        at.set(corner, [x, y]);
        x += STEPS[way][0];
        y += STEPS[way][1];
        way = (way + 1) % 4;
        corner = after(g, corner);
      }
    }
  }
  if (placed.size !== faces.length) return null;
  return measured(mesh, faces, at, point);
}

/** Checks that every place is taken once and by one point, and measures rows and columns. */
function measured(
  mesh: Mesh,
  faces: readonly number[],
  at: Map<number, [number, number]>,
  point: (corner: number) => string,
): QuadGrid | null {
  let low = [Infinity, Infinity];
  for (const [x, y] of at.values())
    low = [Math.min(low[0], x), Math.min(low[1], y)];
  const places = new Map<string, string>();
  let wide = 0;
  let high = 0;
  for (const [c, [x, y]] of at) {
    const place: [number, number] = [x - low[0], y - low[1]];
    at.set(c, place);
    wide = Math.max(wide, place[0]);
    high = Math.max(high, place[1]);
    const name = place.join(" ");
    const there = places.get(name);
    if (there !== undefined && there !== point(c)) return null;
    places.set(name, point(c));
  }
  if (wide * high !== faces.length) return null;
  const columns = new Float64Array(wide);
  const rows = new Float64Array(high);
  const { positions: p, corners, faceStarts } = mesh;
  for (const f of faces)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      const d = c + 1 < faceStarts[f + 1] ? c + 1 : faceStarts[f];
      const [a, b] = [at.get(c)!, at.get(d)!];
      const [v, w] = [3 * corners[c], 3 * corners[d]];
      const length = Math.hypot(
        p[v] - p[w],
        p[v + 1] - p[w + 1],
        p[v + 2] - p[w + 2],
      );
      // Every quad has two edges along its column and two along its row.
      if (a[1] === b[1]) columns[Math.min(a[0], b[0])] += length / (2 * high);
      else rows[Math.min(a[1], b[1])] += length / (2 * wide);
    }
  return { at, columns: [...columns], rows: [...rows] };
}
