import { faceComponents } from "./components";
import type { Edges } from "./edges";
import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceCount, faceOfCorners } from "./mesh";
import { faceNormals, nextCorners } from "./normals";

/** Everything a selection needs to know of a mesh; made once, used for every click. */
export interface Neighbours {
  mesh: Mesh;
  edges: Edges;
  face: Uint32Array;
  next: Uint32Array;
  normals: Float32Array;
}

/** What selecting over edges needs to know of a mesh. */
export function neighboursOf(mesh: Mesh): Neighbours {
  return {
    mesh,
    edges: buildEdges(mesh),
    face: faceOfCorners(mesh),
    next: nextCorners(mesh.faceStarts, mesh.corners.length),
    normals: faceNormals(mesh),
  };
}

/** The corner on the other side of the edge from a corner, or −1 at borders and where more than two faces meet. */
export function across({ edges }: Neighbours, corner: number): number {
  const e = edges.ofCorner[corner];
  if (edges.uses[e] !== 2) return -1;
  return edges.first[e] === corner ? edges.second[e] : edges.first[e];
}

/**
 * Marks the faces that share the value of `of` with a face: its component, its material, its ID.
 * @param values faceCount
 */
export function sameAs(of: ArrayLike<number>, face: number): Uint8Array {
  return Uint8Array.from(of, (value) => (value === of[face] ? 1 : 0));
}

/** faceCount marks: 1 for faces connected with one. */
export const componentOf = (mesh: Mesh, face: number) =>
  sameAs(faceComponents(mesh).ofFace, face);

/** faceCount marks: 1 for faces of one's material. */
export const materialOf = (mesh: Mesh, face: number) =>
  sameAs(mesh.faceMaterials ?? new Uint16Array(faceCount(mesh)), face);

/**
 * Floods from a face over edges that turn by no more than an angle.
 * @param degrees 0 … 180
 * @returns faceCount marks
 */
export function flood(
  near: Neighbours,
  face: number,
  degrees: number,
): Uint8Array {
  const { mesh, normals } = near;
  const marks = new Uint8Array(faceCount(mesh));
  const limit = Math.cos((degrees * Math.PI) / 180) - 1e-6;
  const waiting = [face];
  marks[face] = 1;
  while (waiting.length) {
    const f = waiting.pop()!;
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const d = across(near, c);
      if (d < 0) continue;
      const g = near.face[d];
      if (marks[g]) continue;
      const dot =
        normals[3 * f] * normals[3 * g] +
        normals[3 * f + 1] * normals[3 * g + 1] +
        normals[3 * f + 2] * normals[3 * g + 2];
      if (dot < limit) continue;
      marks[g] = 1;
      waiting.push(g);
    }
  }
  return marks;
}

/**
 * Adds every face that shares a vertex with a marked one.
 * @param marks faceCount
 */
export function grow(mesh: Mesh, marks: ArrayLike<number>): Uint8Array {
  const touched = touchedVertices(mesh, marks, 1);
  return facesWith(mesh, (v) => touched[v] === 1);
}

/**
 * Takes every face away that shares a vertex with one that is not marked.
 * @param marks faceCount
 */
export function shrink(mesh: Mesh, marks: ArrayLike<number>): Uint8Array {
  const touched = touchedVertices(mesh, marks, 0);
  const outside = facesWith(mesh, (v) => touched[v] === 1);
  return Uint8Array.from(marks, (mark, f) => (mark && !outside[f] ? 1 : 0));
}

/** The same count of marks, 1 where there was 0. */
export const invert = (marks: ArrayLike<number>): Uint8Array =>
  Uint8Array.from(marks, (mark) => (mark ? 0 : 1));

function touchedVertices(
  mesh: Mesh,
  marks: ArrayLike<number>,
  value: 0 | 1,
): Uint8Array {
  const touched = new Uint8Array(mesh.positions.length / 3);
  for (let f = 0; f < marks.length; f++)
    if ((marks[f] ? 1 : 0) === value)
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
        touched[mesh.corners[c]] = 1;
  return touched;
}

function facesWith(mesh: Mesh, is: (vertex: number) => boolean): Uint8Array {
  const marks = new Uint8Array(faceCount(mesh));
  for (let f = 0; f < marks.length; f++)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      if (is(mesh.corners[c])) {
        marks[f] = 1;
        break;
      }
  return marks;
}

/**
 * The edge loop through the edge that leaves a corner: goes straight on at vertices of four faces, ends where
 * there is no straight on, and follows a border along the border.
 * @returns edges, in no order
 */
export function edgeLoop(near: Neighbours, corner: number): number[] {
  const { edges } = near;
  const found = new Set([edges.ofCorner[corner]]);
  if (edges.uses[edges.ofCorner[corner]] === 1) {
    walkBorder(near, corner, found);
    return [...found];
  }
  for (const start of [corner, across(near, corner)]) {
    for (let c = start; c >= 0;) {
      c = straightOn(near, c);
      if (c < 0 || found.has(edges.ofCorner[c])) break;
      found.add(edges.ofCorner[c]);
    }
  }
  return [...found];
}

/** The corner whose edge goes straight on from the end of a corner's edge: two faces further round the vertex. */
function straightOn(near: Neighbours, corner: number): number {
  const { next } = near;
  const sides = facesRound(near, next[corner]);
  if (sides !== 4) return -1;
  const d = across(near, next[corner]);
  return d < 0 ? -1 : next[d];
}

/** How many faces surround the vertex of a corner, or −1 where it lies on a border. */
function facesRound(near: Neighbours, corner: number): number {
  let c = corner;
  for (let count = 1; count < 64; count++) {
    const d = across(near, c);
    if (d < 0) return -1;
    c = near.next[d];
    if (c === corner) return count;
  }
  return -1;
}

function walkBorder(near: Neighbours, start: number, found: Set<number>) {
  for (let c = start; ;) {
    let h = near.next[c];
    for (let turns = 0; turns < 256; turns++) {
      const d = across(near, h);
      if (d < 0) break;
      h = near.next[d];
    }
    if (near.edges.uses[near.edges.ofCorner[h]] !== 1) return;
    if (found.has(near.edges.ofCorner[h])) return;
    found.add(near.edges.ofCorner[h]);
    c = h;
  }
}

/** The edge ring of the edge that leaves a corner: the edges opposite each other across quads. */
export function edgeRing(near: Neighbours, corner: number): number[] {
  const { mesh, edges, next, face } = near;
  const found = new Set([edges.ofCorner[corner]]);
  for (const start of [corner, across(near, corner)])
    for (let c = start; c >= 0;) {
      const f = face[c];
      if (mesh.faceStarts[f + 1] - mesh.faceStarts[f] !== 4) break;
      const opposite = next[next[c]];
      if (found.has(edges.ofCorner[opposite])) break;
      found.add(edges.ofCorner[opposite]);
      c = across(near, opposite);
    }
  return [...found];
}

/**
 * The faces on either side of some edges.
 * @returns faceCount marks
 */
export function facesAlong(
  near: Neighbours,
  edgeList: readonly number[],
): Uint8Array {
  const marks = new Uint8Array(faceCount(near.mesh));
  for (const e of edgeList)
    for (const c of [near.edges.first[e], near.edges.second[e]])
      if (c >= 0) marks[near.face[c]] = 1;
  return marks;
}

/**
 * The faces whose middle lies within a distance of a point: one dab of a round brush.
 * @param radius metres
 * @param marks faceCount: set within the ball, whose centre and radius are in metres
 */
export function facesNear(
  mesh: Mesh,
  x: number,
  y: number,
  z: number,
  radius: number,
  into: Uint8Array,
  value: 0 | 1 = 1,
): void {
  const p = mesh.positions;
  for (let f = 0; f < into.length; f++) {
    const s = mesh.faceStarts[f];
    const e = mesh.faceStarts[f + 1];
    let mx = 0;
    let my = 0;
    let mz = 0;
    for (let c = s; c < e; c++) {
      const v = 3 * mesh.corners[c];
      mx += p[v];
      my += p[v + 1];
      mz += p[v + 2];
    }
    const n = e - s;
    const d = (mx / n - x) ** 2 + (my / n - y) ** 2 + (mz / n - z) ** 2;
    if (d <= radius * radius) into[f] = value;
  }
}
