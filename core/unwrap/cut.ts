import type { UnwrapMesh } from "./chart";
import { buildChart } from "./chart";
import type { Chart } from "./chart";

/**
 * Cuts a set of faces open until it is a disc: the shortest paths join its border loops, a closed body is
 * slit between two places far apart. Paths prefer sharp and short edges.
 * @returns the disc, or null where handles are left (the caller splits the faces instead)
 */
export function cutToDisc(
  m: UnwrapMesh,
  faces: number[],
  label: Int32Array,
  own: number,
): { chart: Chart; cuts: Set<number> } | null {
  const cuts = new Set<number>();
  for (let tries = 0; tries < 24; tries++) {
    const chart = buildChart(m, faces, label, own, (e) => cuts.has(e));
    if (chart.euler === 1 && chart.loops.length === 1) return { chart, cuts };
    if (
      chart.loops.length === 1 ||
      (chart.loops.length === 0 && chart.euler !== 2)
    )
      return null;
    const path = chart.loops.length
      ? joinLoops(m, chart, cuts)
      : slit(m, chart);
    if (!path.length) return null;
    for (const e of path) cuts.add(e);
  }
  return null;
}

/** Length of an edge, less where it is sharp: seams hide in creases. */
function costOf(m: UnwrapMesh, e: number): number {
  const p = m.mesh.positions;
  const a = 3 * m.edges.vertices[2 * e];
  const b = 3 * m.edges.vertices[2 * e + 1];
  const length = Math.hypot(
    p[a] - p[b],
    p[a + 1] - p[b + 1],
    p[a + 2] - p[b + 2],
  );
  const f = 3 * m.faceOfCorner[m.edges.first[e]];
  const g = 3 * m.faceOfCorner[m.edges.second[e]];
  const n = m.normals;
  const dot = n[f] * n[g] + n[f + 1] * n[g + 1] + n[f + 2] * n[g + 2];
  return length * (0.4 + 0.6 * Math.max(0, dot));
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
    const cost = costOf(m, e);
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

function joinLoops(m: UnwrapMesh, chart: Chart, cuts: Set<number>): number[] {
  const meshVertex = new Map<number, number>();
  chart.corners.forEach((c, i) =>
    meshVertex.set(chart.vertexOfCorner[i], m.mesh.corners[c]),
  );
  const sets = chart.loops.map(
    (loop) => new Set(loop.map((v) => meshVertex.get(v)!)),
  );
  const [start] = [...sets].sort((a, b) => b.size - a.size);
  for (const set of sets)
    if (set !== start) for (const v of set) if (start.has(v)) set.delete(v);
  const others = new Set(
    sets.filter((set) => set !== start).flatMap((set) => [...set]),
  );
  const { via, last, found } = dijkstra(
    innerGraph(m, chart, cuts),
    start,
    (v) => others.has(v),
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
