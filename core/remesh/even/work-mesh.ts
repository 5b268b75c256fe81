import { Collapser } from "../../decimate/collapse";
import type { Edges } from "../../mesh/edges";
import { buildEdges } from "../../mesh/edges";
import { hardAbove } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import { meshFromTriangles } from "../../mesh/change-faces";
import { gatherSoup } from "../../decimate/soup";
import { triangleArea } from "../../space/sample";

/** A triangle mesh fine enough to carry fields, with what lines bind it. */
export interface WorkMesh {
  /** 3 × vertexCount */
  positions: Float64Array;
  triangles: Uint32Array;
  /** 3 × vertexCount, unit length. */
  normals: Float64Array;
  /** Neighbours of vertex v: links[starts[v]] … links[starts[v + 1] − 1]. */
  starts: Uint32Array;
  links: Uint32Array;
  /** vertexCount: 0 free, 1 on a line (border, crease), 2 where lines end or meet. */
  bound: Uint8Array;
  /** 3 × vertexCount: direction of the line, where there is one. */
  along: Float64Array;
  /** 6 × vertexCount: how long edges are wanted, see `lengthAlong`. */
  metric: Float64Array;
  /** 3 × vertexCount: direction of the bend that quads are drawn to follow; its length, up to 1, is how strongly. */
  pull: Float64Array;
  area: number;
}

/** Edges that turn by more are creases the quads follow, degrees; lines shorter than this many edges do not count. */
const CREASE = 50;
const SHORTEST = 10;

/** Needles would be split into millions: no further once there are so many times the wanted triangles. */
const MOST_TIMES = 12;

/**
 * Brings a source to about the wanted number of even triangles: collapsed where it is denser, split where it is
 * coarser.
 * @param edge longest edge wanted, metres
 * @param wanted triangles to collapse to
 */
export function workMesh(
  source: Mesh,
  edge: number,
  wanted: number,
  check: () => void,
): WorkMesh {
  const soup = gatherSoup([source]);
  check();
  if (triangleCount(source) > wanted)
    new Collapser(soup, 1, {
      weights: { evenness: 1, border: 10, crease: 4 },
    }).run(wanted, { check, progress() {} });
  let positions = Array.from(soup.positions);
  let triangles = Array.from(soup.triangles);
  for (let round = 0; round < 12; round++) {
    check();
    if (triangles.length / 3 > MOST_TIMES * wanted) break;
    const next = splitLong(positions, triangles, 1.35 * edge);
    if (!next) break;
    triangles = next;
  }
  const used = new Int32Array(positions.length / 3).fill(-1);
  const packed: number[] = [];
  const corners = Uint32Array.from(triangles, (v) => {
    if (used[v] < 0) {
      used[v] = packed.length / 3;
      packed.push(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2]);
    }
    return used[v];
  });
  positions = packed;
  return withLines(
    Float64Array.from(positions, (x, i) => x + soup.centre[i % 3]),
    corners,
  );
}

/** Splits every edge longer than a limit in the middle, each triangle once; null where none was. */
function splitLong(
  p: number[],
  triangles: number[],
  limit: number,
): number[] | null {
  const middle = new Map<number, number>();
  const count = p.length / 3;
  const long = (a: number, b: number) =>
    (p[3 * a] - p[3 * b]) ** 2 +
    (p[3 * a + 1] - p[3 * b + 1]) ** 2 +
    (p[3 * a + 2] - p[3 * b + 2]) ** 2;
  const cut = (a: number, b: number) => {
    const key = Math.min(a, b) * count + Math.max(a, b);
    let v = middle.get(key);
    if (v === undefined) {
      v = p.length / 3;
      for (let k = 0; k < 3; k++) p.push((p[3 * a + k] + p[3 * b + k]) / 2);
      middle.set(key, v);
    }
    return v;
  };
  const next: number[] = [];
  let any = false;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t], triangles[t + 1], triangles[t + 2]];
    const cuts = [
      [a, b],
      [b, c],
      [c, a],
    ].map(([u, v]) => (long(u, v) > limit * limit ? cut(u, v) : -1));
    const made = cuts.filter((v) => v >= 0).length;
    if (!made) {
      next.push(a, b, c);
      continue;
    }
    any = true;
    const [ab, bc, ca] = cuts;
    if (made === 3) next.push(a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca);
    else {
      // Turned so that the first edge is cut and, where two are, the second as well.
      let [x, y, z, m, n] = [a, b, c, ab, bc];
      if (made === 1) {
        if (bc >= 0) [x, y, z, m] = [b, c, a, bc];
        else if (ca >= 0) [x, y, z, m] = [c, a, b, ca];
        next.push(x, m, z, m, y, z);
      } else {
        if (ab < 0) [x, y, z, m, n] = [b, c, a, bc, ca];
        else if (bc < 0) [x, y, z, m, n] = [c, a, b, ca, ab];
        next.push(m, y, n);
        if (long(x, n) <= long(m, z)) next.push(x, m, n, x, n, z);
        else next.push(x, m, z, m, n, z);
      }
    }
  }
  return any ? next : null;
}

/** Borders, and creases that run on for a while: what is left over from noise is no line to follow. */
function longLines(edges: Edges, hard: Uint8Array): Uint8Array {
  const line = new Uint8Array(edges.count);
  const at = new Map<number, number[]>();
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] === 2 && !hard[edges.first[e]]) continue;
    line[e] = 1;
    for (let k = 0; k < 2; k++) {
      const v = edges.vertices[2 * e + k];
      const list = at.get(v);
      if (list) list.push(e);
      else at.set(v, [e]);
    }
  }
  const seen = new Uint8Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    if (!line[e] || seen[e]) continue;
    const chain = [e];
    seen[e] = 1;
    for (const here of chain)
      for (let k = 0; k < 2; k++)
        for (const next of at.get(edges.vertices[2 * here + k])!)
          if (!seen[next]) {
            seen[next] = 1;
            chain.push(next);
          }
    if (chain.length < SHORTEST) for (const each of chain) line[each] = 0;
  }
  return line;
}

/** Adds normals, neighbours and lines to triangles. */
function withLines(positions: Float64Array, triangles: Uint32Array): WorkMesh {
  const vertices = positions.length / 3;
  const plain = meshFromTriangles(Float32Array.from(positions), triangles);
  const edges = buildEdges(plain);
  const { hard } = hardAbove(plain, CREASE);
  const starts = new Uint32Array(vertices + 1);
  for (let e = 0; e < 2 * edges.count; e++) starts[edges.vertices[e] + 1]++;
  for (let v = 0; v < vertices; v++) starts[v + 1] += starts[v];
  const links = new Uint32Array(2 * edges.count);
  const at = starts.slice(0, -1);
  const lines = new Uint8Array(vertices);
  const along = new Float64Array(3 * vertices);
  const lineEnds: number[][] = Array.from({ length: vertices }, () => []);
  const isLine = longLines(edges, hard);
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
    links[at[a]++] = b;
    links[at[b]++] = a;
    if (!isLine[e]) continue;
    lineEnds[a].push(b);
    lineEnds[b].push(a);
  }
  const direction = (a: number, b: number) => {
    const d = [0, 1, 2].map((k) => positions[3 * b + k] - positions[3 * a + k]);
    const size = Math.hypot(...d) || 1;
    return d.map((x) => x / size);
  };
  for (let v = 0; v < vertices; v++) {
    const ends = lineEnds[v];
    if (ends.length < 2) continue;
    lines[v] = 2;
    if (ends.length !== 2) continue;
    const [d, e] = ends.map((w) => direction(v, w));
    const bend = d[0] * e[0] + d[1] * e[1] + d[2] * e[2];
    if (bend > -0.6) continue;
    lines[v] = 1;
    const way = d.map((x, k) => x - e[k]);
    const size = Math.hypot(...way) || 1;
    for (let k = 0; k < 3; k++) along[3 * v + k] = way[k] / size;
  }
  const normals = new Float64Array(3 * vertices);
  let area = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [
      3 * triangles[t],
      3 * triangles[t + 1],
      3 * triangles[t + 2],
    ];
    const u = [0, 1, 2].map((k) => positions[b + k] - positions[a + k]);
    const w = [0, 1, 2].map((k) => positions[c + k] - positions[a + k]);
    const n = [
      u[1] * w[2] - u[2] * w[1],
      u[2] * w[0] - u[0] * w[2],
      u[0] * w[1] - u[1] * w[0],
    ];
    area += triangleArea(positions, triangles, t / 3);
    for (const v of [a, b, c])
      for (let k = 0; k < 3; k++) normals[v + k] += n[k];
  }
  for (let v = 0; v < 3 * vertices; v += 3) {
    const size = Math.hypot(normals[v], normals[v + 1], normals[v + 2]) || 1;
    for (let k = 0; k < 3; k++) normals[v + k] /= size;
  }
  return {
    positions,
    triangles,
    normals,
    starts,
    links,
    bound: lines,
    along,
    metric: evenMetric(new Float64Array(vertices).fill(1)),
    pull: new Float64Array(3 * vertices),
    area,
  };
}

/**
 * The same length in all directions.
 * @param sizes vertexCount, times the mean length
 * @returns 6 × vertexCount, as `lengthAlong` takes it
 */
export function evenMetric(sizes: ArrayLike<number>): Float64Array {
  const metric = new Float64Array(6 * sizes.length);
  for (let v = 0; v < sizes.length; v++)
    metric.fill(1 / sizes[v] ** 2, 6 * v, 6 * v + 3);
  return metric;
}
