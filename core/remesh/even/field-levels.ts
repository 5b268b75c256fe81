import type { WorkMesh } from "./work-mesh";

export const ROUNDS = 6;

const FEWEST = 40;

/** One level of the hierarchy: half as many vertices as the one below. */
export interface Level {
  p: Float64Array;
  n: Float64Array;
  starts: Uint32Array;
  links: Uint32Array;
  weights: Float64Array;
  /** Of each vertex of the level below, the vertex here. */
  from: Uint32Array | null;
  bound: Uint8Array;
  along: Float64Array;
  metric: Float64Array;
  pull: Float64Array;
  q: Float64Array;
  o: Float64Array;
}

/**
 * The levels of a work mesh, each with about half the vertices of the one before.
 * @param guides 3 × vertexCount unit vectors, zero for none
 */
export function hierarchy(
  mesh: WorkMesh,
  guides: Float64Array | null,
): Level[] {
  const count = mesh.positions.length / 3;
  const along = mesh.along.slice();
  const bound = mesh.bound.slice();
  // A guide binds the direction, as a line does, but not the place: it is told apart by 3.
  if (guides)
    for (let v = 0; v < count; v++)
      if (
        !bound[v] &&
        (guides[3 * v] || guides[3 * v + 1] || guides[3 * v + 2])
      ) {
        bound[v] = 3;
        for (let k = 0; k < 3; k++) along[3 * v + k] = guides[3 * v + k];
      }
  const first: Level = {
    p: mesh.positions,
    n: mesh.normals,
    starts: mesh.starts,
    links: mesh.links,
    weights: new Float64Array(count).fill(1),
    from: null,
    bound,
    along,
    metric: mesh.metric,
    pull: mesh.pull,
    q: new Float64Array(3 * count),
    o: mesh.positions.slice(),
  };
  begin(first);
  const levels = [first];
  while (levels.at(-1)!.weights.length > FEWEST) {
    const next = coarser(levels.at(-1)!);
    if (!next) break;
    begin(next);
    levels.push(next);
  }
  return levels;
}

/** First directions: the line's where there is one, else some tangent. */
function begin({ n, q, bound, along, p, o }: Level): void {
  for (let v = 0; v < q.length; v += 3) {
    if (bound[v / 3] === 1 || bound[v / 3] === 3)
      for (let k = 0; k < 3; k++) q[v + k] = along[v + k];
    else {
      const flat = Math.abs(n[v]) < 0.8;
      q[v] = flat ? 1 : 0;
      q[v + 1] = flat ? 0 : 1;
      q[v + 2] = 0;
    }
    project(q, v, n);
    for (let k = 0; k < 3; k++) o[v + k] = p[v + k];
  }
}

function project(q: Float64Array, v: number, n: Float64Array): void {
  const d = q[v] * n[v] + q[v + 1] * n[v + 1] + q[v + 2] * n[v + 2];
  for (let k = 0; k < 3; k++) q[v + k] -= d * n[v + k];
  const size = Math.sqrt(q[v] ** 2 + q[v + 1] ** 2 + q[v + 2] ** 2);
  if (size > 1e-12) for (let k = 0; k < 3; k++) q[v + k] /= size;
}

/** Joins vertices two by two along edges whose normals agree best. */
function coarser(level: Level): Level | null {
  const count = level.weights.length;
  const { n, starts, links, weights } = level;
  const order: [number, number, number][] = [];
  for (let v = 0; v < count; v++)
    for (let i = starts[v]; i < starts[v + 1]; i++) {
      const w = links[i];
      if (w <= v) continue;
      const agree =
        n[3 * v] * n[3 * w] +
        n[3 * v + 1] * n[3 * w + 1] +
        n[3 * v + 2] * n[3 * w + 2];
      const lighter =
        Math.min(weights[v], weights[w]) / Math.max(weights[v], weights[w]);
      order.push([agree * lighter, v, w]);
    }
  order.sort((a, b) => b[0] - a[0] || a[1] - b[1] || a[2] - b[2]);
  const from = new Int32Array(count).fill(-1);
  let made = 0;
  for (const [, v, w] of order)
    if (from[v] < 0 && from[w] < 0) from[v] = from[w] = made++;
  for (let v = 0; v < count; v++) if (from[v] < 0) from[v] = made++;
  if (made > 0.9 * count) return null;
  const next: Level = {
    p: new Float64Array(3 * made),
    n: new Float64Array(3 * made),
    starts: new Uint32Array(made + 1),
    links: new Uint32Array(0),
    weights: new Float64Array(made),
    from: Uint32Array.from(from),
    bound: new Uint8Array(made),
    along: new Float64Array(3 * made),
    metric: new Float64Array(6 * made),
    pull: new Float64Array(3 * made),
    q: new Float64Array(3 * made),
    o: new Float64Array(3 * made),
  };
  for (let v = 0; v < count; v++) {
    const to = from[v];
    next.weights[to] += weights[v];
    for (let k = 0; k < 6; k++)
      next.metric[6 * to + k] += weights[v] * level.metric[6 * v + k];
    addPull(level.pull, 3 * v, weights[v], next.pull, 3 * to);
    for (let k = 0; k < 3; k++) {
      next.p[3 * to + k] += weights[v] * level.p[3 * v + k];
      next.n[3 * to + k] += weights[v] * n[3 * v + k];
    }
    // A direction that is bound stays bound; of a place only the direction is kept on coarse levels.
    if (level.bound[v] === 1 || level.bound[v] === 3) {
      next.bound[to] = 3;
      for (let k = 0; k < 3; k++)
        next.along[3 * to + k] = level.along[3 * v + k];
    }
  }
  for (let v = 0; v < made; v++) {
    for (let k = 0; k < 6; k++) next.metric[6 * v + k] /= next.weights[v];
    for (let k = 0; k < 3; k++) next.pull[3 * v + k] /= next.weights[v];
    for (let k = 0; k < 3; k++) next.p[3 * v + k] /= next.weights[v];
    const size =
      Math.hypot(next.n[3 * v], next.n[3 * v + 1], next.n[3 * v + 2]) || 1;
    for (let k = 0; k < 3; k++) next.n[3 * v + k] /= size;
  }
  const pairs = new Set<number>();
  for (let v = 0; v < count; v++)
    for (let i = starts[v]; i < starts[v + 1]; i++)
      if (from[v] !== from[links[i]])
        pairs.add(from[v] * made + from[links[i]]);
  const sorted = Float64Array.from(pairs).sort();
  next.links = new Uint32Array(sorted.length);
  sorted.forEach((key, i) => {
    next.starts[Math.floor(key / made) + 1]++;
    next.links[i] = key % made;
  });
  for (let v = 0; v < made; v++) next.starts[v + 1] += next.starts[v];
  return next;
}

/** Adds a direction to a sum of some, in the sense of the two that agrees with it. */
function addPull(
  from: Float64Array,
  i: number,
  weight: number,
  to: Float64Array,
  j: number,
): void {
  const agree =
    from[i] * to[j] + from[i + 1] * to[j + 1] + from[i + 2] * to[j + 2];
  const w = agree < 0 ? -weight : weight;
  for (let k = 0; k < 3; k++) to[j + k] += w * from[i + k];
}

/** Hands directions (q) or places (o) down to the finer level. */
export function spread(above: Level, below: Level, what: "q" | "o"): void {
  const from = above.from!;
  for (let v = 0; v < from.length; v++) {
    if (what === "q") {
      if (below.bound[v] === 1 || below.bound[v] === 3) continue;
      for (let k = 0; k < 3; k++) below.q[3 * v + k] = above.q[3 * from[v] + k];
      project(below.q, 3 * v, below.n);
    } else {
      for (let k = 0; k < 3; k++) below.o[3 * v + k] = above.o[3 * from[v] + k];
      ontoTangent(below, v);
    }
  }
}

/** Puts the lattice place of a vertex back into its tangent plane, onto its line, or onto itself. */
export function ontoTangent({ o, p, n, bound, along }: Level, v: number): void {
  const at = 3 * v;
  let d = 0;
  if (bound[v] === 2) for (let k = 0; k < 3; k++) o[at + k] = p[at + k];
  else if (bound[v] === 1) {
    for (let k = 0; k < 3; k++) d += along[at + k] * (o[at + k] - p[at + k]);
    for (let k = 0; k < 3; k++) o[at + k] = p[at + k] + d * along[at + k];
  } else {
    for (let k = 0; k < 3; k++) d += n[at + k] * (o[at + k] - p[at + k]);
    for (let k = 0; k < 3; k++) o[at + k] -= d * n[at + k];
  }
}

/** Directions and lattice points of a quad mesh to be, by vertex. */
export interface Fields {
  /** 3 × vertexCount, unit length in the tangent plane; as good as its quarter turns. */
  q: Float64Array;
  /** 3 × vertexCount: a lattice point near the vertex; as good as all others a whole step away. */
  o: Float64Array;
}
