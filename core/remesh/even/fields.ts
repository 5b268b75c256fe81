import { lengthAlong } from "./grading";
import type { WorkMesh } from "./work-mesh";

/** Directions and lattice points of a quad mesh to be, by vertex. */
export interface Fields {
  /** 3 × vertexCount, unit length in the tangent plane; as good as its quarter turns. */
  q: Float64Array;
  /** 3 × vertexCount: a lattice point near the vertex; as good as all others a whole step away. */
  o: Float64Array;
}

const ROUNDS = 6;
const FEWEST = 40;
/** How strongly a bend draws the directions, against all neighbours together. */
const PULL = 0.6;

/** One level of the hierarchy: half as many vertices as the one below. */
interface Level {
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
 * Fields of directions and of positions for an even quad mesh: smoothed from coarse to fine, each vertex towards
 * its neighbours up to quarter turns and whole steps (Jakob, Tarini, Panozzo, Sorkine-Hornung 2015, the extrinsic
 * measure). Vertices on lines keep the line's direction and stay on it.
 * @param step edge length of the quads, metres
 * @param guides directions the field is drawn to, 3 × vertexCount, zero where there is none
 */
export function quadFields(
  mesh: WorkMesh,
  step: number,
  guides: Float64Array | null,
  check: () => void,
): Fields {
  const levels = hierarchy(mesh, guides);
  for (let l = levels.length - 1; l >= 0; l--) {
    check();
    const level = levels[l];
    const above = levels[l + 1];
    if (above) spread(above, level, "q");
    for (let round = 0; round < ROUNDS * (above ? 1 : 4); round++) turn(level);
  }
  for (let l = levels.length - 1; l >= 0; l--) {
    check();
    const level = levels[l];
    const above = levels[l + 1];
    if (above) spread(above, level, "o");
    for (let round = 0; round < ROUNDS * (above ? 1 : 4); round++)
      shift(level, step);
  }
  return { q: levels[0].q, o: levels[0].o };
}

function hierarchy(mesh: WorkMesh, guides: Float64Array | null): Level[] {
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

function spread(above: Level, below: Level, what: "q" | "o"): void {
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

function ontoTangent({ o, p, n, bound, along }: Level, v: number): void {
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

const MATCH = { ax: 0, ay: 0, az: 0, bx: 0, by: 0, bz: 0 };

/** The quarter turns of two directions that agree best: of the first, and of the second with its sign. */
function match(
  qx: number,
  qy: number,
  qz: number,
  n: Float64Array,
  i: number,
  q: Float64Array,
  m: Float64Array,
  j: number,
): void {
  const tx = n[i + 1] * qz - n[i + 2] * qy;
  const ty = n[i + 2] * qx - n[i] * qz;
  const tz = n[i] * qy - n[i + 1] * qx;
  const rx = q[j];
  const ry = q[j + 1];
  const rz = q[j + 2];
  const sx = m[j + 1] * rz - m[j + 2] * ry;
  const sy = m[j + 2] * rx - m[j] * rz;
  const sz = m[j] * ry - m[j + 1] * rx;
  const d0 = qx * rx + qy * ry + qz * rz;
  const d1 = qx * sx + qy * sy + qz * sz;
  const d2 = tx * rx + ty * ry + tz * rz;
  const d3 = tx * sx + ty * sy + tz * sz;
  const a0 = Math.abs(d0);
  const a1 = Math.abs(d1);
  const a2 = Math.abs(d2);
  const a3 = Math.abs(d3);
  const first = Math.max(a0, a1) >= Math.max(a2, a3);
  MATCH.ax = first ? qx : tx;
  MATCH.ay = first ? qy : ty;
  MATCH.az = first ? qz : tz;
  const straight = first ? a0 >= a1 : a2 >= a3;
  const d = first ? (straight ? d0 : d1) : straight ? d2 : d3;
  const sign = d < 0 ? -1 : 1;
  MATCH.bx = sign * (straight ? rx : sx);
  MATCH.by = sign * (straight ? ry : sy);
  MATCH.bz = sign * (straight ? rz : sz);
}

const TANGENT = { x: 0, y: 0, z: 0 };

/** A direction laid into the tangent plane of a vertex, unit length, to TANGENT. */
function layFlat(
  x: number,
  y: number,
  z: number,
  n: Float64Array,
  i: number,
): void {
  const d = x * n[i] + y * n[i + 1] + z * n[i + 2];
  x -= d * n[i];
  y -= d * n[i + 1];
  z -= d * n[i + 2];
  const size = Math.sqrt(x * x + y * y + z * z);
  const by = size > 1e-12 ? size : 1;
  TANGENT.x = x / by;
  TANGENT.y = y / by;
  TANGENT.z = z / by;
}

/** One sweep over the directions. */
function turn({ q, n, starts, links, bound, pull }: Level): void {
  for (let v = 0; v < bound.length; v++) {
    if (bound[v] === 1 || bound[v] === 3) continue;
    const i = 3 * v;
    TANGENT.x = q[i];
    TANGENT.y = q[i + 1];
    TANGENT.z = q[i + 2];
    let weight = 0;
    for (let k = starts[v]; k < starts[v + 1]; k++) {
      const j = 3 * links[k];
      match(TANGENT.x, TANGENT.y, TANGENT.z, n, i, q, n, j);
      layFlat(
        MATCH.ax * weight + MATCH.bx,
        MATCH.ay * weight + MATCH.by,
        MATCH.az * weight + MATCH.bz,
        n,
        i,
      );
      weight++;
    }
    if (weight && (pull[i] || pull[i + 1] || pull[i + 2])) {
      match(TANGENT.x, TANGENT.y, TANGENT.z, n, i, pull, n, i);
      layFlat(
        MATCH.ax + PULL * MATCH.bx,
        MATCH.ay + PULL * MATCH.by,
        MATCH.az + PULL * MATCH.bz,
        n,
        i,
      );
    }
    q[i] = TANGENT.x;
    q[i + 1] = TANGENT.y;
    q[i + 2] = TANGENT.z;
  }
}

const NEAR = { x: 0, y: 0, z: 0, ox: 0, oy: 0, oz: 0, du: 0, dv: 0 };

/**
 * Of two lattices the pair of points near the middle between both vertices that lie closest together. The points
 * go to NEAR, and how many steps of the first one lie between its given point and the second's, to du and dv.
 */
function matchPlaces(
  level: Pick<Level, "p" | "n" | "o">,
  i: number,
  ox: number,
  oy: number,
  oz: number,
  j: number,
  along: number,
  across: number,
): void {
  const { p, n, o } = level;
  const { ax, ay, az, bx, by, bz } = MATCH;
  // The point in both tangent planes that is nearest to both vertices.
  const nn = n[i] * n[j] + n[i + 1] * n[j + 1] + n[i + 2] * n[j + 2];
  const ex = p[j] - p[i];
  const ey = p[j + 1] - p[i + 1];
  const ez = p[j + 2] - p[i + 2];
  const e0 = n[i] * ex + n[i + 1] * ey + n[i + 2] * ez;
  const e1 = n[j] * ex + n[j + 1] * ey + n[j + 2] * ez;
  const f = 1 / (1 - nn * nn + 1e-4);
  const l0 = 2 * f * (e0 + nn * e1);
  const l1 = -2 * f * (e1 + nn * e0);
  const mx = 0.5 * (p[i] + p[j]) - 0.25 * (n[i] * l0 + n[j] * l1);
  const my =
    0.5 * (p[i + 1] + p[j + 1]) - 0.25 * (n[i + 1] * l0 + n[j + 1] * l1);
  const mz =
    0.5 * (p[i + 2] + p[j + 2]) - 0.25 * (n[i + 2] * l0 + n[j + 2] * l1);
  const tx = n[i + 1] * az - n[i + 2] * ay;
  const ty = n[i + 2] * ax - n[i] * az;
  const tz = n[i] * ay - n[i + 1] * ax;
  const sx = n[j + 1] * bz - n[j + 2] * by;
  const sy = n[j + 2] * bx - n[j] * bz;
  const sz = n[j] * by - n[j + 1] * bx;
  const u0 = Math.floor(
    ((mx - ox) * ax + (my - oy) * ay + (mz - oz) * az) / along,
  );
  const v0 = Math.floor(
    ((mx - ox) * tx + (my - oy) * ty + (mz - oz) * tz) / across,
  );
  const u1 = Math.floor(
    ((mx - o[j]) * bx + (my - o[j + 1]) * by + (mz - o[j + 2]) * bz) / along,
  );
  const v1 = Math.floor(
    ((mx - o[j]) * sx + (my - o[j + 1]) * sy + (mz - o[j + 2]) * sz) / across,
  );
  let best = Infinity;
  for (let a = 0; a < 4; a++) {
    const ua = (u0 + (a & 1)) * along;
    const va = (v0 + (a >> 1)) * across;
    const x0 = ox + ua * ax + va * tx;
    const y0 = oy + ua * ay + va * ty;
    const z0 = oz + ua * az + va * tz;
    for (let b = 0; b < 4; b++) {
      const ub = (u1 + (b & 1)) * along;
      const vb = (v1 + (b >> 1)) * across;
      const x1 = o[j] + ub * bx + vb * sx;
      const y1 = o[j + 1] + ub * by + vb * sy;
      const z1 = o[j + 2] + ub * bz + vb * sz;
      const d = (x0 - x1) ** 2 + (y0 - y1) ** 2 + (z0 - z1) ** 2;
      if (d >= best) continue;
      best = d;
      NEAR.x = x0;
      NEAR.y = y0;
      NEAR.z = z0;
      NEAR.ox = x1;
      NEAR.oy = y1;
      NEAR.oz = z1;
      NEAR.du = u0 + (a & 1) - (u1 + (b & 1));
      NEAR.dv = v0 + (a >> 1) - (v1 + (b >> 1));
    }
  }
}

/** One sweep over the lattice points. */
function shift(level: Level, whole: number): void {
  const { q, n, p, o, starts, links, bound, metric } = level;
  for (let v = 0; v < bound.length; v++) {
    if (bound[v] === 2) continue;
    const i = 3 * v;
    const [ax, ay, az] = [q[i], q[i + 1], q[i + 2]];
    const tx = n[i + 1] * az - n[i + 2] * ay;
    const ty = n[i + 2] * ax - n[i] * az;
    const tz = n[i] * ay - n[i + 1] * ax;
    const stepA = whole * lengthAlong(metric, v, ax, ay, az);
    const stepT = whole * lengthAlong(metric, v, tx, ty, tz);
    let x = o[i];
    let y = o[i + 1];
    let z = o[i + 2];
    let weight = 0;
    for (let k = starts[v]; k < starts[v + 1]; k++) {
      const j = 3 * links[k];
      match(q[i], q[i + 1], q[i + 2], n, i, q, n, j);
      // Of the vertex' two directions the one that matched comes first.
      const first =
        Math.abs(MATCH.ax * ax + MATCH.ay * ay + MATCH.az * az) > 0.5;
      matchPlaces(
        level,
        i,
        x,
        y,
        z,
        j,
        first ? stepA : stepT,
        first ? stepT : stepA,
      );
      // Points on lines and corners weigh more: the lattice is to meet them.
      const w = bound[links[k]] === 2 ? 6 : bound[links[k]] === 1 ? 3 : 1;
      const f = 1 / (weight + w);
      x = f * (weight * NEAR.x + w * NEAR.ox);
      y = f * (weight * NEAR.y + w * NEAR.oy);
      z = f * (weight * NEAR.z + w * NEAR.oz);
      weight += w;
      const d =
        n[i] * (x - p[i]) +
        n[i + 1] * (y - p[i + 1]) +
        n[i + 2] * (z - p[i + 2]);
      x -= d * n[i];
      y -= d * n[i + 1];
      z -= d * n[i + 2];
    }
    // The lattice point nearest to the vertex.
    const du =
      stepA *
      Math.round(
        ((p[i] - x) * ax + (p[i + 1] - y) * ay + (p[i + 2] - z) * az) / stepA,
      );
    const dv =
      stepT *
      Math.round(
        ((p[i] - x) * tx + (p[i + 1] - y) * ty + (p[i + 2] - z) * tz) / stepT,
      );
    o[i] = x + du * ax + dv * tx;
    o[i + 1] = y + du * ay + dv * ty;
    o[i + 2] = z + du * az + dv * tz;
    if (bound[v] === 1) ontoTangent(level, v);
  }
}

/** How many steps two neighbours' lattice points lie apart, in both directions of the lattice. */
export function stepsBetween(
  mesh: WorkMesh,
  fields: Fields,
  a: number,
  b: number,
  whole: number,
): readonly [number, number] {
  const { q, o } = fields;
  const i = 3 * a;
  match(q[i], q[i + 1], q[i + 2], mesh.normals, i, q, mesh.normals, 3 * b);
  const { ax, ay, az, bx, by, bz } = MATCH;
  const n = mesh.normals;
  const j = 3 * b;
  const { metric } = mesh;
  const along =
    lengthAlong(metric, a, ax, ay, az) + lengthAlong(metric, b, bx, by, bz);
  const across =
    lengthAlong(
      metric,
      a,
      n[i + 1] * az - n[i + 2] * ay,
      n[i + 2] * ax - n[i] * az,
      n[i] * ay - n[i + 1] * ax,
    ) +
    lengthAlong(
      metric,
      b,
      n[j + 1] * bz - n[j + 2] * by,
      n[j + 2] * bx - n[j] * bz,
      n[j] * by - n[j + 1] * bx,
    );
  matchPlaces(
    { p: mesh.positions, n: mesh.normals, o },
    i,
    o[i],
    o[i + 1],
    o[i + 2],
    3 * b,
    0.5 * whole * along,
    0.5 * whole * across,
  );
  return [Math.abs(NEAR.du), Math.abs(NEAR.dv)];
}
