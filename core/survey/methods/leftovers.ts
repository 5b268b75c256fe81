import { hashPair } from "../../base/pair-set";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, vertexCount } from "../../mesh/mesh";
import { compactVertices, keepFaces } from "../../mesh/change-faces";
import type { Named } from "./finding";
import { MeshAnalysis } from "../../mesh/mesh-analysis";

/** Vertices that no face uses. */
export function findLoose({ mesh }: MeshAnalysis): Named {
  const used = usedVertices(mesh);
  const vertices: number[] = [];
  for (let v = 0; v < used.length; v++) if (!used[v]) vertices.push(v);
  return { count: vertices.length, vertices };
}

/** A mesh without the vertices that no face uses, and how many those were. */
export function dropLoose(mesh: Mesh): { mesh: Mesh; gone: number } {
  const next = compactVertices(mesh);
  return { mesh: next, gone: vertexCount(mesh) - vertexCount(next) };
}

function usedVertices(mesh: Mesh): Uint8Array {
  const used = new Uint8Array(vertexCount(mesh));
  for (let c = 0; c < mesh.corners.length; c++) used[mesh.corners[c]] = 1;
  return used;
}

/** Vertices that are to be joined with an earlier one within the tolerance; loose vertices are told apart. */
export function findCoincident(look: MeshAnalysis): Named {
  const target = weldTargets(look);
  const used = usedVertices(look.mesh);
  const vertices: number[] = [];
  for (let v = 0; v < target.length; v++)
    if (target[v] !== v && used[v] && used[target[v]]) vertices.push(v);
  return { count: vertices.length, vertices };
}

/**
 * For every vertex the one it is to be joined with. Closed surfaces that only touch in a vertex are left apart,
 * unless faces lie on each other there: joining them would mend nothing.
 */
export function weldTargets(look: MeshAnalysis): Uint32Array {
  const { mesh, edges } = look;
  const target = look.target.slice();
  if (!target.some((to, v) => to !== v)) return target;
  const open = new Uint8Array(target.length);
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] === 1)
      open[edges.vertices[2 * e]] = open[edges.vertices[2 * e + 1]] = 1;
  for (const f of findDuplicateFaces(look).faces!)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      open[mesh.corners[c]] = 1;
  for (let v = 0; v < target.length; v++) if (!open[v]) target[v] = v;
  return target;
}

/** Faces over the same places as an earlier face, whichever way round. */
export function findDuplicateFaces(look: MeshAnalysis): Named {
  const { mesh, target, edges } = look;
  // Where no vertices coincide and no edge has three faces, a face can only lie on the one all its edges share.
  if (
    edges.uses.every((uses) => uses <= 2) &&
    target.every((to, v) => to === v)
  )
    return findPillows(look);
  const faces: number[] = [];
  const count = faceCount(mesh);
  const size = 1 << Math.max(4, Math.ceil(Math.log2(count * 1.5 + 1)));
  const heads = new Int32Array(size).fill(-1);
  const links = new Int32Array(count).fill(-1);
  for (let f = 0; f < count; f++) {
    const s = mesh.faceStarts[f];
    const e = mesh.faceStarts[f + 1];
    // The same for any order of the same vertices.
    let sum = 0;
    let mix = 0;
    for (let c = s; c < e; c++) {
      const v = target[mesh.corners[c]];
      sum = (sum + v) | 0;
      mix ^= hashPair(v, v);
    }
    const slot = hashPair(sum >>> 0, mix >>> 0) & (size - 1);
    let twin = heads[slot];
    while (twin >= 0 && !sameVertices(look, f, twin)) twin = links[twin];
    if (twin >= 0) faces.push(f);
    else {
      links[f] = heads[slot];
      heads[slot] = f;
    }
  }
  return { count: faces.length, faces };
}

/** The later one of every two faces that share all their edges. */
function findPillows(look: MeshAnalysis): Named {
  const { mesh, face } = look;
  const faces: number[] = [];
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    const d = look.across(s);
    const g = d < 0 ? f : face[d];
    if (g < f && sameVertices(look, f, g)) faces.push(f);
  }
  return { count: faces.length, faces };
}

function sameVertices({ mesh, target }: MeshAnalysis, f: number, g: number) {
  const s = mesh.faceStarts[f];
  const e = mesh.faceStarts[f + 1];
  const t = mesh.faceStarts[g];
  if (mesh.faceStarts[g + 1] - t !== e - s) return false;
  for (let c = s; c < e; c++) {
    const v = target[mesh.corners[c]];
    let found = false;
    for (let d = t; d < t + e - s && !found; d++)
      found = target[mesh.corners[d]] === v;
    if (!found) return false;
  }
  return true;
}

/** A mesh without faces that have the same vertices as one before them, and how many those were. */
export function dropDuplicateFaces(
  mesh: Mesh,
  tolerance: number,
): { mesh: Mesh; gone: number } {
  const { faces = [] } = findDuplicateFaces(new MeshAnalysis(mesh, tolerance));
  if (!faces.length) return { mesh, gone: 0 };
  const keep = new Uint8Array(faceCount(mesh)).fill(1);
  for (const f of faces) keep[f] = 0;
  return { mesh: keepFaces(mesh, keep), gone: faces.length };
}

/** Most rounds of closing pockets: each may bring faces together that make another one. */
const POCKET_ROUNDS = 16;

/**
 * Takes pockets out: two triangles back to back over the same places that share an edge. Their other corners become
 * one vertex, so that the faces round them meet.
 */
export function closePockets(
  mesh: Mesh,
  tolerance: number,
): { mesh: Mesh; gone: number } {
  let gone = 0;
  let at = mesh;
  for (let round = 0; round < POCKET_ROUNDS; round++) {
    const next = withoutPockets(new MeshAnalysis(at, tolerance));
    if (next === at) break;
    gone += faceCount(at) - faceCount(next);
    at = next;
  }
  return { mesh: at, gone };
}

function withoutPockets({
  mesh,
  target,
  edges,
  next,
  face,
}: MeshAnalysis): Mesh {
  const keep = new Uint8Array(faceCount(mesh)).fill(1);
  const name = new Uint32Array(vertexCount(mesh)).map((_, v) => v);
  const busy = new Set<number>();
  const isThree = (f: number) =>
    mesh.faceStarts[f + 1] - mesh.faceStarts[f] === 3;
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const [c, d] = [edges.first[e], edges.second[e]];
    const [f, g] = [face[c], face[d]];
    const v = mesh.corners[next[next[c]]];
    const w = mesh.corners[next[next[d]]];
    if (target[v] !== target[w] || !isThree(f) || !isThree(g)) continue;
    const all = [v, w, ...edges.vertices.subarray(2 * e, 2 * e + 2)];
    if (f === g || !keep[f] || !keep[g] || all.some((x) => busy.has(x)))
      continue;
    keep[f] = keep[g] = 0;
    name[Math.max(v, w)] = Math.min(v, w);
    for (const x of all) busy.add(x);
  }
  if (!busy.size) return mesh;
  return keepFaces(
    { ...mesh, corners: mesh.corners.map((v) => name[v]) },
    keep,
  );
}
