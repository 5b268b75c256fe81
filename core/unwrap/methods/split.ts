import type { UnwrapMesh } from "./unwrap-mesh";
import { acrossCorner } from "./chart";
import { pop, push } from "./cut";
import { CutGraph } from "./seams/min-cut";

/**
 * Splits faces in two so that each side comes nearer to something that lays flat: a cone, a cylinder or a
 * plane, whose normals all make one angle with an axis (Julius et al. 2005). Two regions grow from seeds,
 * refit and grow again; where that fails, the faces part across their longest extent.
 * @param across whether to part by place instead of by shape: for long strips that fit no sheet
 */
export function splitFaces(
  m: UnwrapMesh,
  faces: number[],
  across: boolean,
): number[][] {
  const neighbours = neighboursWithin(m, faces);
  const middles = middlesOf(m, faces);
  let seeds = across ? ends(middles) : contrastingSeeds(m, faces, middles);
  let side: Uint8Array = new Uint8Array(faces.length);
  for (let round = 0; round < (across ? 1 : 5); round++) {
    const proxies = seeds.map((seed, s) =>
      round === 0
        ? { axis: normalAt(m, faces[seed]), cosine: 1 }
        : fitCone(
            m,
            faces.filter((_, i) => side[i] === s),
          ),
    );
    side = grow(m, faces, neighbours, middles, seeds, proxies, across);
    if (across) break;
    const next = [0, 1].map((s) =>
      bestSeed(
        m,
        faces,
        side,
        s,
        fitCone(
          m,
          faces.filter((_, i) => side[i] === s),
        ),
      ),
    );
    if (next[0] < 0 || next[1] < 0) break;
    if (next[0] === seeds[0] && next[1] === seeds[1]) break;
    seeds = [next[0], next[1]];
  }
  settleBorder(m, faces, neighbours, side, middles);
  return connectedSets(faces, neighbours, side);
}

/** For each face of a set its neighbours in the set, as places in the set, and the edge between. */
export function neighboursWithin(
  m: UnwrapMesh,
  faces: number[],
): [number, number][][] {
  const index = new Map<number, number>();
  faces.forEach((f, i) => index.set(f, i));
  return faces.map((f) => {
    const found: [number, number][] = [];
    for (let c = m.mesh.faceStarts[f]; c < m.mesh.faceStarts[f + 1]; c++) {
      const other = index.get(acrossCorner(m, c));
      if (other !== undefined) found.push([other, m.edges.ofCorner[c]]);
    }
    return found;
  });
}

interface Cone {
  axis: [number, number, number];
  cosine: number;
}

const normalAt = (m: UnwrapMesh, f: number): [number, number, number] => [
  m.normals[3 * f],
  m.normals[3 * f + 1],
  m.normals[3 * f + 2],
];

/** 3 × faces: the middle of each face, metres. */
export function middlesOf(m: UnwrapMesh, faces: number[]): Float64Array {
  const middles = new Float64Array(3 * faces.length);
  faces.forEach((f, i) => {
    const n = m.mesh.faceStarts[f + 1] - m.mesh.faceStarts[f];
    for (let c = m.mesh.faceStarts[f]; c < m.mesh.faceStarts[f + 1]; c++)
      for (let k = 0; k < 3; k++)
        middles[3 * i + k] += m.mesh.positions[3 * m.mesh.corners[c] + k] / n;
  });
  return middles;
}

const apart2 = (p: Float64Array, a: number, b: number) =>
  (p[3 * a] - p[3 * b]) ** 2 +
  (p[3 * a + 1] - p[3 * b + 1]) ** 2 +
  (p[3 * a + 2] - p[3 * b + 2]) ** 2;

/** Two faces about as far apart as the set is long. */
function ends(middles: Float64Array): [number, number] {
  const farthest = (from: number) => {
    let best = from;
    for (let i = 0; i < middles.length / 3; i++)
      if (apart2(middles, i, from) > apart2(middles, best, from)) best = i;
    return best;
  };
  const a = farthest(0);
  return [a, farthest(a)];
}

/** The face that fits the set's cone worst, and the one among those that fit well that looks most unlike it. */
function contrastingSeeds(
  m: UnwrapMesh,
  faces: number[],
  middles: Float64Array,
): [number, number] {
  const cone = fitCone(m, faces);
  let worst = 0;
  let worstError = -1;
  faces.forEach((f, i) => {
    const error = coneError(m, f, cone) * Math.sqrt(m.areas[f]);
    if (error > worstError) {
      worstError = error;
      worst = i;
    }
  });
  const n = normalAt(m, faces[worst]);
  let scale = 0;
  for (let i = 0; i < faces.length; i++)
    scale = Math.max(scale, apart2(middles, i, worst));
  let other = worst;
  let most = -Infinity;
  faces.forEach((f, i) => {
    const g = normalAt(m, f);
    const contrast = 1 - (n[0] * g[0] + n[1] * g[1] + n[2] * g[2]);
    const score =
      contrast + Math.sqrt(apart2(middles, i, worst) / (scale || 1));
    if (i !== worst && score > most) {
      most = score;
      other = i;
    }
  });
  return [worst, other];
}

const coneError = (m: UnwrapMesh, f: number, { axis, cosine }: Cone) =>
  (m.normals[3 * f] * axis[0] +
    m.normals[3 * f + 1] * axis[1] +
    m.normals[3 * f + 2] * axis[2] -
    cosine) **
  2;

/** Least squares axis and angle: the eigenvector of the normals' covariance with the smallest value. */
function fitCone(m: UnwrapMesh, faces: number[]): Cone {
  const mean = [0, 0, 0];
  let area = 0;
  for (const f of faces) {
    area += m.areas[f];
    for (let k = 0; k < 3; k++) mean[k] += m.areas[f] * m.normals[3 * f + k];
  }
  for (let k = 0; k < 3; k++) mean[k] /= area || 1;
  const c = [0, 0, 0, 0, 0, 0];
  for (const f of faces) {
    const w = m.areas[f] / (area || 1);
    const x = m.normals[3 * f] - mean[0];
    const y = m.normals[3 * f + 1] - mean[1];
    const z = m.normals[3 * f + 2] - mean[2];
    c[0] += w * x * x;
    c[1] += w * x * y;
    c[2] += w * x * z;
    c[3] += w * y * y;
    c[4] += w * y * z;
    c[5] += w * z * z;
  }
  const size = Math.hypot(mean[0], mean[1], mean[2]);
  // Nearly flat: the axis is the mean normal itself.
  if (c[0] + c[3] + c[5] < 0.02 && size > 0)
    return {
      axis: [mean[0] / size, mean[1] / size, mean[2] / size],
      cosine: size,
    };
  const axis = smallestAxis(c);
  return {
    axis,
    cosine: axis[0] * mean[0] + axis[1] * mean[1] + axis[2] * mean[2],
  };
}

/** Inverse power iteration on a symmetric 3 × 3 matrix [xx xy xz yy yz zz]. */
function smallestAxis([xx, xy, xz, yy, yz, zz]: number[]): [
  number,
  number,
  number,
] {
  const shift = 1e-6 * (xx + yy + zz) + 1e-12;
  const [a, b, c] = [xx + shift, yy + shift, zz + shift];
  const i00 = b * c - yz * yz;
  const i01 = xz * yz - xy * c;
  const i02 = xy * yz - xz * b;
  const i11 = a * c - xz * xz;
  const i12 = xy * xz - a * yz;
  const i22 = a * b - xy * xy;
  let v: [number, number, number] = [0.577, 0.578, 0.576];
  for (let round = 0; round < 40; round++) {
    const x = i00 * v[0] + i01 * v[1] + i02 * v[2];
    const y = i01 * v[0] + i11 * v[1] + i12 * v[2];
    const z = i02 * v[0] + i12 * v[1] + i22 * v[2];
    const n = Math.hypot(x, y, z);
    if (!(n > 0)) break;
    v = [x / n, y / n, z / n];
  }
  return v;
}

/** Both regions grow by the cheapest face next to either. */
function grow(
  m: UnwrapMesh,
  faces: number[],
  neighbours: [number, number][][],
  middles: Float64Array,
  seeds: number[],
  proxies: Cone[],
  across: boolean,
): Uint8Array {
  const side = new Uint8Array(faces.length).fill(255);
  const heap: [number, number][] = [];
  let scale = 0;
  for (let i = 0; i < faces.length; i++)
    scale = Math.max(scale, apart2(middles, i, seeds[0]));
  const cost = (i: number, s: number) =>
    across
      ? Math.sqrt(apart2(middles, i, seeds[s]))
      : coneError(m, faces[i], proxies[s]) +
        0.03 * Math.sqrt(apart2(middles, i, seeds[s]) / (scale || 1));
  seeds.forEach((seed, s) => push(heap, [-1, 2 * seed + s]));
  while (heap.length) {
    const [key, code] = pop(heap);
    const i = code >> 1;
    if (side[i] !== 255) continue;
    side[i] = code & 1;
    for (const [other] of neighbours[i])
      if (side[other] === 255)
        push(heap, [
          Math.max(key, cost(other, code & 1)),
          2 * other + (code & 1),
        ]);
  }
  for (let i = 0; i < side.length; i++) if (side[i] === 255) side[i] = 0;
  return side;
}

function bestSeed(
  m: UnwrapMesh,
  faces: number[],
  side: Uint8Array,
  s: number,
  cone: Cone,
): number {
  let best = -1;
  let least = Infinity;
  faces.forEach((f, i) => {
    if (side[i] !== s) return;
    const error = coneError(m, f, cone) - 1e-9 * m.areas[f];
    if (error < least) {
      least = error;
      best = i;
    }
  });
  return best;
}

/** Share of the set's width within which the border may move to where it costs least. */
const BAND = 0.22;

/** Moves the border between the sides to where a seam costs least, near to where it was. */
function settleBorder(
  m: UnwrapMesh,
  faces: number[],
  neighbours: [number, number][][],
  side: Uint8Array,
  middles: Float64Array,
): void {
  const area = faces.reduce((sum, f) => sum + m.areas[f], 0);
  const from = ringsFromBorder(neighbours, side, middles);
  const width = BAND * Math.sqrt(area);
  const counts = [0, 0];
  side.forEach((s) => counts[s]++);
  const farthest = [0, 0];
  side.forEach((s, i) => (farthest[s] = Math.max(farthest[s], from[i])));
  const free = from.map((d, i) =>
    d < Math.min(width, 0.7 * farthest[side[i]]) ? 1 : 0,
  );
  cutAtLeast(m, neighbours, side, Uint8Array.from(free));
}

/**
 * Lets free faces change sides so that the border between the sides costs least.
 * @param start, end one per face of the chart: 1 for those on that side
 */
export function cutAtLeast(
  m: UnwrapMesh,
  neighbours: [number, number][][],
  side: Uint8Array,
  free: Uint8Array,
): void {
  const node = new Int32Array(side.length);
  let count = 2;
  for (let i = 0; i < side.length; i++) node[i] = free[i] ? count++ : side[i];
  if (count === 2) return;
  const graph = new CutGraph(count);
  neighbours.forEach((list, i) => {
    for (const [other, e] of list)
      if (other > i && node[i] !== node[other] && node[i] + node[other] > 1)
        graph.link(node[i], node[other], m.costs[e]);
  });
  const first = graph.solve();
  for (let i = 0; i < side.length; i++)
    if (free[i]) side[i] = first[node[i]] ? 0 : 1;
}

/** Distance of each face from the border between the sides, over neighbouring middles, metres. */
function ringsFromBorder(
  neighbours: [number, number][][],
  side: Uint8Array,
  middles: Float64Array,
): Float64Array {
  const distance = new Float64Array(side.length).fill(Infinity);
  const heap: [number, number][] = [];
  neighbours.forEach((list, i) => {
    if (list.some(([other]) => side[other] !== side[i])) {
      distance[i] = 0;
      push(heap, [0, i]);
    }
  });
  while (heap.length) {
    const [d, i] = pop(heap);
    if (d > distance[i]) continue;
    for (const [other] of neighbours[i]) {
      const to = d + Math.sqrt(apart2(middles, i, other));
      if (to < distance[other]) {
        distance[other] = to;
        push(heap, [to, other]);
      }
    }
  }
  return distance;
}

/**
 * The sides as connected sets of faces.
 * @param side one per face: sets are looked for within each value
 */
export function connectedSets(
  faces: number[],
  neighbours: [number, number][][],
  side: Uint8Array,
): number[][] {
  const seen = new Uint8Array(faces.length);
  const sets: number[][] = [];
  for (let i = 0; i < faces.length; i++) {
    if (seen[i]) continue;
    const set: number[] = [];
    const stack = [i];
    seen[i] = 1;
    while (stack.length) {
      const at = stack.pop()!;
      set.push(faces[at]);
      for (const [n] of neighbours[at])
        if (!seen[n] && side[n] === side[i]) {
          seen[n] = 1;
          stack.push(n);
        }
    }
    sets.push(set);
  }
  return sets;
}
