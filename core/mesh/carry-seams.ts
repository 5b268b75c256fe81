import type { Edges } from "./edges";
import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { vertexCount } from "./mesh";
import { VertexGrid } from "./vertex-grid";

/** How much dearer an edge is that strays from the line by its own length. */
const STRAY = 6;
/** Steps of the line, in edges of the new mesh, after which it has to be met again. */
const STRIDE = 3;

/**
 * Carries lines of edges from one mesh to another that has the same shape: lines part where more or fewer than two
 * edges meet, their ends go to the nearest vertices, and between them the shortest path near the line is taken
 * (Dijkstra 1959, over edges weighed by how far they stray).
 * @param marks cornerCount of `from`: value of the edge that leaves each corner, 0 for none
 * @returns cornerCount of `to`, the same
 */
export function carrySeams(
  from: Mesh,
  marks: ArrayLike<number>,
  to: Mesh,
): Uint8Array {
  const carried = new Uint8Array(to.corners.length);
  const values = [...new Set(Array.from(marks))].filter((value) => value > 0);
  if (!values.length || !to.corners.length) return carried;
  const edges = buildEdges(to);
  const grid = new VertexGrid(to.positions);
  const links = linksOf(to, edges);
  const step = meanLength(to, edges);
  // What is wanted least, at the ends of lines that meet, is drawn over by what is wanted most.
  for (const value of values.sort((a, b) => b - a))
    for (const line of linesOf(from, marks, value))
      for (const e of pathAlong(to.positions, edges, links, grid, line, step)) {
        carried[edges.first[e]] = value;
        if (edges.second[e] >= 0) carried[edges.second[e]] = value;
      }
  return carried;
}

/** A line of points, 3 numbers each; the last is the first again where it is closed. */
type Line = Float64Array;

function linesOf(mesh: Mesh, marks: ArrayLike<number>, value: number): Line[] {
  const edges = buildEdges(mesh);
  const at = new Map<number, number[]>();
  for (let e = 0; e < edges.count; e++) {
    if (marks[edges.first[e]] !== value) continue;
    for (const v of [edges.vertices[2 * e], edges.vertices[2 * e + 1]])
      at.set(v, [...(at.get(v) ?? []), e]);
  }
  const seen = new Set<number>();
  const lines: Line[] = [];
  const walk = (start: number, first: number) => {
    const points = [start];
    let v = start;
    for (let e = first; ;) {
      seen.add(e);
      v =
        edges.vertices[2 * e] === v
          ? edges.vertices[2 * e + 1]
          : edges.vertices[2 * e];
      points.push(v);
      const next: number[] =
        at.get(v)!.length === 2 ? at.get(v)!.filter((o) => !seen.has(o)) : [];
      if (!next.length || v === start) break;
      [e] = next;
    }
    lines.push(
      Float64Array.from(
        points.flatMap((p) => [...mesh.positions.subarray(3 * p, 3 * p + 3)]),
      ),
    );
  };
  for (const [v, list] of at)
    if (list.length !== 2) for (const e of list) if (!seen.has(e)) walk(v, e);
  for (const [v, list] of at)
    for (const e of list) if (!seen.has(e)) walk(v, e);
  return lines;
}

function linksOf(mesh: Mesh, edges: Edges) {
  const starts = new Uint32Array(vertexCount(mesh) + 1);
  for (let i = 0; i < 2 * edges.count; i++) starts[edges.vertices[i] + 1]++;
  for (let v = 1; v < starts.length; v++) starts[v] += starts[v - 1];
  const list = new Uint32Array(2 * edges.count);
  const at = starts.slice();
  for (let e = 0; e < edges.count; e++)
    for (let k = 0; k < 2; k++) list[at[edges.vertices[2 * e + k]]++] = e;
  return { starts, list };
}

function meanLength({ positions: p }: Mesh, edges: Edges): number {
  let sum = 0;
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
    sum += Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]);
  }
  return sum / Math.max(1, edges.count);
}

/** The edge between two vertices, or −1. */
function edgeBetween(
  { vertices }: Edges,
  { starts, list }: ReturnType<typeof linksOf>,
  a: number,
  b: number,
): number {
  for (let k = starts[a]; k < starts[a + 1]; k++)
    if (vertices[2 * list[k]] === b || vertices[2 * list[k] + 1] === b)
      return list[k];
  return -1;
}

/** Edges along a line: its own where the mesh has them, paths near it elsewhere. */
function pathAlong(
  p: Float32Array,
  edges: Edges,
  links: ReturnType<typeof linksOf>,
  grid: VertexGrid,
  line: Line,
  step: number,
): number[] {
  const count = line.length / 3;
  const near = Int32Array.from({ length: count }, (_, i) =>
    grid.nearest(line[3 * i], line[3 * i + 1], line[3 * i + 2]),
  );
  const isThere = (i: number) =>
    near[i] >= 0 &&
    [0, 1, 2].every((k) => p[3 * near[i] + k] === line[3 * i + k]);
  const path: number[] = [];
  let begin = 0;
  const follow = (end: number) => {
    if (end > begin) path.push(...pathNear(begin, end));
    begin = end;
  };
  const pathNear = (from: number, to: number) => {
    const stops: number[] = [];
    let run = Infinity;
    for (let i = from; i <= to; i++) {
      if (i > from)
        run += Math.hypot(
          line[3 * i] - line[3 * i - 3],
          line[3 * i + 1] - line[3 * i - 2],
          line[3 * i + 2] - line[3 * i - 1],
        );
      if (run < STRIDE * step && i < to) continue;
      run = 0;
      if (near[i] >= 0) stops.push(i);
    }
    return stops
      .slice(1)
      .flatMap((stop, s) =>
        shortest(
          p,
          edges,
          links,
          near[stops[s]],
          near[stop],
          line.subarray(3 * stops[s], 3 * stop + 3),
        ),
      );
  };
  for (let i = 0; i + 1 < count; i++) {
    if (!isThere(i) || !isThere(i + 1)) continue;
    const own = edgeBetween(edges, links, near[i], near[i + 1]);
    if (own < 0) continue;
    follow(i);
    path.push(own);
    begin = i + 1;
  }
  follow(count - 1);
  // Where a stop lay beside the line, the path goes there and back: such edges count twice and go.
  const times = new Map<number, number>();
  for (const e of path) times.set(e, (times.get(e) ?? 0) + 1);
  return [...times].flatMap(([e, n]) => (n % 2 ? [e] : []));
}

function shortest(
  p: Float32Array,
  { vertices }: Edges,
  { starts, list }: ReturnType<typeof linksOf>,
  from: number,
  to: number,
  line: Line,
): number[] {
  if (from === to) return [];
  const distance = new Map<number, number>([[from, 0]]);
  const via = new Map<number, number>();
  const done = new Set<number>();
  const open: [number, number][] = [[0, from]];
  while (open.length) {
    let low = 0;
    for (let i = 1; i < open.length; i++)
      if (
        open[i][0] < open[low][0] ||
        (open[i][0] === open[low][0] && open[i][1] < open[low][1])
      )
        low = i;
    const [d, v] = open[low];
    open[low] = open[open.length - 1];
    open.pop();
    if (done.has(v)) continue;
    done.add(v);
    if (v === to) break;
    for (let k = starts[v]; k < starts[v + 1]; k++) {
      const e = list[k];
      const w = vertices[2 * e] === v ? vertices[2 * e + 1] : vertices[2 * e];
      if (done.has(w)) continue;
      const length = Math.hypot(
        p[3 * v] - p[3 * w],
        p[3 * v + 1] - p[3 * w + 1],
        p[3 * v + 2] - p[3 * w + 2],
      );
      const off = offLine(line, p[3 * w], p[3 * w + 1], p[3 * w + 2]);
      const cost = d + length + STRAY * off;
      if (cost >= (distance.get(w) ?? Infinity)) continue;
      distance.set(w, cost);
      via.set(w, e);
      open.push([cost, w]);
    }
  }
  const path: number[] = [];
  for (let v = to; v !== from;) {
    const e = via.get(v);
    if (e === undefined) return [];
    path.push(e);
    v = vertices[2 * e] === v ? vertices[2 * e + 1] : vertices[2 * e];
  }
  return path;
}

/** Distance of a point from a line of points. */
function offLine(line: Line, x: number, y: number, z: number): number {
  let least = Infinity;
  for (let i = 0; i + 5 < line.length; i += 3) {
    const dx = line[i + 3] - line[i];
    const dy = line[i + 4] - line[i + 1];
    const dz = line[i + 5] - line[i + 2];
    const size = dx * dx + dy * dy + dz * dz;
    const t =
      size > 0
        ? Math.max(
            0,
            Math.min(
              1,
              ((x - line[i]) * dx +
                (y - line[i + 1]) * dy +
                (z - line[i + 2]) * dz) /
                size,
            ),
          )
        : 0;
    least = Math.min(
      least,
      (line[i] + t * dx - x) ** 2 +
        (line[i + 1] + t * dy - y) ** 2 +
        (line[i + 2] + t * dz - z) ** 2,
    );
  }
  return Math.sqrt(least);
}
