import type { UnwrapMesh } from "./unwrap-mesh";
import { buildChart, lengthOfLoop } from "./chart";
import type { Chart } from "./chart";

/** A hole that is no longer round than this share of the outer border stays a hole: nothing has to be cut for it. */
const HOLE = 0.1;
/** A border this many times as long as the side of a square of the same area can be laid flat from. */
const OUTER = 2;

/**
 * Cuts a set of faces open until it is a disc, small holes aside: the shortest paths join its border loops, a closed
 * body is slit between two places far apart. Paths take what costs least (seams/edge-costs.ts).
 * @param cuts edges that are cut already; those found are added
 * @returns the disc, or null where handles are left (the caller splits the faces instead)
 * @param label faceCount: what belongs to the chart has `own` there
 */
export function cutToDisc(
  m: UnwrapMesh,
  faces: number[],
  label: Int32Array,
  own: number,
  cuts = new Set<number>(),
): { chart: Chart; cuts: Set<number> } | null {
  for (let tries = 0; tries < 24; tries++) {
    const chart = buildChart(m, faces, label, own, (e) => cuts.has(e));
    const { loops, euler } = chart;
    const inTheWay = loopsToJoin(m, chart);
    if (loops.length && !inTheWay.length)
      return euler === 2 - loops.length ? { chart, cuts } : null;
    if (!loops.length && euler !== 2) return null;
    const path = loops.length
      ? joinLoops(m, chart, cuts, inTheWay)
      : slit(m, chart);
    if (!path.length) return null;
    for (const e of path) cuts.add(e);
  }
  return null;
}

/** Edges inside the chart by mesh vertex: [other vertex, edge, cost]. */
function innerGraph(m: UnwrapMesh, chart: Chart, cuts: Set<number>) {
  const graph = new Map<number, [number, number, number][]>();
  const inside = new Set(chart.faces);
  const link = (a: number, b: number, e: number, cost: number) => {
    const there = graph.get(a);
    if (there) there.push([b, e, cost]);
    else graph.set(a, [[b, e, cost]]);
  };
  for (const c of chart.corners) {
    const e = m.edges.ofCorner[c];
    if (!m.joins[e] || m.edges.first[e] !== c || cuts.has(e)) continue;
    if (!inside.has(m.faceOfCorner[m.edges.second[e]])) continue;
    const a = m.edges.vertices[2 * e];
    const b = m.edges.vertices[2 * e + 1];
    const cost = m.costs[e];
    link(a, b, e, cost);
    link(b, a, e, cost);
  }
  return graph;
}

function dijkstra(
  graph: Map<number, [number, number, number][]>,
  from: Iterable<number>,
  goal: ((v: number) => boolean) | null,
) {
  const distance = new Map<number, number>();
  const via = new Map<number, [number, number]>();
  const heap: [number, number][] = [];
  for (const v of from) {
    distance.set(v, 0);
    push(heap, [0, v]);
  }
  let last = -1;
  const done = new Set<number>();
  while (heap.length) {
    const [d, v] = pop(heap);
    if (done.has(v)) continue;
    done.add(v);
    last = v;
    if (goal?.(v)) return { via, last, found: true };
    for (const [w, e, cost] of graph.get(v) ?? []) {
      const to = d + cost;
      if (to < (distance.get(w) ?? Infinity)) {
        distance.set(w, to);
        via.set(w, [v, e]);
        push(heap, [to, w]);
      }
    }
  }
  return { via, last, found: false };
}

function walkBack(via: Map<number, [number, number]>, to: number): number[] {
  const path: number[] = [];
  for (let at = via.get(to); at; at = via.get(at[0])) path.push(at[1]);
  return path;
}

/** Loops beside the longest one that are no small holes in what it bounds. */
function loopsToJoin(m: UnwrapMesh, chart: Chart): number[][] {
  const [outer, ...others] = chart.loops;
  if (!others.length) return [];
  const length = lengthOfLoop(chart, outer);
  const area = chart.faces.reduce((sum, f) => sum + m.areas[f], 0);
  return length < OUTER * Math.sqrt(area)
    ? others
    : others.filter((loop) => lengthOfLoop(chart, loop) > HOLE * length);
}

/**
 * Edges that join border loops to the longest one: from there to whichever is nearest, from both of them to the next,
 * and so on (Prim 1957, over shortest paths).
 */
function joinLoops(
  m: UnwrapMesh,
  chart: Chart,
  cuts: Set<number>,
  loops: readonly number[][],
): number[] {
  const meshVertex = new Map<number, number>();
  chart.corners.forEach((c, i) =>
    meshVertex.set(chart.vertexOfCorner[i], m.mesh.corners[c]),
  );
  const [start, ...others] = [chart.loops[0], ...loops].map(
    (loop) => new Set(loop.map((v) => meshVertex.get(v)!)),
  );
  const loopAt = new Map<number, Set<number>>();
  for (const set of others)
    for (const v of set) if (!start.has(v)) loopAt.set(v, set);
  const graph = innerGraph(m, chart, cuts);
  const path: number[] = [];
  const from = new Set(start);
  while (loopAt.size) {
    const { via, last, found } = dijkstra(graph, from, (v) => loopAt.has(v));
    if (!found) break;
    path.push(...walkBack(via, last));
    for (let at = via.get(last); at; at = via.get(at[0])) from.add(at[0]);
    for (const v of loopAt.get(last)!) {
      from.add(v);
      loopAt.delete(v);
    }
  }
  return path;
}

/**
 * Cuts from the border of a disc to one of its vertices, so that what is round there can open.
 * @returns edges of the path, none where the vertex lies on the border
 */
export function dartTo(
  m: UnwrapMesh,
  chart: Chart,
  cuts: Set<number>,
  vertex: number,
): number[] {
  const meshVertex = new Int32Array(chart.vertexCount);
  chart.corners.forEach((c, i) => {
    meshVertex[chart.vertexOfCorner[i]] = m.mesh.corners[c];
  });
  const border = new Set(chart.loops.flat().map((v) => meshVertex[v]));
  if (border.has(meshVertex[vertex])) return [];
  const { via, last, found } = dijkstra(
    innerGraph(m, chart, cuts),
    [meshVertex[vertex]],
    (v) => border.has(v),
  );
  return found ? walkBack(via, last) : [];
}

function slit(m: UnwrapMesh, chart: Chart): number[] {
  const graph = innerGraph(m, chart, new Set());
  const [any] = graph.keys();
  const a = dijkstra(graph, [any], null).last;
  const { via, last } = dijkstra(graph, [a], null);
  return walkBack(via, last);
}

/** A binary heap of [key, value], smallest key first, equal keys by value. */
export function push(heap: [number, number][], entry: [number, number]): void {
  let i = heap.push(entry) - 1;
  while (i > 0) {
    const up = (i - 1) >> 1;
    if (!before(heap[i], heap[up])) break;
    [heap[i], heap[up]] = [heap[up], heap[i]];
    i = up;
  }
}

/** Takes the entry of the lowest cost from a binary heap. */
export function pop(heap: [number, number][]): [number, number] {
  const top = heap[0];
  const last = heap.pop()!;
  if (!heap.length) return top;
  heap[0] = last;
  for (let i = 0; ;) {
    let low = i;
    for (let k = 2 * i + 1; k <= 2 * i + 2 && k < heap.length; k++)
      if (before(heap[k], heap[low])) low = k;
    if (low === i) return top;
    [heap[i], heap[low]] = [heap[low], heap[i]];
    i = low;
  }
}

const before = (a: [number, number], b: [number, number]) =>
  a[0] < b[0] || (a[0] === b[0] && a[1] < b[1]);
