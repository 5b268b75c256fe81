import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount, vertexCount } from "../mesh/mesh";
import { cornerNormals, faceNormals } from "../mesh/normals";

export interface Links {
  starts: Uint32Array;
  ends: Uint32Array;
  /** 1 for vertices on an open border. */
  border: Uint8Array;
}

/** For each vertex its neighbours over edges, and which lie on open borders. */
export function linksOf(mesh: Mesh): Links {
  const edges = buildEdges(mesh);
  const count = vertexCount(mesh);
  const starts = new Uint32Array(count + 1);
  const border = new Uint8Array(count);
  for (let i = 0; i < 2 * edges.count; i++) {
    starts[edges.vertices[i] + 1]++;
    if (edges.uses[i >> 1] === 1) border[edges.vertices[i]] = 1;
  }
  for (let v = 0; v < count; v++) starts[v + 1] += starts[v];
  const ends = new Uint32Array(2 * edges.count);
  const at = starts.slice(0, count);
  for (let e = 0; e < edges.count; e++) {
    const [a, b] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
    ends[at[a]++] = b;
    ends[at[b]++] = a;
  }
  return { starts, ends, border };
}

/** 3 × vertexCount: unit vectors, the mean of the faces round each vertex. */
export function vertexNormals(mesh: Mesh): Float32Array {
  const smooth = cornerNormals({ ...mesh, hard: null, normals: null });
  const normals = new Float32Array(mesh.positions.length);
  for (let c = 0; c < mesh.corners.length; c++)
    for (let k = 0; k < 3; k++)
      normals[3 * mesh.corners[c] + k] += smooth[3 * c + k];
  for (let v = 0; v < normals.length; v += 3) {
    const length = Math.hypot(normals[v], normals[v + 1], normals[v + 2]) || 1;
    for (let k = 0; k < 3; k++) normals[v + k] /= length;
  }
  return normals;
}

/** Faces that were turned over or drawn long by moving the vertices. */
export function facesInTrouble(
  before: Mesh,
  after: Mesh,
): Pick<ClingTrouble, "folded" | "stretched"> {
  const edges = buildEdges(before);
  const old = faceNormals(before);
  const now = faceNormals(after);
  const face = new Uint32Array(before.corners.length);
  for (let f = 0; f < faceCount(before); f++)
    face.fill(f, before.faceStarts[f], before.faceStarts[f + 1]);
  const folded = new Set<number>();
  const grown = new Float32Array(edges.count);
  const sorted: number[] = [];
  const cosine = (normals: Float32Array, f: number, g: number) =>
    normals[3 * f] * normals[3 * g] +
    normals[3 * f + 1] * normals[3 * g + 1] +
    normals[3 * f + 2] * normals[3 * g + 2];
  const length = (mesh: Mesh, e: number) => {
    const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
    return Math.hypot(
      mesh.positions[a] - mesh.positions[b],
      mesh.positions[a + 1] - mesh.positions[b + 1],
      mesh.positions[a + 2] - mesh.positions[b + 2],
    );
  };
  for (let e = 0; e < edges.count; e++) {
    grown[e] = length(after, e) / (length(before, e) || 1e-12);
    sorted.push(grown[e]);
    if (edges.uses[e] !== 2) continue;
    const [f, g] = [face[edges.first[e]], face[edges.second[e]]];
    if (cosine(now, f, g) < -0.3 && cosine(old, f, g) > -0.2) {
      folded.add(f);
      folded.add(g);
    }
  }
  sorted.sort((a, b) => a - b);
  const usual = sorted[sorted.length >> 1] || 1;
  const stretched = new Set<number>();
  for (let e = 0; e < edges.count; e++) {
    if (grown[e] <= STRETCH * usual) continue;
    stretched.add(face[edges.first[e]]);
    if (edges.uses[e] === 2) stretched.add(face[edges.second[e]]);
  }
  const rising = (set: Set<number>) => [...set].sort((a, b) => a - b);
  return { folded: rising(folded), stretched: rising(stretched) };
}

export type ClingWay = "nearest" | "normals" | "x" | "y" | "z";

export interface ClingOptions {
  way: ClingWay;
  /** How far off the surface the points come to lie, metres, outwards. */
  offset: number;
  /** Points farther away than this stay where they are, metres; Infinity for all. */
  reach: number;
  /** Rounds in which the points even out along the surface. */
  relax: number;
  /** vertexCount: 1 for points that stay; null for none. */
  held: Uint8Array | null;
}

/** What went wrong with a mesh that clings: points by vertex, folds and stretched faces by face. */
export interface ClingTrouble {
  /** Points that landed where the surface faces away from them, or far from where their neighbours went. */
  wrong: number[];
  /** Faces that turned over against the surface or a neighbour. */
  folded: number[];
  /** Faces with an edge that grew more than STRETCH times as much as its neighbours. */
  stretched: number[];
  /** Points that found nothing within reach. */
  missed: number[];
}

export const STRETCH = 3;

/** A landing is wrong where the surface faces this much away from the point's own normal. */
export const WRONG_FACING = -0.1;

/** A point that moves by no more than this share of the edges at it was there already. */
export const THERE = 0.05;

/** Mean length of the edges at a vertex, metres. */
export function meanEdge(
  mesh: Mesh,
  { starts, ends }: Links,
  v: number,
): number {
  const p = mesh.positions;
  let sum = 0;
  for (let i = starts[v]; i < starts[v + 1]; i++) {
    const w = 3 * ends[i];
    sum += Math.hypot(
      p[w] - p[3 * v],
      p[w + 1] - p[3 * v + 1],
      p[w + 2] - p[3 * v + 2],
    );
  }
  return sum / Math.max(1, starts[v + 1] - starts[v]);
}

/**
 * Half a step of every free point to the middle of its neighbours, along the surface only.
 * @param positions, normals 3 × vertexCount: metres, changed; unit vectors
 * @param held, lost vertexCount: 1 for those that stay
 */
export function evenOut(
  positions: Float32Array,
  normals: Float32Array,
  { starts, ends, border }: Links,
  held: Uint8Array | null,
  lost: Uint8Array,
): void {
  for (let v = 0; v < starts.length - 1; v++) {
    if (held?.[v] || border[v] || lost[v] || starts[v] === starts[v + 1])
      continue;
    const n = 3 * v;
    const d = [0, 0, 0];
    for (let i = starts[v]; i < starts[v + 1]; i++)
      for (let k = 0; k < 3; k++)
        d[k] +=
          (positions[3 * ends[i] + k] - positions[n + k]) /
          (starts[v + 1] - starts[v]);
    const up =
      d[0] * normals[n] + d[1] * normals[n + 1] + d[2] * normals[n + 2];
    for (let k = 0; k < 3; k++)
      positions[n + k] += 0.5 * (d[k] - up * normals[n + k]);
  }
}

/**
 * Points that went somewhere else than the points round them: by more than twice the edges there.
 * @param off 3 × vertexCount: how far each was moved, metres
 * @param wrong, held vertexCount marks; `wrong` is set
 */
export function markOutliers(
  mesh: Mesh,
  links: Links,
  off: Float32Array,
  wrong: Uint8Array,
  held: Uint8Array | null,
): void {
  const { starts, ends } = links;
  const found: number[] = [];
  for (let v = 0; v < starts.length - 1; v++) {
    if (held?.[v]) continue;
    const n = starts[v + 1] - starts[v];
    if (!n) continue;
    const differ: number[] = [];
    for (let i = starts[v]; i < starts[v + 1]; i++) {
      const w = 3 * ends[i];
      let apart = 0;
      for (let k = 0; k < 3; k++) apart += (off[w + k] - off[3 * v + k]) ** 2;
      differ.push(Math.sqrt(apart));
    }
    differ.sort((a, b) => a - b);
    if (differ[n >> 1] > 2 * meanEdge(mesh, links, v)) found.push(v);
  }
  for (const v of found) wrong[v] = 1;
}
