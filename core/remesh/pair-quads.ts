import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { withFaces } from "../mesh/change-faces";

export interface PairOptions {
  /** Pairs whose triangles are bent against each other by more than this stay apart, degrees. */
  bend: number;
  /** Worst corner a quad may have: 0 takes any that is not folded, 1 only rectangles. */
  squareness: number;
  /** Longest chain of pairs that is re-dealt to bring two single triangles together. */
  reach: number;
}

const DEFAULTS: PairOptions = { bend: 25, squareness: 0.2, reach: 16 };

/**
 * Joins triangles two by two into quads: the squarest first, then single triangles that are left are brought
 * together along chains in which every pair is dealt anew (augmenting paths). Marked edges and edges between
 * materials or IDs stay. Faces that are no triangles stay as they are.
 */
export function pairQuads(
  mesh: Mesh,
  options: Partial<PairOptions> = {},
): Mesh {
  const { bend, squareness, reach } = { ...DEFAULTS, ...options };
  const faces = faceCount(mesh);
  const edges = buildEdges(mesh);
  const faceAt = (c: number) => {
    let low = 0;
    let high = faces;
    while (low + 1 < high) {
      const middle = (low + high) >> 1;
      if (mesh.faceStarts[middle] <= c) low = middle;
      else high = middle;
    }
    return low;
  };
  /** 3 × faceCount: the neighbour over each edge of a triangle, and how good the quad with it is. */
  const beside = new Int32Array(3 * faces).fill(-1);
  const worth = new Float32Array(3 * faces);
  const slot = new Uint8Array(faces);
  const found: [number, number, number, number][] = [];
  const limit = Math.cos((bend * Math.PI) / 180);
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const c = edges.first[e];
    const d = edges.second[e];
    const f = faceAt(c);
    const g = faceAt(d);
    if (f === g || !isTriangle(mesh, f) || !isTriangle(mesh, g)) continue;
    if (mesh.corners[c] === mesh.corners[d] || parts(mesh, c, d, f, g))
      continue;
    const quality = qualityOf(mesh, c, d, f, g, limit);
    if (quality <= squareness) continue;
    found.push([quality, f, g, e]);
    for (const [one, other] of [
      [f, g],
      [g, f],
    ]) {
      beside[3 * one + slot[one]] = other;
      worth[3 * one + slot[one]++] = quality;
    }
  }
  found.sort((a, b) => b[0] - a[0] || a[3] - b[3]);
  const mate = new Int32Array(faces).fill(-1);
  for (const [, f, g] of found)
    if (mate[f] < 0 && mate[g] < 0) {
      mate[f] = g;
      mate[g] = f;
    }
  bringTogether(beside, worth, mate, mesh, reach);
  return joined(mesh, mate);
}

const isTriangle = (mesh: Mesh, f: number) =>
  mesh.faceStarts[f + 1] - mesh.faceStarts[f] === 3;

function parts(
  mesh: Mesh,
  c: number,
  d: number,
  f: number,
  g: number,
): boolean {
  for (const marks of [mesh.hard, mesh.seams])
    if (marks && (marks[c] || marks[d])) return true;
  if (mesh.faceMaterials && mesh.faceMaterials[f] !== mesh.faceMaterials[g])
    return true;
  if (mesh.ids && mesh.ids[f] !== mesh.ids[g]) return true;
  if (!mesh.uvs) return false;
  const next = (x: number, face: number) =>
    x + 1 === mesh.faceStarts[face + 1] ? mesh.faceStarts[face] : x + 1;
  const apart = (x: number, y: number) =>
    mesh.uvs![2 * x] !== mesh.uvs![2 * y] ||
    mesh.uvs![2 * x + 1] !== mesh.uvs![2 * y + 1];
  return apart(c, next(d, g)) || apart(next(c, f), d);
}

/** 1 for a rectangle, 0 for a quad that is folded or has a straight corner, −1 for what is bent too far. */
function qualityOf(
  mesh: Mesh,
  c: number,
  d: number,
  f: number,
  g: number,
  limit: number,
): number {
  const p = mesh.positions;
  const [fs, gs] = [mesh.faceStarts[f], mesh.faceStarts[g]];
  const a = mesh.corners[c];
  const b = mesh.corners[fs + ((c - fs + 1) % 3)];
  const x = mesh.corners[fs + ((c - fs + 2) % 3)];
  const y = mesh.corners[gs + ((d - gs + 2) % 3)];
  if (x === y) return -1;
  const n = normal(p, a, b, x);
  const m = normal(p, b, a, y);
  const size = Math.hypot(...n) * Math.hypot(...m);
  if (!(size > 0)) return -1;
  const flat = (n[0] * m[0] + n[1] * m[1] + n[2] * m[2]) / size;
  if (flat < limit) return -1;
  const ring = [a, y, b, x];
  let worst = 0;
  for (let k = 0; k < 4; k++) {
    const here = 3 * ring[k];
    const there = 3 * ring[(k + 1) % 4];
    const back = 3 * ring[(k + 3) % 4];
    let uv = 0;
    let uu = 0;
    let vv = 0;
    for (let i = 0; i < 3; i++) {
      const u = p[there + i] - p[here + i];
      const v = p[back + i] - p[here + i];
      uv += u * v;
      uu += u * u;
      vv += v * v;
    }
    const angle = Math.acos(
      Math.max(-1, Math.min(1, uv / Math.sqrt(uu * vv || 1e-300))),
    );
    worst = Math.max(worst, Math.abs(angle - Math.PI / 2));
  }
  // Where a corner of the quad is made of both triangles, its angle is the sum, which must stay below straight.
  const sum = (at: number, u: number, v: number) =>
    angleAt(p, at, u, x) + angleAt(p, at, v, y);
  if (Math.max(sum(a, b, b), sum(b, a, a)) > 0.97 * Math.PI) return 0;
  return (1 - worst / (Math.PI / 2)) * (0.5 + 0.5 * flat);
}

function angleAt(p: Float32Array, at: number, a: number, b: number): number {
  let uv = 0;
  let uu = 0;
  let vv = 0;
  for (let i = 0; i < 3; i++) {
    const u = p[3 * a + i] - p[3 * at + i];
    const v = p[3 * b + i] - p[3 * at + i];
    uv += u * v;
    uu += u * u;
    vv += v * v;
  }
  return Math.acos(
    Math.max(-1, Math.min(1, uv / Math.sqrt(uu * vv || 1e-300))),
  );
}

function normal(
  p: Float32Array,
  a: number,
  b: number,
  c: number,
): [number, number, number] {
  const u = [0, 1, 2].map((k) => p[3 * b + k] - p[3 * a + k]);
  const v = [0, 1, 2].map((k) => p[3 * c + k] - p[3 * a + k]);
  return [
    u[1] * v[2] - u[2] * v[1],
    u[2] * v[0] - u[0] * v[2],
    u[0] * v[1] - u[1] * v[0],
  ];
}

/** Breadth first from every single triangle over unpaired and paired edges in turn, to the nearest other one. */
function bringTogether(
  beside: Int32Array,
  worth: Float32Array,
  mate: Int32Array,
  mesh: Mesh,
  reach: number,
): void {
  const faces = mate.length;
  const from = new Int32Array(faces);
  const seen = new Int32Array(faces).fill(-1);
  for (let start = 0; start < faces; start++) {
    if (mate[start] >= 0 || !isTriangle(mesh, start)) continue;
    let front = [start];
    seen[start] = start;
    from[start] = -1;
    let end = -1;
    for (let step = 0; step < reach && front.length && end < 0; step++) {
      const next: number[] = [];
      for (const f of front) {
        // The best neighbour first, so that of equal chains the squarer one is taken.
        const order = [0, 1, 2].sort(
          (i, j) => worth[3 * f + j] - worth[3 * f + i],
        );
        for (const k of order) {
          const g = beside[3 * f + k];
          if (g < 0 || seen[g] === start) continue;
          seen[g] = start;
          from[g] = f;
          const h = mate[g];
          if (h < 0) {
            end = g;
            break;
          }
          if (seen[h] === start) continue;
          seen[h] = start;
          from[h] = g;
          next.push(h);
        }
        if (end >= 0) break;
      }
      front = next;
    }
    for (let g = end; g >= 0;) {
      const f = from[g];
      const before = from[f];
      mate[g] = f;
      mate[f] = g;
      g = before;
    }
  }
}

function joined(mesh: Mesh, mate: Int32Array): Mesh {
  const starts = [0];
  const oldCorner: number[] = [];
  const oldFace: number[] = [];
  for (let f = 0; f < mate.length; f++) {
    const g = mate[f];
    if (g >= 0 && g < f) continue;
    const s = mesh.faceStarts[f];
    if (g < 0) {
      for (let c = s; c < mesh.faceStarts[f + 1]; c++) oldCorner.push(c);
    } else {
      const t = mesh.faceStarts[g];
      const own = [0, 1, 2].map((k) => mesh.corners[s + k]);
      const other = [0, 1, 2].map((k) => mesh.corners[t + k]);
      // From the corner of the first triangle that the second one lacks, round and through the second's.
      const alone = own.findIndex((v) => !other.includes(v));
      const far = other.findIndex((v) => !own.includes(v));
      oldCorner.push(
        s + alone,
        s + ((alone + 1) % 3),
        t + far,
        s + ((alone + 2) % 3),
      );
    }
    starts.push(oldCorner.length);
    oldFace.push(f);
  }
  return withFaces(
    mesh,
    Uint32Array.from(starts),
    Uint32Array.from(oldCorner),
    Uint32Array.from(oldFace),
  );
}

/** Share of the faces that have four corners. */
export function quadShare(mesh: Mesh): number {
  const faces = faceCount(mesh);
  let quads = 0;
  for (let f = 0; f < faces; f++)
    if (mesh.faceStarts[f + 1] - mesh.faceStarts[f] === 4) quads++;
  return faces ? quads / faces : 0;
}
