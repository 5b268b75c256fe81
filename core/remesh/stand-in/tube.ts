import TinyQueue from "tinyqueue";
import type { Vector } from "../../space/vector";
import { cross, dot, subtract, unit } from "../../space/vector";
import type { Mesh } from "../../mesh/mesh";
import { bestChain } from "./chain";
import type { Cloud } from "./cloud";
import { Polygons } from "./polygons";
import { meanOfPolygon, roundLimit, withHard } from "./round";

/** Steps of the path before it is thinned, and how fine the surface is split for it, as a share of its size. */
const STEPS = 56;
const FINENESS = 1 / 70;
/** Vertices that a split surface has at most. */
const MOST_VERTICES = 60_000;

/** A place on the path of a tube. */
interface Station {
  at: Vector;
  r: number;
}

/**
 * A tube along a path: what is equally far from one end of the piece along its surface lies round one point of the
 * path; a piece whose slices fall in two is a closed ring. The path and its radii are then evened out by what lies
 * nearest to each of its steps.
 * @param rings stations of the path, or 0 for as many as it needs
 */
export function fitTube(
  cloud: Cloud,
  sides: number,
  rings: number,
  capped: boolean,
): Mesh {
  const { path, closed } = pathOf(cloud);
  let stations = path.map((at) => ({ at, r: 0 }));
  for (let round = 0; round < 4; round++)
    stations = evened(cloud, stations, closed);
  if (!closed) stations = toEnds(cloud, stations);
  const loop = closed ? [...stations, stations[0]] : stations;
  const chain = bestChain(
    loop.map(({ at, r }) => [...at, r]),
    rings && Math.max(closed ? 4 : 2, closed ? rings + 1 : rings),
    0.004 * cloud.size,
  ).map((i) => loop[i]);
  if (closed) chain.pop();
  return tubeMesh(
    closed && chain.length < 3 ? stations : chain,
    sides,
    closed,
    capped,
  );
}

/** The middle line of a piece, and whether it runs into itself. */
function pathOf(cloud: Cloud): { path: Vector[]; closed: boolean } {
  const { points, links, starts } = split(cloud);
  const count = points.length / 3;
  const first = farthest(distances(points, links, starts, 0));
  const away = distances(points, links, starts, first);
  const most = away.reduce((m, d) => (d < Infinity ? Math.max(m, d) : m), 0);
  const slice = Int32Array.from(away, (d) =>
    d < Infinity
      ? Math.min(STEPS - 1, Math.floor((STEPS * d) / (most || 1)))
      : -1,
  );
  // Pieces of one slice that hang together become one node.
  const node = new Int32Array(count).fill(-1);
  const sums: { at: number[]; n: number; slice: number }[] = [];
  for (let v = 0; v < count; v++) {
    if (node[v] >= 0 || slice[v] < 0) continue;
    const name = sums.push({ at: [0, 0, 0], n: 0, slice: slice[v] }) - 1;
    const waiting = [v];
    node[v] = name;
    while (waiting.length) {
      const w = waiting.pop()!;
      for (let k = 0; k < 3; k++) sums[name].at[k] += points[3 * w + k];
      sums[name].n++;
      for (let i = starts[w]; i < starts[w + 1]; i++) {
        const x = links[i];
        if (node[x] < 0 && slice[x] === slice[v]) {
          node[x] = name;
          waiting.push(x);
        }
      }
    }
  }
  const middle = (n: number): Vector =>
    sums[n].at.map((x) => x / sums[n].n) as unknown as Vector;
  const bySlice = Array.from({ length: STEPS }, (_, s) =>
    sums
      .flatMap((sum, n) => (sum.slice === s ? [n] : []))
      .sort((a, b) => sums[b].n - sums[a].n),
  );
  // Two pieces of about the same size nearly all along: two ways round to the far end.
  const inner = bySlice.slice(2, -2);
  const double = inner.filter(
    ([a, b]) => b !== undefined && sums[b].n > 0.3 * sums[a].n,
  ).length;
  if (double < 0.8 * inner.length)
    return {
      path: bySlice.flatMap(([n]) => (n === undefined ? [] : [middle(n)])),
      closed: false,
    };
  const ways: Vector[][] = [[], []];
  for (const [a, b] of inner) {
    if (b === undefined) continue;
    const [p, q] = [middle(a), middle(b)];
    const last = ways[0].at(-1);
    const straight =
      !last ||
      far2(last, p) + far2(ways[1].at(-1)!, q) <=
        far2(last, q) + far2(ways[1].at(-1)!, p);
    ways[0].push(straight ? p : q);
    ways[1].push(straight ? q : p);
  }
  return { path: [...ways[0], ...ways[1].reverse()], closed: true };
}

const far2 = (a: Vector, b: Vector) =>
  (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2;

function farthest(away: Float64Array): number {
  let at = 0;
  away.forEach((d, i) => {
    if (d < Infinity && d > (away[at] < Infinity ? away[at] : -1)) at = i;
  });
  return at;
}

/** The piece with all edges split until they are short, as points and who is joined to whom. */
function split({ vertices, triangles, size }: Cloud) {
  const points = Array.from(vertices);
  let corners = Array.from(triangles);
  const middles = new Map<number, number>();
  const length2 = (a: number, b: number) =>
    (points[3 * a] - points[3 * b]) ** 2 +
    (points[3 * a + 1] - points[3 * b + 1]) ** 2 +
    (points[3 * a + 2] - points[3 * b + 2]) ** 2;
  const limit = (size * FINENESS) ** 2;
  for (let again = true; again && points.length < 3 * MOST_VERTICES;) {
    again = false;
    const next: number[] = [];
    for (let t = 0; t < corners.length; t += 3) {
      const ring = [corners[t], corners[t + 1], corners[t + 2]];
      const sides = ring.map((a, k) => length2(a, ring[(k + 1) % 3]));
      const k = sides.indexOf(Math.max(...sides));
      if (sides[k] <= limit) {
        next.push(...ring);
        continue;
      }
      again = true;
      const [a, b, c] = [ring[k], ring[(k + 1) % 3], ring[(k + 2) % 3]];
      const key = Math.min(a, b) * 0x4000000 + Math.max(a, b);
      let m = middles.get(key);
      if (m === undefined) {
        m = points.length / 3;
        middles.set(key, m);
        for (let i = 0; i < 3; i++)
          points.push((points[3 * a + i] + points[3 * b + i]) / 2);
      }
      next.push(a, m, c, m, b, c);
    }
    corners = next;
  }
  const count = points.length / 3;
  const starts = new Uint32Array(count + 1);
  for (const v of corners) starts[v + 1] += 2;
  for (let v = 0; v < count; v++) starts[v + 1] += starts[v];
  const links = new Uint32Array(2 * corners.length);
  const fill = starts.slice(0, count);
  for (let t = 0; t < corners.length; t += 3)
    for (let k = 0; k < 3; k++)
      for (let j = 1; j < 3; j++)
        links[fill[corners[t + k]]++] = corners[t + ((k + j) % 3)];
  return { points, links, starts };
}

/** Distances along the edges from one vertex (Dijkstra 1959). */
function distances(
  points: readonly number[],
  links: Uint32Array,
  starts: Uint32Array,
  from: number,
): Float64Array {
  const away = new Float64Array(starts.length - 1).fill(Infinity);
  away[from] = 0;
  const queue = new TinyQueue<[number, number]>(
    [[0, from]],
    (a, b) => a[0] - b[0] || a[1] - b[1],
  );
  for (let top = queue.pop(); top; top = queue.pop()) {
    const [d, v] = top;
    if (d > away[v]) continue;
    for (let i = starts[v]; i < starts[v + 1]; i++) {
      const w = links[i];
      const next =
        d +
        Math.hypot(
          points[3 * v] - points[3 * w],
          points[3 * v + 1] - points[3 * w + 1],
          points[3 * v + 2] - points[3 * w + 2],
        );
      if (next >= away[w]) continue;
      away[w] = next;
      queue.push([next, w]);
    }
  }
  return away;
}

/** Every step of the path goes to the middle of the points nearest to it, and takes their distance as its radius. */
function evened(
  { points, normals, count }: Cloud,
  path: readonly Station[],
  closed: boolean,
): Station[] {
  const n = path.length;
  const tangents = tangentsOf(
    path.map(({ at }) => at),
    closed,
  );
  const sums = path.map(() => ({ at: [0, 0, 0], n: 0, r: 0, w: 0 }));
  for (let i = 0; i < count; i++) {
    const p: Vector = [points[3 * i], points[3 * i + 1], points[3 * i + 2]];
    let near = 0;
    let least = Infinity;
    for (let s = 0; s < n; s++) {
      const d = far2(p, path[s].at);
      if (d < least) [near, least] = [s, d];
    }
    const t = tangents[near];
    const end = !closed && (near === 0 || near === n - 1);
    const facing = dot(normals.subarray(3 * i, 3 * i + 3), t);
    // Ends are no walls.
    if (Math.abs(facing) > 0.8 && (end || Math.abs(facing) > 0.95)) continue;
    const off = subtract(p, path[near].at);
    const along = dot(off, t);
    const sum = sums[near];
    for (let k = 0; k < 3; k++) sum.at[k] += p[k] - along * t[k];
    sum.r += Math.sqrt(Math.max(0, least - along * along));
    sum.n++;
  }
  const moved = path.map((old, s) => {
    const { at, r, n: found } = sums[s];
    if (found < 4) return { at: old.at, r: old.r };
    return {
      at: at.map((x) => x / found) as unknown as Vector,
      r: r / found,
    };
  });
  // Slices with nothing in them take from their neighbours; the rest is smoothed a little.
  return moved.map((own, s) => {
    const before = moved[closed ? (s + n - 1) % n : Math.max(0, s - 1)];
    const after = moved[closed ? (s + 1) % n : Math.min(n - 1, s + 1)];
    const share =
      sums[s].n < 4 ? 0 : !closed && (s === 0 || s === n - 1) ? 1 : 0.5;
    const mix = (a: number, b: number, c: number) =>
      share * a + ((1 - share) * (b + c)) / 2;
    return {
      at: [0, 1, 2].map((k) =>
        mix(own.at[k], before.at[k], after.at[k]),
      ) as unknown as Vector,
      r: mix(own.r, before.r || own.r, after.r || own.r),
    };
  });
}

/** Carries both ends of an open path out to where the piece ends. */
function toEnds(cloud: Cloud, path: Station[]): Station[] {
  const inner = path.slice(2, -2).length >= 2 ? path.slice(2, -2) : path;
  const tangents = tangentsOf(
    inner.map(({ at }) => at),
    false,
  );
  const end = (station: Station, way: Vector): Station => {
    let most = 0;
    for (let i = 0; i < cloud.vertices.length; i += 3) {
      const off = subtract(cloud.vertices.subarray(i, i + 3), station.at);
      const along = dot(off, way);
      if (along <= most) continue;
      if (Math.sqrt(dot(off, off) - along * along) < 1.5 * station.r)
        most = along;
    }
    return {
      at: station.at.map((x, k) => x + most * way[k]) as unknown as Vector,
      r: station.r,
    };
  };
  const back = tangents[0].map((x) => -x) as unknown as Vector;
  return [
    end(inner[0], back),
    ...inner,
    end(inner[inner.length - 1], tangents[inner.length - 1]),
  ];
}

function tangentsOf(path: readonly Vector[], closed: boolean): Vector[] {
  const n = path.length;
  return path.map((_, i) => {
    const before = path[closed ? (i + n - 1) % n : Math.max(0, i - 1)];
    const after = path[closed ? (i + 1) % n : Math.min(n - 1, i + 1)];
    return unit(subtract(after, before));
  });
}

/** Frames carried along the path without turning (double reflection, Wang et al. 2008). */
function framesAlong(path: readonly Vector[], closed: boolean): Vector[] {
  const tangents = tangentsOf(path, closed);
  const first: Vector = Math.abs(tangents[0][1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const frames: Vector[] = [unit(cross(tangents[0], first))];
  const next = (i: number, j: number, r: Vector): Vector => {
    const v1 = subtract(path[j], path[i]);
    const c1 = dot(v1, v1) || 1e-30;
    const reflect = (x: Vector, v: Vector, c: number): Vector =>
      x.map((a, k) => a - (2 / c) * dot(v, x) * v[k]) as unknown as Vector;
    const rl = reflect(r, v1, c1);
    const tl = reflect(tangents[i], v1, c1);
    const v2 = subtract(tangents[j], tl);
    const c2 = dot(v2, v2);
    return c2 < 1e-20 ? rl : reflect(rl, v2, c2);
  };
  for (let i = 0; i + 1 < path.length; i++)
    frames.push(next(i, i + 1, frames[i]));
  if (closed) {
    // What the frame has turned by on its way round is taken back evenly.
    const back = next(path.length - 1, 0, frames[path.length - 1]);
    const side = cross(tangents[0], frames[0]);
    const turn = Math.atan2(dot(back, side), dot(back, frames[0]));
    return frames.map((r, i) => {
      const by = (-turn * i) / path.length;
      const s = cross(tangents[i], r);
      return r.map(
        (x, k) => Math.cos(by) * x + Math.sin(by) * s[k],
      ) as unknown as Vector;
    });
  }
  return frames;
}

function tubeMesh(
  stations: readonly Station[],
  sides: number,
  closed: boolean,
  capped: boolean,
): Mesh {
  const path = stations.map(({ at }) => at);
  const frames = framesAlong(path, closed);
  const tangents = tangentsOf(path, closed);
  const polygons = new Polygons();
  const wider = 1 / meanOfPolygon(sides);
  const rings = stations.map(({ at, r }, i) => {
    const u = frames[i];
    const v = cross(tangents[i], u);
    return Array.from({ length: sides }, (_, k) => {
      const turn = (2 * Math.PI * k) / sides;
      return polygons.point(
        [0, 1, 2].map(
          (a) =>
            at[a] + wider * r * (Math.cos(turn) * u[a] + Math.sin(turn) * v[a]),
        ),
      );
    });
  });
  for (let i = 0; i + 1 < rings.length; i++)
    polygons.band(rings[i], rings[i + 1]);
  if (closed) polygons.band(rings[rings.length - 1], rings[0]);
  else if (capped) {
    polygons.close([rings[0]], [], true);
    polygons.close([rings[rings.length - 1]], [], false);
  }
  return withHard(polygons.mesh(), roundLimit(sides));
}
