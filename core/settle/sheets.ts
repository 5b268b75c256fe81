import { pairByAngle } from "./pair-spokes";
import type { Edges } from "../mesh/edges";
import { buildEdges } from "../mesh/edges";
import { faceAreas } from "../mesh/area";
import { facesRound } from "../mesh/faces-round";
import { MeshAnalysis } from "../mesh/mesh-analysis";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { compactVertices, onlyFaces } from "../mesh/change-faces";
import { indicesOf } from "../base/ranges";
import { MOST_PLACES } from "./work";

/** Edges that more than two faces use. */
export function findNonManifoldEdges({ edges }: MeshAnalysis) {
  const found: number[] = [];
  for (let e = 0; e < edges.count; e++) if (edges.uses[e] > 2) found.push(e);
  return { count: found.length, edges: found };
}

/** Vertices where surfaces meet in a point only: their faces make more than one fan, and no edge says why. */
export function findNonManifoldVertices(look: MeshAnalysis) {
  const { mesh, edges, next } = look;
  const { corners } = mesh;
  const count = mesh.positions.length / 3;
  const valence = new Uint32Array(count);
  const first = new Int32Array(count).fill(-1);
  for (let c = 0; c < corners.length; c++) {
    const v = corners[c];
    if (valence[v]++ === 0) first[v] = c;
  }
  const explained = new Uint8Array(count);
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] > 2)
      explained[edges.vertices[2 * e]] = explained[edges.vertices[2 * e + 1]] =
        1;
  const before = previousCorners(look);
  const found: number[] = [];
  for (let v = 0; v < count; v++) {
    if (explained[v] || first[v] < 0) continue;
    let met = 1;
    let closed = false;
    // Round the vertex one way and, where a border ends that, the other way from the start.
    for (const out of [first[v], before[first[v]]]) {
      let edge = out;
      for (;;) {
        const d = look.across(edge);
        if (d < 0) break;
        const c = corners[d] === v ? d : next[d];
        closed = c === first[v];
        if (closed || met > valence[v]) break;
        met++;
        edge = c === d ? before[c] : c;
      }
      if (closed) break;
    }
    if (met !== valence[v]) found.push(v);
  }
  return { count: found.length, vertices: found };
}

/** The corner before each one in its face. */
function previousCorners({ next }: MeshAnalysis): Uint32Array {
  const before = new Uint32Array(next.length);
  for (let c = 0; c < next.length; c++) before[next[c]] = c;
  return before;
}

/** The corner across each edge where exactly two faces meet, −1 elsewhere. */
function twinsOf(look: MeshAnalysis): Int32Array {
  const { edges } = look;
  const twins = new Int32Array(look.mesh.corners.length).fill(-1);
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] === 2) {
      twins[edges.first[e]] = edges.second[e];
      twins[edges.second[e]] = edges.first[e];
    }
  return twins;
}

/**
 * Parts surfaces where more than two faces meet in an edge, or several fans in a vertex, by doubling vertices
 * (Guéziec et al. 2001, "Cutting and stitching"). At such an edge the faces that bound the same solid stay
 * together, so that closed shells stay closed; a few faces left hanging on a surface by one edge go first.
 * @param known the mesh's edges, where somebody has them
 */
export function splitNonManifold(
  mesh: Mesh,
  known: Edges | null = null,
): Parted {
  const found = partNonManifold(mesh, known);
  return found.fins ? { ...found, mesh: compactVertices(found.mesh) } : found;
}

export interface Parted {
  mesh: Mesh;
  edges: number;
  vertices: number;
  fins: number;
  /** For each face the old one, or null where none went. */
  faces: Uint32Array | null;
  /** The first of the edges and vertices, metres. */
  places: number[][];
}

/** The same, with vertices that keep their numbers: those that nothing uses any more stay, new ones follow. */
export function partNonManifold(
  mesh: Mesh,
  known: Edges | null = null,
): Parted {
  let look = new MeshAnalysis(mesh, 0, known);
  const edges = findNonManifoldEdges(look);
  const points = findNonManifoldVertices(look);
  const sides = bothSides(look);
  if (!edges.count && !points.count && !sides.length)
    return { mesh, edges: 0, vertices: 0, fins: 0, faces: null, places: [] };
  const named = [
    ...[...edges.edges, ...sides].map((e) => look.edges.vertices[2 * e]),
    ...points.vertices,
  ];
  const { keep, fins } = finsOf(look);
  if (fins) look = new MeshAnalysis(onlyFaces(mesh, keep), 0);
  return {
    mesh: parted(look),
    edges: edges.count + sides.length,
    vertices: points.count,
    fins,
    faces: fins ? Uint32Array.from(indicesOf(keep)) : null,
    places: named
      .slice(0, MOST_PLACES)
      .map((v) => [...mesh.positions.subarray(3 * v, 3 * v + 3)]),
  };
}

/** Edges at which a triangle meets the one on its back: rims of a sheet that has both its sides. */
function bothSides({ mesh, edges, next, face }: MeshAnalysis): number[] {
  const found: number[] = [];
  const { corners, faceStarts } = mesh;
  const three = (c: number) =>
    faceStarts[face[c] + 1] - faceStarts[face[c]] === 3;
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const c = edges.first[e];
    const d = edges.second[e];
    if (
      corners[next[next[c]]] === corners[next[next[d]]] &&
      three(c) &&
      three(d)
    )
      found.push(e);
  }
  return found;
}

/** Faces pulled off where one edge after parting still has more than two: rounds of it. */
const ROUNDS = 4;

function parted(look: MeshAnalysis): Mesh {
  const { edges } = look;
  const twins = twinsOf(look);
  pairByAngle(look, twins);
  const several = new Set(findNonManifoldVertices(look).vertices);
  const part = (e: number) =>
    several.add(edges.vertices[2 * e]).add(edges.vertices[2 * e + 1]);
  for (let e = 0; e < edges.count; e++) if (edges.uses[e] > 2) part(e);
  for (const e of bothSides(look)) {
    part(e);
    twins[edges.first[e]] = twins[edges.second[e]] = -1;
  }
  for (let round = 0; ; round++) {
    const made = partedAt(look, twins, several);
    // Only at what was parted can there be edges of more than two faces.
    const at = new Uint8Array(made.positions.length / 3);
    at.fill(1, look.mesh.positions.length / 3);
    for (const v of several) at[v] = 1;
    const near = facesRound(made, at);
    const left = buildEdges(near.mesh);
    const over = indicesOf(left.uses.map((uses) => (uses > 2 ? 1 : 0)));
    if (!over.length || round === ROUNDS) return made;
    // Two edges between the same two fans: faces beyond the first two come off whole.
    const full = new Set(over);
    for (let k = 0; k < left.ofCorner.length; k++) {
      const e = left.ofCorner[k];
      const c = near.oldCorner[k];
      const first = near.oldCorner[left.first[e]];
      if (!full.has(e) || c === first || c === twins[first]) continue;
      const f = look.face[c];
      for (
        let k = look.mesh.faceStarts[f];
        k < look.mesh.faceStarts[f + 1];
        k++
      ) {
        if (twins[k] >= 0) twins[twins[k]] = -1;
        twins[k] = -1;
        several.add(look.mesh.corners[k]);
      }
    }
  }
}

/** The mesh with a vertex of its own for every fan of faces that twins join, at the vertices that have several. */
function partedAt(
  look: MeshAnalysis,
  twins: Int32Array,
  several: ReadonlySet<number>,
): Mesh {
  const { mesh, next } = look;
  const before = previousCorners(look);
  const corners = mesh.corners.slice();
  const round = new Map<number, number[]>();
  for (let c = 0; c < corners.length; c++) {
    const v = corners[c];
    if (!several.has(v)) continue;
    const list = round.get(v);
    if (list) list.push(c);
    else round.set(v, [c]);
  }
  const count = mesh.positions.length / 3;
  const added: number[] = [];
  for (const [v, list] of round) {
    const met = new Set<number>();
    let fans = 0;
    for (const start of list) {
      if (met.has(start)) continue;
      const name = fans++ ? count + added.length / 3 : v;
      if (name !== v) added.push(...mesh.positions.subarray(3 * v, 3 * v + 3));
      const fan = [start];
      met.add(start);
      for (const c of fan) {
        corners[c] = name;
        for (const edge of [c, before[c]]) {
          const d = twins[edge];
          if (d < 0) continue;
          const there = mesh.corners[d] === v ? d : next[d];
          if (met.has(there)) continue;
          met.add(there);
          fan.push(there);
        }
      }
    }
  }
  const positions = new Float32Array(3 * count + added.length);
  positions.set(mesh.positions);
  positions.set(added, 3 * count);
  return { ...mesh, positions, corners };
}

/** A fin has at most so many faces, or this share of all that are this share of the area: what is larger is a surface. */
const FIN_FACES = 4;
const FIN_SHARE = 0.01;
const FIN_AREA = 3e-4;

/** Fins: a few joined faces with an open border, at edges that others close without them. */
function finsOf(look: MeshAnalysis): { keep: Uint8Array; fins: number } {
  const { mesh, face, edges } = look;
  const faces = faceCount(mesh);
  const most = Math.max(FIN_FACES, Math.floor(FIN_SHARE * faces));
  const keep = new Uint8Array(faces).fill(1);
  const group = new Int32Array(faces).fill(-1);
  const round = new Map<number, number[]>();
  const starts: number[] = [];
  for (let c = 0; c < mesh.corners.length; c++) {
    const e = edges.ofCorner[c];
    if (edges.uses[e] <= 2) continue;
    starts.push(face[c]);
    const list = round.get(e);
    if (list) list.push(face[c]);
    else round.set(e, [face[c]]);
  }
  let fins = 0;
  const areas = starts.length
    ? faceAreas(mesh, look.split)
    : new Float64Array(0);
  const largest = FIN_AREA * areas.reduce((sum, area) => sum + area, 0);
  for (const start of starts) {
    if (group[start] >= 0) continue;
    const list = [start];
    const meets = new Set<number>();
    let open = false;
    group[start] = start;
    for (let i = 0; i < list.length && list.length <= most; i++)
      for (
        let c = mesh.faceStarts[list[i]];
        c < mesh.faceStarts[list[i] + 1];
        c++
      ) {
        const e = edges.ofCorner[c];
        if (edges.uses[e] === 1) open = true;
        if (edges.uses[e] > 2) meets.add(e);
        const d = look.across(c);
        if (d < 0 || group[face[d]] >= 0) continue;
        group[face[d]] = start;
        list.push(face[d]);
      }
    if (list.length > most || !open) continue;
    let own = 0;
    for (const f of list) own += areas[f];
    if (list.length > FIN_FACES && own > largest) continue;
    const closedWithout = [...meets].every(
      (e) =>
        round.get(e)!.filter((f) => group[f] !== start && keep[f]).length >= 2,
    );
    if (!closedWithout) continue;
    for (const f of list) keep[f] = 0;
    fins += list.length;
  }
  return fins < faces ? { keep, fins } : { keep: keep.fill(1), fins: 0 };
}
