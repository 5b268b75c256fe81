import type { Mesh } from "../mesh/mesh";
import { faceCount, keepFaces } from "../mesh/mesh";
import type { Named } from "./finding";
import { cross, dot, unit } from "../space/vector";
import { LookedAt } from "../mesh/looked-at";

/** Edges that more than two faces use. */
export function findNonManifoldEdges({ edges }: LookedAt): Named {
  const found: number[] = [];
  for (let e = 0; e < edges.count; e++) if (edges.uses[e] > 2) found.push(e);
  return { count: found.length, edges: found };
}

/** Vertices where surfaces meet in a point only: their faces make more than one fan, and no edge says why. */
export function findNonManifoldVertices(look: LookedAt): Named {
  if (everyVertexHasOneFan(look)) return { count: 0, vertices: [] };
  const { mesh, edges } = look;
  const fans = fansOf(look, twinsOf(look));
  const seen = new Int32Array(mesh.positions.length / 3).fill(-1);
  const several = new Uint8Array(seen.length);
  for (let c = 0; c < mesh.corners.length; c++) {
    const v = mesh.corners[c];
    if (seen[v] < 0) seen[v] = fans[c];
    else if (seen[v] !== fans[c]) several[v] = 1;
  }
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] > 2)
      several[edges.vertices[2 * e]] = several[edges.vertices[2 * e + 1]] = 0;
  const found: number[] = [];
  for (let v = 0; v < several.length; v++) if (several[v]) found.push(v);
  return { count: found.length, vertices: found };
}

/**
 * Walks round every vertex from its first corner: true where that meets all of its corners. A quick yes for closed
 * bodies; at the first border, or anything else that needs a closer look, it says no.
 */
function everyVertexHasOneFan(look: LookedAt): boolean {
  const { mesh, next } = look;
  const { corners } = mesh;
  const count = mesh.positions.length / 3;
  const valence = new Uint32Array(count);
  const first = new Int32Array(count).fill(-1);
  for (let c = 0; c < corners.length; c++) {
    const v = corners[c];
    if (valence[v]++ === 0) first[v] = c;
  }
  for (let v = 0; v < count; v++) {
    let met = 0;
    for (let c = first[v]; c >= 0;) {
      met++;
      const d = look.across(c);
      if (d < 0 || corners[next[d]] !== v || met > valence[v]) return false;
      c = next[d];
      if (c === first[v]) break;
    }
    if (met !== valence[v]) return false;
  }
  return true;
}

/** The corner across each edge where exactly two faces meet, −1 elsewhere. */
function twinsOf(look: LookedAt): Int32Array {
  const { edges } = look;
  const twins = new Int32Array(look.mesh.corners.length).fill(-1);
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] === 2) {
      twins[edges.first[e]] = edges.second[e];
      twins[edges.second[e]] = edges.first[e];
    }
  return twins;
}

/** Corners round a vertex that are joined by twins share a number. */
function fansOf(look: LookedAt, twins: Int32Array): Int32Array {
  const { mesh, next } = look;
  const parent = new Int32Array(mesh.corners.length);
  for (let c = 0; c < parent.length; c++) parent[c] = c;
  const find = (c: number) => {
    while (parent[c] !== c) {
      parent[c] = parent[parent[c]];
      c = parent[c];
    }
    return c;
  };
  const { corners } = mesh;
  for (let c = 0; c < twins.length; c++) {
    const d = twins[c];
    if (d < c) continue;
    const same = corners[c] === corners[d];
    parent[find(c)] = find(same ? d : next[d]);
    parent[find(next[c])] = find(same ? next[d] : d);
  }
  for (let c = 0; c < parent.length; c++) parent[c] = find(c);
  return parent;
}

/**
 * Parts surfaces where more than two faces meet in an edge, or several fans in a vertex, by doubling vertices
 * (Guéziec et al. 2001, "Cutting and stitching"). At such an edge the faces that bound the same solid stay
 * together, so that closed shells stay closed; a few faces left hanging on a surface by one edge go.
 */
export function splitNonManifold(mesh: Mesh): {
  mesh: Mesh;
  edges: number;
  vertices: number;
  fins: number;
} {
  const look = new LookedAt(mesh, 0);
  const edges = findNonManifoldEdges(look);
  const points = findNonManifoldVertices(look);
  if (!edges.count && !points.count)
    return { mesh, edges: 0, vertices: 0, fins: 0 };
  const twins = twinsOf(look);
  const hanging = pairByAngle(look, twins);
  const keep = keepWithoutFins(look, twins, hanging);
  const fans = fansOf(look, twins);
  const count = mesh.positions.length / 3;
  const ownFan = new Int32Array(count).fill(-1);
  const doubles = new Map<number, number>();
  const added: number[] = [];
  const corners = mesh.corners.slice();
  for (let c = 0; c < corners.length; c++) {
    if (!keep[look.face[c]]) continue;
    const v = corners[c];
    if (ownFan[v] < 0) ownFan[v] = fans[c];
    if (ownFan[v] === fans[c]) continue;
    let double = doubles.get(fans[c]);
    if (double === undefined) {
      double = count + added.length / 3;
      doubles.set(fans[c], double);
      added.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
    }
    corners[c] = double;
  }
  const positions = new Float32Array(3 * count + added.length);
  positions.set(mesh.positions);
  positions.set(added, 3 * count);
  const fins = keep.reduce((sum, kept) => sum + (kept ? 0 : 1), 0);
  const split = { ...mesh, positions, corners };
  return {
    mesh: fins ? keepFaces(split, keep) : split,
    edges: edges.count,
    vertices: points.count,
    fins,
  };
}

/**
 * Pairs the faces round each edge of more than two: a face that runs against the edge with the next one, turning
 * about the edge, that runs along it; between them lies the inside. @returns corners that found no partner
 */
function pairByAngle(look: LookedAt, twins: Int32Array): number[] {
  const { mesh, edges } = look;
  const p = mesh.positions;
  const round = new Map<number, number[]>();
  for (let c = 0; c < mesh.corners.length; c++) {
    const e = edges.ofCorner[c];
    if (edges.uses[e] > 2) round.set(e, [...(round.get(e) ?? []), c]);
  }
  const hanging: number[] = [];
  for (const [e, corners] of round) {
    const a = 3 * edges.vertices[2 * e];
    const b = 3 * edges.vertices[2 * e + 1];
    const axis = unit([p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]);
    const helper = Math.abs(axis[0]) < 0.7 ? [1, 0, 0] : [0, 1, 0];
    const side = unit(cross(axis, helper));
    const up = cross(axis, side);
    const fan = corners
      .map((c) => {
        const along = 3 * mesh.corners[c] === a;
        const into = inPlane(look, c, axis, along);
        const angle = Math.atan2(dot(into, up), dot(into, side));
        return { c, along, angle };
      })
      .sort((x, y) => x.angle - y.angle || x.c - y.c);
    const free = new Set(fan.map((_, i) => i));
    fan.forEach((one, i) => {
      if (one.along || !free.has(i)) return;
      const j = (i + 1) % fan.length;
      if (!fan[j].along || !free.has(j)) return;
      twins[one.c] = fan[j].c;
      twins[fan[j].c] = one.c;
      free.delete(i);
      free.delete(j);
    });
    for (const i of free) hanging.push(fan[i].c);
  }
  return hanging;
}

/** The direction from an edge into the face of a corner, at right angles to the edge. */
function inPlane(
  look: LookedAt,
  corner: number,
  axis: readonly number[],
  along: boolean,
): number[] {
  const { mesh, face } = look;
  const p = mesh.positions;
  const f = face[corner];
  const normal = [0, 0, 0];
  const s = mesh.faceStarts[f];
  const o = 3 * mesh.corners[s];
  for (let c = s + 1; c + 1 < mesh.faceStarts[f + 1]; c++) {
    const a = 3 * mesh.corners[c];
    const b = 3 * mesh.corners[c + 1];
    const n = cross(
      [p[a] - p[o], p[a + 1] - p[o + 1], p[a + 2] - p[o + 2]],
      [p[b] - p[o], p[b + 1] - p[o + 1], p[b + 2] - p[o + 2]],
    );
    for (let k = 0; k < 3; k++) normal[k] += n[k];
  }
  const into = cross(normal, axis);
  return unit(along ? into : into.map((x) => -x));
}

/** A fin is a group of a few joined faces, open, that found no partner at an edge of a larger surface. */
function keepWithoutFins(
  look: LookedAt,
  twins: Int32Array,
  hanging: readonly number[],
): Uint8Array {
  const { mesh, face } = look;
  const faces = faceCount(mesh);
  const keep = new Uint8Array(faces).fill(1);
  const group = new Int32Array(faces).fill(-1);
  for (const start of hanging) {
    if (group[face[start]] >= 0) continue;
    const list = [face[start]];
    group[face[start]] = face[start];
    const most = Math.max(4, Math.floor(faces / 100));
    for (let i = 0; i < list.length && list.length <= most; i++)
      for (
        let c = mesh.faceStarts[list[i]];
        c < mesh.faceStarts[list[i] + 1];
        c++
      ) {
        if (twins[c] < 0 || group[face[twins[c]]] >= 0) continue;
        group[face[twins[c]]] = face[start];
        list.push(face[twins[c]]);
      }
    if (list.length <= most) for (const f of list) keep[f] = 0;
  }
  return keep.some((kept) => kept) ? keep : keep.fill(1);
}
