import TinyQueue from "tinyqueue";
import type { Edges } from "../../mesh/edges";
import { UnionFind } from "../../base/union-find";
import type { HalfEdges } from "./half-edges";
import { after, triangleOf } from "./half-edges";

/** Loops through one ball that are looked at, shortest first. */
const MOST_LOOPS = 12;

/**
 * Half-edges near the handles of a surface, two for each handle: edges that neither a tree over the vertices nor one
 * over the triangles needs (Erickson and Whittlesey 2005, "Greedy optimal homotopy and homology generators"). Each
 * hole at a border counts as a triangle of its own.
 */
export function edgesAtHandles(
  mesh: HalfEdges,
  edges: Edges,
): {
  halfEdges: number[];
  /** How many triangles hang together with one. */
  pieceSize: (triangle: number) => number;
} {
  const { vertices, triangles } = mesh;
  const { level, inTree } = spanVertices(edges, vertices);
  const sum = (e: number) =>
    level[edges.vertices[2 * e]] + level[edges.vertices[2 * e + 1]];
  const holes = new UnionFind(vertices);
  let most = 0;
  for (let e = 0; e < edges.count; e++) {
    most = Math.max(most, sum(e));
    if (edges.uses[e] === 1)
      holes.join(edges.vertices[2 * e], edges.vertices[2 * e + 1]);
  }
  // The farthest edges join triangles first, so that what is left over lies where ways round a handle meet again.
  const starts = new Uint32Array(most + 2);
  for (let e = 0; e < edges.count; e++) starts[most - sum(e) + 1]++;
  for (let i = 0; i <= most; i++) starts[i + 1] += starts[i];
  const order = new Uint32Array(edges.count);
  for (let e = 0; e < edges.count; e++) order[starts[most - sum(e)]++] = e;
  const joined = new UnionFind(triangles + vertices);
  const found: number[] = [];
  for (const e of order) {
    if (inTree[e] || edges.uses[e] > 2) continue;
    const own = joined.find(triangleOf(edges.first[e]));
    const other = joined.find(
      edges.uses[e] === 1
        ? triangles + holes.find(edges.vertices[2 * e])
        : triangleOf(edges.second[e]),
    );
    if (own !== other) joined.join(own, other);
    else if (mesh.opposite[edges.first[e]] >= 0) found.push(edges.first[e]);
  }
  const sizes = new Uint32Array(triangles + vertices);
  if (found.length) for (let t = 0; t < triangles; t++) sizes[joined.find(t)]++;
  return {
    halfEdges: found,
    pieceSize: (t) => sizes[joined.find(t)],
  };
}

/** How many edges each vertex is from the first of its component, and the edges on the ways there. */
function spanVertices({ count, vertices: ends }: Edges, vertices: number) {
  const starts = new Uint32Array(vertices + 1);
  for (let i = 0; i < 2 * count; i++) starts[ends[i] + 1]++;
  for (let v = 0; v < vertices; v++) starts[v + 1] += starts[v];
  const links = new Uint32Array(2 * count);
  const at = starts.slice(0, -1);
  for (let i = 0; i < 2 * count; i++) links[at[ends[i]]++] = i;
  const level = new Int32Array(vertices).fill(-1);
  const inTree = new Uint8Array(count);
  const queue = new Uint32Array(vertices);
  let tail = 0;
  let head = 0;
  for (let root = 0; root < vertices; root++) {
    if (level[root] >= 0) continue;
    level[root] = 0;
    queue[tail++] = root;
    while (head < tail) {
      const v = queue[head++];
      for (let i = starts[v]; i < starts[v + 1]; i++) {
        const w = ends[links[i] ^ 1];
        if (level[w] >= 0) continue;
        level[w] = level[v] + 1;
        inTree[links[i] >> 1] = 1;
        queue[tail++] = w;
      }
    }
  }
  return { level, inTree };
}

/** A loop of half-edges, each from where the one before ends. */
export interface Loop {
  halfEdges: number[];
  /** Metres. */
  length: number;
}

/** What lies within a distance of a vertex along the edges. */
interface Ball {
  away: Map<number, number>;
  /** The half-edge over which each vertex is reached; the middle has none. */
  via: Map<number, number>;
  triangles: Set<number>;
}

/**
 * The shortest loop found round a handle that lies wholly near a vertex: one that doesn't part what is near, so that
 * the loop through the handle is near as well.
 * @param reach metres along the edges
 * @param most triangles at the most that may be near; what has no more than those is no handle but a shape
 */
export function loopNear(
  mesh: HalfEdges,
  middle: number,
  reach: number,
  most: number,
): Loop | null {
  const first = shortestLoop(mesh, middle, reach, most);
  if (!first) return null;
  // From the far side of the loop there may be a shorter one.
  const far = mesh.origin[first.halfEdges[first.halfEdges.length >> 1]];
  const second = shortestLoop(mesh, far, reach, most);
  return second && second.length < first.length ? second : first;
}

function shortestLoop(
  mesh: HalfEdges,
  middle: number,
  reach: number,
  most: number,
): Loop | null {
  const ball = ballAround(mesh, middle, reach, most);
  if (!ball) return null;
  const loops = leftOver(mesh, ball)
    .map((h) => loopThrough(mesh, ball, h))
    .sort((a, b) => a.length - b.length || a.halfEdges[0] - b.halfEdges[0]);
  return (
    loops
      .slice(0, MOST_LOOPS)
      .find((loop) => loop.halfEdges.length > 2 && !parts(mesh, ball, loop)) ??
    null
  );
}

/** Null where more than so many triangles are near. */
function ballAround(
  mesh: HalfEdges,
  middle: number,
  reach: number,
  most: number,
): Ball | null {
  const away = new Map<number, number>([[middle, 0]]);
  const via = new Map<number, number>();
  const done = new Set<number>();
  const triangles = new Set<number>();
  const queue = new TinyQueue<[number, number]>(
    [[0, middle]],
    (a, b) => a[0] - b[0] || a[1] - b[1],
  );
  for (let top = queue.pop(); top; top = queue.pop()) {
    const [distance, v] = top;
    if (done.has(v)) continue;
    done.add(v);
    for (const h of mesh.around(v)) {
      const w = mesh.target(h);
      const third = mesh.target(after(h));
      if (done.has(w) && done.has(third)) triangles.add(triangleOf(h));
      const there = distance + mesh.length(h);
      if (there > reach || there >= (away.get(w) ?? Infinity)) continue;
      away.set(w, there);
      via.set(w, h);
      queue.push([there, w]);
    }
    if (triangles.size > most) return null;
  }
  return { away, via, triangles };
}

/** Half-edges within a ball that neither its tree nor one over its triangles and what is outside needs. */
function leftOver(mesh: HalfEdges, { away, via, triangles }: Ball): number[] {
  const order = [...triangles].flatMap((t) =>
    [3 * t, 3 * t + 1, 3 * t + 2].filter((h) => {
      const g = mesh.opposite[h];
      return g < h || !triangles.has(triangleOf(g));
    }),
  );
  const far = (h: number) =>
    away.get(mesh.origin[h])! + away.get(mesh.target(h))! + mesh.length(h);
  const weight = new Map(order.map((h) => [h, far(h)]));
  order.sort((g, h) => weight.get(h)! - weight.get(g)! || g - h);
  const number = new Map([...triangles].map((t, i) => [t, i + 1]));
  const joined = new UnionFind(triangles.size + 1);
  const inTree = (h: number) =>
    via.get(mesh.target(h)) === h ||
    (mesh.opposite[h] >= 0 && via.get(mesh.origin[h]) === mesh.opposite[h]);
  const found: number[] = [];
  for (const h of order) {
    if (inTree(h)) continue;
    const own = joined.find(number.get(triangleOf(h))!);
    const beyond = mesh.opposite[h];
    const other = joined.find(
      beyond < 0 ? 0 : (number.get(triangleOf(beyond)) ?? 0),
    );
    if (own !== other) joined.join(own, other);
    else if (beyond >= 0) found.push(h);
  }
  return found;
}

/** The way from the middle of the ball over a half-edge and back, without what both ways share. */
function loopThrough(mesh: HalfEdges, { via }: Ball, h: number): Loop {
  const wayTo = (v: number) => {
    const way: number[] = [];
    for (let g = via.get(v); g !== undefined; g = via.get(mesh.origin[g]))
      way.push(g);
    return way.reverse();
  };
  const there = wayTo(mesh.origin[h]);
  const back = wayTo(mesh.target(h));
  let shared = 0;
  while (shared < there.length && there[shared] === back[shared]) shared++;
  const halfEdges = [
    ...there.slice(shared),
    h,
    ...back
      .slice(shared)
      .reverse()
      .map((g) => mesh.opposite[g]),
  ];
  return {
    halfEdges,
    length: halfEdges.reduce((sum, g) => sum + mesh.length(g), 0),
  };
}

/** Whether a loop parts what lies within the ball into two. */
function parts(mesh: HalfEdges, { triangles }: Ball, loop: Loop): boolean {
  const wall = new Set(loop.halfEdges);
  const [first] = loop.halfEdges;
  const goal = triangleOf(mesh.opposite[first]);
  const seen = new Set([triangleOf(first)]);
  const stack = [...seen];
  while (stack.length) {
    const t = stack.pop()!;
    for (let h = 3 * t; h < 3 * t + 3; h++) {
      const g = mesh.opposite[h];
      const beyond = triangleOf(g);
      if (g < 0 || wall.has(h) || wall.has(g) || !triangles.has(beyond))
        continue;
      if (beyond === goal) return false;
      if (seen.has(beyond)) continue;
      seen.add(beyond);
      stack.push(beyond);
    }
  }
  return true;
}
