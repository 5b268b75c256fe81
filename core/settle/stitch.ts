import { PairSet } from "../base/pair-set";
import { dot } from "../space/vector";
import type { Borders } from "./borders";
import { joinNearOnBorders, joinVertices } from "./join";
import type { Done, NewTriangles, SettleWork } from "./work";

/**
 * How far a border vertex may lie off a border edge that it is put into, as a share of that edge: where both
 * belong to one gap, and where they share nothing.
 */
const WITHIN_GAP = 0.15;
const ACROSS = 0.03;
/**
 * Border edges face each other where the cosine between them is below this: where both belong to one gap, and where
 * they share nothing and may only lie near each other by chance.
 */
const AGAINST = -0.3;
const AGAINST_ACROSS = -0.95;
/**
 * A vertex over the triangle at the edge faces it only within this share of the triangle's height: the far border of
 * a narrow strip lies farther in, and is no gap.
 */
const INWARD = 0.5;
/** No farther than so many times the border edges at the vertex. */
const OWN_EDGES = 4;
/** Nearer than this share of the shorter border edges there, two vertices are one. */
const SAME = 0.08;
const ROUNDS = 3;

/** Vertices that are put into border edges: those of edge e are at starts[e] … starts[e + 1], in order along it. */
interface Inserts {
  starts: Uint32Array;
  vertices: Uint32Array;
  /** How far along its edge each one is put: 0 at the corner the edge leaves, 1 at the next. */
  shares: Float64Array;
}

/**
 * Stitches patches that meet along a border with other vertices, and T-junctions: vertices of a border that lie on
 * a border edge of another triangle are put into that edge, those that nearly meet are joined.
 */
export function stitchBorders(work: SettleWork, done: Done): void {
  for (let round = 0; round < ROUNDS; round++) {
    const before = done.count;
    let borders = work.borders();
    if (!borders.corners.length) return;
    if (!round) {
      joinNearOnBorders(work, borders, done);
      if (done.count > before) borders = work.borders();
    }
    stitchOnce(work, borders, done);
    if (done.count === before) return;
  }
}

function stitchOnce(work: SettleWork, borders: Borders, done: Done): void {
  const target = new Uint32Array(work.positions.length / 3);
  for (let v = 0; v < target.length; v++) target[v] = v;
  const joined = new Set<number>();
  const edgeOf = new Int32Array(borders.vertices.length).fill(-1);
  const shareOf = new Float64Array(borders.vertices.length);
  const close: number[] = [];
  borders.vertices.forEach((v, i) => {
    const own = borders.mean[i];
    // No edge is so long that it faces a vertex from farther away.
    const far = Math.min(OWN_EDGES * own, WITHIN_GAP * borders.longest);
    borders.near(v, far, close);
    let best = Infinity;
    let chosen = -1;
    let share = 0;
    for (const e of close) {
      const found = facing(work, borders, v, own, e);
      if (!found || found.off >= best) continue;
      best = found.off;
      chosen = e;
      share = found.share;
    }
    if (chosen < 0) return;
    const end = borders.ends[2 * chosen + (share < 0.5 ? 0 : 1)];
    if (work.distance(v, end) <= SAME * Math.min(own, borders.meanAt(end))) {
      if (joined.has(v) || joined.has(end)) return;
      joined.add(v).add(end);
      target[Math.max(v, end)] = Math.min(v, end);
      return;
    }
    if (!(share > 0 && share < 1)) return;
    edgeOf[i] = chosen;
    shareOf[i] = share;
  });
  const wanted = insertsOf(borders, edgeOf, shareOf);
  splitAt(work, borders, keepMatched(borders, target, wanted), done);
  joinVertices(work, target, done);
}

/**
 * Gathers by edge what is put into it, in order along the edge.
 * @param edgeOf for each of the borders' vertices the edge it is put into, or −1
 * @param shareOf how far along that edge
 */
function insertsOf(
  borders: Borders,
  edgeOf: Int32Array,
  shareOf: Float64Array,
): Inserts {
  const starts = new Uint32Array(borders.corners.length + 1);
  for (const e of edgeOf) if (e >= 0) starts[e + 1]++;
  for (let e = 0; e + 1 < starts.length; e++) starts[e + 1] += starts[e];
  const total = starts[starts.length - 1];
  const vertices = new Uint32Array(total);
  const shares = new Float64Array(total);
  const filled = new Uint32Array(borders.corners.length);
  edgeOf.forEach((e, i) => {
    if (e < 0) return;
    let at = starts[e] + filled[e]++;
    for (; at > starts[e] && shares[at - 1] > shareOf[i]; at--) {
      shares[at] = shares[at - 1];
      vertices[at] = vertices[at - 1];
    }
    shares[at] = shareOf[i];
    vertices[at] = borders.vertices[i];
  });
  return { starts, vertices, shares };
}

/**
 * Leaves out what would stitch nothing: of the edges that an edge is split into at a vertex, and of those at a vertex
 * that is joined, one must run against a border edge, or a piece of one. Surfaces that only cross by chance have none.
 * @param target what vertices are joined with; changed
 */
function keepMatched(
  borders: Borders,
  target: Uint32Array,
  inserts: Inserts,
): Inserts {
  const { ends } = borders;
  for (;;) {
    const { starts, vertices } = inserts;
    const edges = starts.length - 1;
    /** What stands on an edge before or behind place i of what is put into it. */
    const at = (e: number, i: number) =>
      i < starts[e]
        ? ends[2 * e]
        : i < starts[e + 1]
          ? vertices[i]
          : ends[2 * e + 1];
    const runs = new PairSet(edges + vertices.length);
    for (let e = 0; e < edges; e++)
      for (let i = starts[e]; i <= starts[e + 1]; i++)
        runs.add(target[at(e, i - 1)], target[at(e, i)]);
    const against = (from: number, to: number) =>
      runs.has(target[to], target[from]);
    const kept = new Uint8Array(vertices.length);
    for (let e = 0; e < edges; e++)
      for (let i = starts[e]; i < starts[e + 1]; i++)
        if (
          against(at(e, i - 1), vertices[i]) ||
          against(vertices[i], at(e, i + 1))
        )
          kept[i] = 1;
    const meets = (v: number) =>
      borders
        .edgesAt(v)
        .some((e) =>
          ends[2 * e] === v
            ? against(v, at(e, starts[e]))
            : against(at(e, starts[e + 1] - 1), v),
        );
    let dropped = kept.includes(0);
    for (const v of borders.vertices) {
      if (target[v] === v || meets(v) || meets(target[v])) continue;
      target[v] = v;
      dropped = true;
    }
    if (!dropped) return inserts;
    inserts = onlyKept(inserts, kept);
  }
}

function onlyKept({ starts, vertices, shares }: Inserts, kept: Uint8Array) {
  const next = new Uint32Array(starts.length);
  for (let e = 0; e + 1 < starts.length; e++) {
    next[e + 1] = next[e];
    for (let i = starts[e]; i < starts[e + 1]; i++) next[e + 1] += kept[i];
  }
  return {
    starts: next,
    vertices: vertices.filter((_, i) => kept[i]),
    shares: shares.filter((_, i) => kept[i]),
  };
}

/** How far off a border edge a vertex lies, as a share of what is allowed, where the edge faces a border of its. */
function facing(
  work: SettleWork,
  borders: Borders,
  v: number,
  own: number,
  e: number,
): { off: number; share: number } | null {
  const { positions: p } = work;
  const { ends } = borders;
  const a = ends[2 * e];
  const b = ends[2 * e + 1];
  if (a === v || b === v) return null;
  const dx = p[3 * b] - p[3 * a];
  const dy = p[3 * b + 1] - p[3 * a + 1];
  const dz = p[3 * b + 2] - p[3 * a + 2];
  const length2 = dx * dx + dy * dy + dz * dz;
  if (!(length2 > 0)) return null;
  const x = p[3 * v] - p[3 * a];
  const y = p[3 * v + 1] - p[3 * a + 1];
  const z = p[3 * v + 2] - p[3 * a + 2];
  const share = (x * dx + y * dy + z * dz) / length2;
  const on = Math.min(1, Math.max(0, share));
  const ox = x - on * dx;
  const oy = y - on * dy;
  const oz = z - on * dz;
  const distance = Math.sqrt(ox * ox + oy * oy + oz * oz);
  const length = Math.sqrt(length2);
  if (!(distance <= WITHIN_GAP * length)) return null;
  const gap = borders.together(v, a);
  const allowed = Math.min(
    OWN_EDGES * own,
    length * (gap ? WITHIN_GAP : ACROSS),
  );
  if (!(distance <= allowed)) return null;
  const c = borders.corners[e];
  const third = 3 * work.vertices[c % 3 === 0 ? c + 2 : c - 1];
  const tx = p[third] - p[3 * a];
  const ty = p[third + 1] - p[3 * a + 1];
  const tz = p[third + 2] - p[3 * a + 2];
  const along = (tx * dx + ty * dy + tz * dz) / length2;
  const hx = tx - along * dx;
  const hy = ty - along * dy;
  const hz = tz - along * dz;
  const inward = ox * hx + oy * hy + oz * hz;
  if (inward > INWARD * (hx * hx + hy * hy + hz * hz)) return null;
  const against = (gap ? AGAINST : AGAINST_ACROSS) * length;
  for (const f of borders.edgesAt(v)) {
    const from = 3 * ends[2 * f];
    const to = 3 * ends[2 * f + 1];
    const gx = p[to] - p[from];
    const gy = p[to + 1] - p[from + 1];
    const gz = p[to + 2] - p[from + 2];
    const size = Math.sqrt(gx * gx + gy * gy + gz * gz);
    if (gx * dx + gy * dy + gz * dz < against * size)
      return { off: distance / allowed, share };
  }
  return null;
}

/** Puts vertices into edges: the triangle there becomes several. One that can't be split soundly stays whole. */
function splitAt(
  work: SettleWork,
  borders: Borders,
  inserts: Inserts,
  done: Done,
): void {
  const { starts, vertices } = inserts;
  const edgeAt = new Int32Array(work.vertices.length).fill(-1);
  borders.corners.forEach((c, e) => {
    if (starts[e + 1] > starts[e]) edgeAt[c] = e;
  });
  const made: NewTriangles = {
    vertices: [],
    corners: [],
    edges: [],
    faces: [],
  };
  for (let t = 0; 3 * t < edgeAt.length; t++) {
    const sides = edgeAt.subarray(3 * t, 3 * t + 3);
    if (sides[0] < 0 && sides[1] < 0 && sides[2] < 0) continue;
    const ring = ringOf(work, t, sides, inserts);
    const pieces = ring && clipRing(work, t, ring);
    if (!pieces) continue;
    for (const e of sides)
      for (let i = starts[e]; e >= 0 && i < starts[e + 1]; i++)
        done.note(work.positions, vertices[i]);
    for (const [i, j, k] of pieces) {
      const follows = (x: number, y: number) =>
        y === (x + 1) % ring.length ? ring[x].edge : -1;
      made.vertices.push(ring[i].vertex, ring[j].vertex, ring[k].vertex);
      made.corners.push(ring[i].corner, ring[j].corner, ring[k].corner);
      made.edges.push(follows(i, j), follows(j, k), follows(k, i));
      made.faces.push(work.faces[t]);
    }
    work.drop(t);
  }
  work.add(made);
}

interface RingCorner {
  vertex: number;
  corner: number;
  edge: number;
}

/**
 * The outline of a triangle with what is put in; null where a vertex would be on it twice.
 * @param sides the border edge from each corner, or −1
 */
function ringOf(
  work: SettleWork,
  t: number,
  sides: Int32Array,
  { starts, vertices, shares }: Inserts,
): RingCorner[] | null {
  const ring: RingCorner[] = [];
  for (let k = 0; k < 3; k++) {
    const c = 3 * t + k;
    const next = 3 * t + ((k + 1) % 3);
    ring.push({
      vertex: work.vertices[c],
      corner: work.corners[c],
      edge: work.edges[c],
    });
    const e = sides[k];
    for (let i = starts[e]; e >= 0 && i < starts[e + 1]; i++)
      ring.push({
        vertex: vertices[i],
        corner: work.cornerBetween(
          work.corners[c],
          work.corners[next],
          shares[i],
        ),
        edge: work.edges[c],
      });
  }
  return new Set(ring.map(({ vertex }) => vertex)).size === ring.length
    ? ring
    : null;
}

/** Cuts a ring into triangles that all face the way of triangle t, best ear first; null where that can't be. */
function clipRing(
  work: SettleWork,
  t: number,
  ring: readonly RingCorner[],
): [number, number, number][] | null {
  const p = work.positions;
  const normal = crossOf(p, work.vertices, 3 * t, 3 * t + 1, 3 * t + 2);
  const names = Uint32Array.from(ring, ({ vertex }) => vertex);
  const left = ring.map((_, i) => i);
  const found: [number, number, number][] = [];
  while (left.length > 2) {
    let best = 0;
    let at = -1;
    for (let i = 0; i < left.length; i++) {
      const a = left[(i + left.length - 1) % left.length];
      const c = left[(i + 1) % left.length];
      const b = left[i];
      const n = crossOf(p, names, a, b, c);
      if (!(dot(n, normal) > 0)) continue;
      const within = (x: number) =>
        x !== a &&
        x !== b &&
        x !== c &&
        dot(crossOf(p, names, a, b, x), normal) >= 0 &&
        dot(crossOf(p, names, b, c, x), normal) >= 0 &&
        dot(crossOf(p, names, c, a, x), normal) >= 0;
      if (left.length > 3 && left.some(within)) continue;
      const size = Math.hypot(n[0], n[1], n[2]);
      const sides =
        work.distance(names[a], names[b]) ** 2 +
        work.distance(names[b], names[c]) ** 2 +
        work.distance(names[c], names[a]) ** 2;
      if (size / sides <= best) continue;
      best = size / sides;
      at = i;
    }
    if (at < 0) return null;
    found.push([
      left[(at + left.length - 1) % left.length],
      left[at],
      left[(at + 1) % left.length],
    ]);
    left.splice(at, 1);
  }
  return found;
}

function crossOf(
  p: Float32Array,
  names: ArrayLike<number>,
  i: number,
  j: number,
  k: number,
) {
  const [a, b, c] = [3 * names[i], 3 * names[j], 3 * names[k]];
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}
