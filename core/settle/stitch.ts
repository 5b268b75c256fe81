import { dot } from "../space/vector";
import type { Borders } from "./borders";
import { joinNearOnBorders, joinVertices } from "./join";
import type { Done, SettleWork } from "./work";

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

/** A vertex that is put into a border edge. */
interface Insert {
  vertex: number;
  /** 0 at the corner the edge leaves, 1 at the next. */
  share: number;
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
  const inserts = new Map<number, Insert[]>();
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
    const corner = borders.corners[chosen];
    const list = inserts.get(corner);
    if (list) list.push({ vertex: v, share });
    else inserts.set(corner, [{ vertex: v, share }]);
  });
  keepMatched(borders, target, inserts);
  splitAt(work, inserts, done);
  joinVertices(work, target, done);
}

/**
 * Leaves out what would stitch nothing: of the edges that an edge is split into at a vertex, and of those at a vertex
 * that is joined, one must run against a border edge, or a piece of one. Surfaces that only cross by chance have none.
 * @param target what vertices are joined with
 */
function keepMatched(
  borders: Borders,
  target: Uint32Array,
  inserts: Map<number, Insert[]>,
): void {
  const name = (a: number, b: number) => target[a] * target.length + target[b];
  for (let dropped = true; dropped;) {
    dropped = false;
    const runs = new Set<number>();
    const rows = new Map<number, number[]>();
    borders.corners.forEach((corner, e) => {
      const list = [...(inserts.get(corner) ?? [])];
      list.sort((x, y) => x.share - y.share || x.vertex - y.vertex);
      const row = [
        borders.ends[2 * e],
        ...list.map(({ vertex }) => vertex),
        borders.ends[2 * e + 1],
      ];
      rows.set(corner, row);
      for (let i = 0; i + 1 < row.length; i++)
        runs.add(name(row[i], row[i + 1]));
    });
    for (const [corner, list] of inserts) {
      const row = rows.get(corner)!;
      const matched = list.filter(({ vertex }) => {
        const i = row.indexOf(vertex);
        return (
          runs.has(name(vertex, row[i - 1])) ||
          runs.has(name(row[i + 1], vertex))
        );
      });
      if (matched.length === list.length) continue;
      dropped = true;
      if (matched.length) inserts.set(corner, matched);
      else inserts.delete(corner);
    }
    for (const v of borders.vertices) {
      if (target[v] === v) continue;
      const meets = [v, target[v]].some((at) =>
        borders.edgesAt(at).some((e) => {
          const row = rows.get(borders.corners[e])!;
          const [from, to] = row[0] === at ? row : row.slice(-2);
          return runs.has(name(to, from));
        }),
      );
      if (meets) continue;
      target[v] = v;
      dropped = true;
    }
  }
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
  inserts: ReadonlyMap<number, Insert[]>,
  done: Done,
): void {
  const wanted = new Map<number, [Insert[], Insert[], Insert[]]>();
  for (const [corner, list] of inserts) {
    const t = (corner / 3) | 0;
    if (!wanted.has(t)) wanted.set(t, [[], [], []]);
    wanted.get(t)![corner - 3 * t].push(...list);
  }
  const made: Parameters<SettleWork["add"]>[0][number][] = [];
  for (const [t, sides] of [...wanted].sort(([s], [u]) => s - u)) {
    const ring = ringOf(work, t, sides);
    const pieces = ring && clipRing(work, t, ring);
    if (!pieces) continue;
    for (const { vertex } of sides.flat()) done.note(work.positions, vertex);
    for (const [i, j, k] of pieces) {
      const follows = (x: number, y: number) =>
        y === (x + 1) % ring.length ? ring[x].edge : -1;
      made.push({
        vertices: [ring[i].vertex, ring[j].vertex, ring[k].vertex],
        corners: [ring[i].corner, ring[j].corner, ring[k].corner],
        edges: [follows(i, j), follows(j, k), follows(k, i)],
        face: work.faces[t],
      });
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

/** The outline of a triangle with what is put in; null where a vertex would be on it twice. */
function ringOf(
  work: SettleWork,
  t: number,
  sides: readonly Insert[][],
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
    for (const { vertex, share } of [...sides[k]].sort(
      (x, y) => x.share - y.share || x.vertex - y.vertex,
    ))
      ring.push({
        vertex,
        corner: work.cornerBetween(work.corners[c], work.corners[next], share),
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
      const n = crossOf(p, names, a, left[i], c);
      if (!(dot(n, normal) > 0)) continue;
      const inside = left.some(
        (x) =>
          x !== a &&
          x !== left[i] &&
          x !== c &&
          dot(crossOf(p, names, a, left[i], x), normal) >= 0 &&
          dot(crossOf(p, names, left[i], c, x), normal) >= 0 &&
          dot(crossOf(p, names, c, a, x), normal) >= 0,
      );
      if (inside) continue;
      const size = Math.hypot(n[0], n[1], n[2]);
      const sides =
        work.distance(names[a], names[left[i]]) ** 2 +
        work.distance(names[left[i]], names[c]) ** 2 +
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
