import { collapseEdge } from "./short-edges";
import type { Done, SettleWork } from "./work";

/** A triangle has no area where its height is below this share of its longest edge. */
const THIN = 1e-5;
const ROUNDS = 10;
/** Neighbours of what was dissolved that are looked at again. */
const MOST_AROUND = 32;

/**
 * Takes triangles without area out so that nothing opens: their longest edge is flipped into the triangle beyond,
 * or their shortest one collapsed; a triangle that hangs by one edge goes.
 */
export function dissolveNoArea(work: SettleWork, done: Done): void {
  const found: number[] = [];
  for (let t = 0; t < work.count; t++)
    if (work.alive[t] && longestEdge(work, t) >= 0) found.push(t);
  if (!found.length) return;
  let thin: ArrayLike<number> & Iterable<number> = found;
  work.link();
  const marked = new Uint8Array(work.count);
  for (let round = 0; round < ROUNDS && thin.length; round++) {
    const before = done.count;
    const again: number[] = [];
    for (const t of thin) {
      const k = work.alive[t] ? longestEdge(work, t) : -1;
      if (k < 0) continue;
      const apex = work.vertices[3 * t + ((k + 2) % 3)];
      // Whoever stands round its corners before it goes.
      for (let i = 0; i < 3; i++)
        markAround(work, work.vertices[3 * t + i], marked, again);
      if (dissolve(work, t, k)) done.note(work.positions, apex);
    }
    for (const t of again) marked[t] = 0;
    if (done.count === before) break;
    thin = Uint32Array.from(again).sort();
  }
}

/** Which edge of a triangle without area is its longest, or −1 for a triangle that has some. */
function longestEdge(
  { positions: p, vertices, spacing }: SettleWork,
  t: number,
): number {
  const a = 3 * vertices[3 * t];
  const b = 3 * vertices[3 * t + 1];
  const c = 3 * vertices[3 * t + 2];
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  const wx = vx - ux;
  const wy = vy - uy;
  const wz = vz - uz;
  const ab = ux * ux + uy * uy + uz * uz;
  const bc = wx * wx + wy * wy + wz * wz;
  const ca = vx * vx + vy * vy + vz * vz;
  const longest = Math.max(ab, bc, ca);
  const double =
    (uy * vz - uz * vy) ** 2 +
    (uz * vx - ux * vz) ** 2 +
    (ux * vy - uy * vx) ** 2;
  const k = longest === ab ? 0 : longest === bc ? 1 : 2;
  if (double <= (THIN * longest) ** 2) return k;
  // Far from the origin numbers have few digits left: less than half their spacing is no height.
  return double <= (0.5 * spacing) ** 2 * longest ? k : -1;
}

function dissolve(work: SettleWork, t: number, k: number): boolean {
  const { vertices } = work;
  const a = vertices[3 * t + k];
  const b = vertices[3 * t + ((k + 1) % 3)];
  const c = vertices[3 * t + ((k + 2) % 3)];
  const u = triangleAt(work, a, b, t);
  const hangs = triangleAt(work, b, c, t) < 0 && triangleAt(work, c, a, t) < 0;
  if (u < 0 || hangs) {
    work.drop(t);
    return true;
  }
  if (triangleAt(work, a, b, t, u) < 0) {
    let j = 0;
    while (vertices[3 * u + j] !== b) j++;
    const opposite = vertices[3 * u + ((j + 1) % 3)] === a;
    const d = vertices[3 * u + ((j + 2) % 3)];
    if (c === d) {
      work.drop(t);
      work.drop(u);
      return true;
    }
    if (
      opposite &&
      (longestEdge(work, u) < 0 || work.distance(c, d) < work.distance(a, b)) &&
      triangleAt(work, c, d) < 0
    ) {
      flip(work, t, k, u, j);
      return true;
    }
  }
  const nearer = work.distance(a, c) < work.distance(b, c) ? a : b;
  return collapseEdge(work, nearer, c) || collapseEdge(work, c, nearer);
}

/** Marks the triangles round a vertex, up to some dozens, and lists those that were not marked yet. */
function markAround(
  { firstCorner, nextCorner }: SettleWork,
  v: number,
  marked: Uint8Array,
  list: number[],
): void {
  let count = 0;
  for (
    let c = firstCorner[v];
    c >= 0 && count < MOST_AROUND;
    c = nextCorner[c]
  ) {
    const t = (c / 3) | 0;
    count++;
    if (marked[t]) continue;
    marked[t] = 1;
    list.push(t);
  }
}

/** The first triangle that stands and has both vertices, but for two of them; −1 where there is none. */
function triangleAt(
  { vertices, firstCorner, nextCorner, alive }: SettleWork,
  a: number,
  b: number,
  but = -1,
  nor = -1,
): number {
  for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) {
    const t = (c / 3) | 0;
    if (t === but || t === nor || !alive[t]) continue;
    const i = 3 * t;
    if (vertices[i] === b || vertices[i + 1] === b || vertices[i + 2] === b)
      return t;
  }
  return -1;
}

/** Gives the edge a–b of t, from its corner k, and of u, from its corner j, the other way: both lie in u's face. */
function flip(work: SettleWork, t: number, k: number, u: number, j: number) {
  const { vertices, corners, edges, faces } = work;
  const at = (s: number, i: number) => 3 * s + (i % 3);
  const [ta, tb, tc] = [at(t, k), at(t, k + 1), at(t, k + 2)];
  const [ub, ua, ud] = [at(u, j), at(u, j + 1), at(u, j + 2)];
  const [a, b, c, d] = [vertices[ta], vertices[tb], vertices[tc], vertices[ud]];
  const whole = work.distance(a, c) + work.distance(c, b);
  const share = whole > 0 ? work.distance(a, c) / whole : 0.5;
  const middle = work.cornerBetween(corners[ua], corners[ub], share);
  const around = {
    a: corners[ua],
    b: corners[ub],
    d: corners[ud],
    bc: edges[tb],
    ca: edges[tc],
    ad: edges[ua],
    db: edges[ud],
  };
  const put = (
    slot: number,
    vertex: number,
    corner: number,
    edge: number,
  ): void => {
    relink(work, slot, vertex);
    corners[slot] = corner;
    edges[slot] = edge;
  };
  put(at(t, 0), a, around.a, around.ad);
  put(at(t, 1), d, around.d, -1);
  put(at(t, 2), c, middle, around.ca);
  put(at(u, 0), d, around.d, around.db);
  put(at(u, 1), b, around.b, around.bc);
  put(at(u, 2), c, middle, -1);
  faces[t] = faces[u];
  work.touch();
}

/** Moves a corner from its vertex to another one. */
function relink(work: SettleWork, corner: number, vertex: number): void {
  const { vertices, firstCorner, nextCorner } = work;
  const old = vertices[corner];
  if (old === vertex) return;
  if (firstCorner[old] === corner) firstCorner[old] = nextCorner[corner];
  else {
    let c = firstCorner[old];
    while (nextCorner[c] !== corner) c = nextCorner[c];
    nextCorner[c] = nextCorner[corner];
  }
  vertices[corner] = vertex;
  nextCorner[corner] = firstCorner[vertex];
  firstCorner[vertex] = corner;
}
