import type { Edges } from "../mesh/edges";
import { meanEdge } from "../mesh/edges";
import type { FacesRound } from "../mesh/faces-round";
import { facesRound } from "../mesh/faces-round";
import { MeshAnalysis } from "../mesh/mesh-analysis";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { withMoreFaces } from "../mesh/more-faces";
import { MOST_PLACES } from "./work";

/** A loop shorter than this share of the mean edge means nothing. */
const LOOP = 0.01;
const ROUNDS = 3;
/** Faces round a vertex, at the most. */
const MOST_ROUND = 200;

/** Three corners whose edges run round a handle, the part on their left to be cut off the part on their right. */
type Loop = readonly [number, number, number];

export interface CutNecks {
  mesh: Mesh;
  count: number;
  /** For each face the old one that it is, or that it is like. */
  faces: Uint32Array;
  places: number[][];
}

/**
 * Cuts necks and handles whose edges are too short to mean anything, and closes both sides with a triangle: no edge
 * of theirs can be collapsed, as that would join surfaces (after Guskov and Wood 2001, "Topological noise removal").
 * No vertex moves. Loops of three edges that bound no face are found.
 */
export function cutNecks(mesh: Mesh): CutNecks {
  const found: CutNecks = {
    mesh,
    count: 0,
    faces: new Uint32Array(faceCount(mesh)).map((_, f) => f),
    places: [],
  };
  for (let round = 0; round < ROUNDS; round++) {
    const most = LOOP * meanEdge(found.mesh);
    const near = facesRound(found.mesh, endsOfShort(found.mesh, most / 2));
    const look = new MeshAnalysis(near.mesh, 0);
    const loops = apart(look, loopsOf(look, most));
    const { mesh: next, like, cut } = cutAt(found.mesh, near, look, loops);
    if (!cut.length) break;
    const { positions, corners } = found.mesh;
    for (const [c] of cut.slice(0, MOST_PLACES - found.places.length)) {
      const v = 3 * corners[near.oldCorner[c]];
      found.places.push([...positions.subarray(v, v + 3)]);
    }
    found.mesh = next;
    found.count += cut.length;
    found.faces = Uint32Array.from([
      ...found.faces,
      ...like.map((f) => found.faces[f]),
    ]);
  }
  return found;
}

/** Marks the vertices at both ends of edges that are shorter. */
function endsOfShort(mesh: Mesh, most: number): Uint8Array {
  const { positions: p, corners, faceStarts } = mesh;
  const ends = new Uint8Array(p.length / 3);
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    let b = corners[faceStarts[f + 1] - 1];
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++) {
      const a = b;
      b = corners[c];
      const x = p[3 * a] - p[3 * b];
      const y = p[3 * a + 1] - p[3 * b + 1];
      const z = p[3 * a + 2] - p[3 * b + 2];
      if (x * x + y * y + z * z < most * most) ends[a] = ends[b] = 1;
    }
  }
  return ends;
}

/**
 * Loops of three short edges that bound no face, shortest first, each told by the corners that its edges leave.
 * @param most length of a loop, metres
 */
function loopsOf(look: MeshAnalysis, most: number): Loop[] {
  const { edges, mesh, next } = look;
  const { positions: p, corners } = mesh;
  const near = neighboursOf(look, most);
  const { starts, others, byEdge } = near;
  const mark = new Int32Array(p.length / 3).fill(-1);
  const found: { loop: Loop; length: number }[] = [];
  const length = (e: number) => lengthOf(p, edges, e);
  for (let a = 0; a < mark.length; a++) {
    for (let i = starts[a]; i < starts[a + 1]; i++) mark[others[i]] = byEdge[i];
    for (let i = starts[a]; i < starts[a + 1]; i++) {
      const b = others[i];
      if (b < a) continue;
      for (let j = starts[b]; j < starts[b + 1]; j++) {
        const w = others[j];
        if (w < b || mark[w] < 0) continue;
        const sum = length(byEdge[i]) + length(byEdge[j]) + length(mark[w]);
        if (sum > most || bounds(byEdge[i], w)) continue;
        found.push({
          loop: [
            leaving(byEdge[i], a),
            leaving(byEdge[j], b),
            leaving(mark[w], w),
          ],
          length: sum,
        });
      }
    }
    for (let i = starts[a]; i < starts[a + 1]; i++) mark[others[i]] = -1;
  }
  return found
    .sort((x, y) => x.length - y.length || x.loop[0] - y.loop[0])
    .map(({ loop }) => loop);

  /** Whether a face at an edge has its third corner at a vertex. */
  function bounds(e: number, w: number): boolean {
    return [edges.first[e], edges.second[e]].some(
      (c) => corners[next[next[c]]] === w,
    );
  }

  /** The corner of an edge's two that is at a vertex. */
  function leaving(e: number, v: number): number {
    return corners[edges.first[e]] === v ? edges.first[e] : edges.second[e];
  }
}

function lengthOf(p: Float32Array, { vertices }: Edges, e: number): number {
  const [a, b] = [3 * vertices[2 * e], 3 * vertices[2 * e + 1]];
  const x = p[a] - p[b];
  const y = p[a + 1] - p[b + 1];
  const z = p[a + 2] - p[b + 2];
  return Math.sqrt(x * x + y * y + z * z);
}

/** For each vertex the ends of its edges that are short and have a face on either side, and those edges. */
function neighboursOf({ edges, mesh }: MeshAnalysis, most: number) {
  const { positions: p, corners } = mesh;
  const good = (e: number) =>
    edges.uses[e] === 2 &&
    corners[edges.first[e]] !== corners[edges.second[e]] &&
    2 * lengthOf(p, edges, e) < most;
  const starts = new Uint32Array(p.length / 3 + 1);
  const short = new Uint8Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    if (!good(e)) continue;
    short[e] = 1;
    starts[edges.vertices[2 * e] + 1]++;
    starts[edges.vertices[2 * e + 1] + 1]++;
  }
  for (let v = 0; v + 1 < starts.length; v++) starts[v + 1] += starts[v];
  const others = new Uint32Array(starts[starts.length - 1]);
  const byEdge = new Uint32Array(others.length);
  const at = starts.slice(0, -1);
  for (let e = 0; e < edges.count; e++) {
    if (!short[e]) continue;
    const [a, b] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
    others[at[a]] = b;
    byEdge[at[a]++] = e;
    others[at[b]] = a;
    byEdge[at[b]++] = e;
  }
  return { starts, others, byEdge };
}

/** Those of the loops that share no face with one before. */
function apart(
  { mesh, face, next }: MeshAnalysis,
  loops: readonly Loop[],
): Loop[] {
  const { corners } = mesh;
  const ends = new Set<number>();
  for (const loop of loops) for (const c of loop) ends.add(corners[c]);
  const facesAt = new Map<number, number[]>();
  corners.forEach((v, c) => {
    if (!ends.has(v)) return;
    const list = facesAt.get(v);
    if (list) list.push(face[c]);
    else facesAt.set(v, [face[c]]);
  });
  const taken = new Set<number>();
  return loops.filter((loop) => {
    const all = loop.flatMap((c) => facesAt.get(corners[c])!);
    // A loop runs one way round: each of its edges goes on where the one before ends.
    const runs = loop.every(
      (c, k) => corners[next[c]] === corners[loop[(k + 1) % 3]],
    );
    if (!runs || all.some((f) => taken.has(f))) return false;
    for (const f of all) taken.add(f);
    return true;
  });
}

/**
 * Cuts along loops that share no face: what is on their left gets vertices of its own, both sides a triangle.
 * @param near the mesh's faces that are looked at, whose corners the loops are told by
 * @returns the loops that were cut: one that meets a border can't be
 */
function cutAt(
  mesh: Mesh,
  near: FacesRound,
  look: MeshAnalysis,
  loops: readonly Loop[],
): { mesh: Mesh; like: number[]; cut: Loop[] } {
  const { face, next } = look;
  if (!loops.length) return { mesh, like: [], cut: [] };
  const before = new Uint32Array(next.length);
  for (let c = 0; c < next.length; c++) before[next[c]] = c;
  const own = mesh.corners.slice();
  const count = mesh.positions.length / 3;
  const points: number[] = [];
  const corners: number[] = [];
  const oldCorner: number[] = [];
  const cut = loops.filter((loop) => {
    const fans = loop.map((c, k) => fanOf(look, before, c, loop[(k + 2) % 3]));
    if (fans.includes(null)) return false;
    const from = loop.map((c) => near.oldCorner[c]);
    const old = from.map((c) => mesh.corners[c]);
    const made = old.map((_, k) => count + points.length / 3 + k);
    old.forEach((v, k) => {
      points.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
      for (const c of fans[k]!) own[near.oldCorner[c]] = made[k];
    });
    corners.push(made[0], made[2], made[1], ...old);
    oldCorner.push(from[0], from[2], from[1], ...from);
    return true;
  });
  const like = cut.flatMap(([c]) => {
    const f = near.oldFace[face[c]];
    return [f, f];
  });
  const more = { points, corners, oldCorner, oldFace: like };
  const ends = like.map((_, i) => 3 * (i + 1));
  return {
    mesh: withMoreFaces({ ...mesh, corners: own }, { ...more, ends }),
    like,
    cut,
  };
}

/** Corners at a vertex from the edge that leaves it to the one that comes in, on the left of both; null at borders. */
function fanOf(
  look: MeshAnalysis,
  before: Uint32Array,
  out: number,
  into: number,
): number[] | null {
  const { corners } = look.mesh;
  const fan: number[] = [];
  for (let c = out; fan.length < MOST_ROUND;) {
    fan.push(c);
    if (before[c] === into) return fan;
    c = look.across(before[c]);
    if (c < 0 || corners[c] !== corners[out]) return null;
  }
  return null;
}
