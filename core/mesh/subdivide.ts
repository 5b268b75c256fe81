import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { createMesh, faceCount, faceOfCorners, vertexCount } from "./mesh";
import { nextCorners } from "./normals";

/** Sharpness that never smooths, in tenths. */
export const SHARP = 100;

/**
 * One step of Catmull and Clark 1978: every face of n corners becomes n quads. Creases follow DeRose, Kass and
 * Truong 1998: an edge of sharpness ≥ 1 is split in its middle, between 0 and 1 it lies between that and the
 * smooth rule; a vertex with two creases follows the curve they make, with three or more it stays. Borders are
 * infinitely sharp, so an open mesh keeps its outline as a cubic curve, and a corner of a single face stays.
 * Non-manifold edges stay as borders do. UVs are divided straight; a crease loses one unit of sharpness.
 */
export function subdivideOnce(mesh: Mesh): Mesh {
  const edges = buildEdges(mesh);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const face = faceOfCorners(mesh);
  const faces = faceCount(mesh);
  const vertices = vertexCount(mesh);
  const p = mesh.positions;
  const sharp = sharpnessOf(mesh, edges);
  const total = vertices + faces + edges.count;
  const q = new Float32Array(3 * total);
  const facePoint = (f: number) => 3 * (vertices + f);
  const edgePoint = (e: number) => 3 * (vertices + faces + e);
  for (let f = 0; f < faces; f++) {
    const n = mesh.faceStarts[f + 1] - mesh.faceStarts[f];
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      for (let k = 0; k < 3; k++)
        q[facePoint(f) + k] += p[3 * mesh.corners[c] + k] / n;
  }
  for (let e = 0; e < edges.count; e++) {
    const a = 3 * edges.vertices[2 * e];
    const b = 3 * edges.vertices[2 * e + 1];
    const hardness = Math.min(1, sharp[e]);
    for (let k = 0; k < 3; k++) {
      const middle = (p[a + k] + p[b + k]) / 2;
      let smooth = middle;
      if (hardness < 1)
        smooth =
          (middle +
            (q[facePoint(face[edges.first[e]]) + k] +
              q[facePoint(face[edges.second[e]]) + k]) /
              2) /
          2;
      q[edgePoint(e) + k] = smooth + hardness * (middle - smooth);
    }
  }
  moveVertices(mesh, edges, sharp, face, q, facePoint);
  return assemble(mesh, edges, next, sharp, q, vertices, faces);
}

/** Sharpness of each edge; borders and edges of several faces never smooth. */
function sharpnessOf(
  mesh: Mesh,
  edges: ReturnType<typeof buildEdges>,
): Float32Array {
  const sharp = new Float32Array(edges.count);
  for (let e = 0; e < edges.count; e++) {
    const crease = mesh.creases?.[edges.first[e]] ?? 0;
    sharp[e] =
      edges.uses[e] !== 2 || crease >= SHARP
        ? Number.POSITIVE_INFINITY
        : crease / 10;
  }
  return sharp;
}

function moveVertices(
  mesh: Mesh,
  edges: ReturnType<typeof buildEdges>,
  sharp: Float32Array,
  face: Uint32Array,
  q: Float32Array,
  facePoint: (f: number) => number,
): void {
  const p = mesh.positions;
  const vertices = vertexCount(mesh);
  const faceSum = new Float64Array(3 * vertices);
  const valence = new Uint32Array(vertices);
  for (let c = 0; c < mesh.corners.length; c++) {
    const v = mesh.corners[c];
    valence[v]++;
    for (let k = 0; k < 3; k++) faceSum[3 * v + k] += q[facePoint(face[c]) + k];
  }
  const edgeSum = new Float64Array(3 * vertices);
  const edgesAt = new Uint32Array(vertices);
  const creaseSum = new Float64Array(3 * vertices);
  const creases = new Uint32Array(vertices);
  const creaseSharp = new Float64Array(vertices);
  const borders = new Uint32Array(vertices);
  for (let e = 0; e < edges.count; e++)
    for (let s = 0; s < 2; s++) {
      const v = edges.vertices[2 * e + s];
      const w = edges.vertices[2 * e + 1 - s];
      edgesAt[v]++;
      if (edges.uses[e] === 1) borders[v]++;
      for (let k = 0; k < 3; k++) {
        edgeSum[3 * v + k] += (p[3 * v + k] + p[3 * w + k]) / 2;
        if (sharp[e] > 0) creaseSum[3 * v + k] += p[3 * w + k];
      }
      if (sharp[e] > 0) {
        creases[v]++;
        creaseSharp[v] += Math.min(sharp[e], 10) / 2;
      }
    }
  for (let v = 0; v < vertices; v++) {
    const n = valence[v];
    const stays =
      creases[v] > 2 ||
      (borders[v] === 2 && n === 1) ||
      n === 0 ||
      borders[v] > 2;
    const share = Math.min(1, creaseSharp[v]);
    for (let k = 0; k < 3; k++) {
      const at = p[3 * v + k];
      if (stays) {
        q[3 * v + k] = at;
        continue;
      }
      // (F + 2R + (n − 3)P) / n with F, R the means of face points and edge middles.
      const smooth =
        (faceSum[3 * v + k] / n +
          (2 * edgeSum[3 * v + k]) / edgesAt[v] +
          (n - 3) * at) /
        n;
      if (creases[v] < 2) {
        q[3 * v + k] = smooth;
        continue;
      }
      const curve = (creaseSum[3 * v + k] + 6 * at) / 8;
      q[3 * v + k] = smooth + share * (curve - smooth);
    }
  }
}

/** The quads, with what hung on the corners divided along. */
function assemble(
  mesh: Mesh,
  edges: ReturnType<typeof buildEdges>,
  next: Uint32Array,
  sharp: Float32Array,
  positions: Float32Array,
  vertices: number,
  faces: number,
): Mesh {
  const quads = mesh.corners.length;
  const corners = new Uint32Array(4 * quads);
  const oldFace = new Uint32Array(quads);
  const previous = new Uint32Array(quads);
  for (let c = 0; c < quads; c++) previous[next[c]] = c;
  const uvs = mesh.uvs && new Float32Array(8 * quads);
  const mark = (marks: Uint8Array | null) => marks && new Uint8Array(4 * quads);
  const seams = mark(mesh.seams);
  const hard = mark(mesh.hard);
  const softer = (c: number) => {
    const value = sharp[edges.ofCorner[c]];
    const stored = mesh.creases![c];
    return value >= SHARP / 10 ? Math.max(stored, 0) : Math.max(0, stored - 10);
  };
  const creases = mark(mesh.creases);
  for (let f = 0; f < faces; f++) {
    const s = mesh.faceStarts[f];
    const e = mesh.faceStarts[f + 1];
    const middle = [0, 0];
    if (mesh.uvs)
      for (let c = s; c < e; c++)
        for (let k = 0; k < 2; k++) middle[k] += mesh.uvs[2 * c + k] / (e - s);
    for (let c = s; c < e; c++) {
      const before = previous[c];
      // Vertex, middle of its edge, face, middle of the edge before.
      corners[4 * c] = mesh.corners[c];
      corners[4 * c + 1] = vertices + faces + edges.ofCorner[c];
      corners[4 * c + 2] = vertices + f;
      corners[4 * c + 3] = vertices + faces + edges.ofCorner[before];
      oldFace[c] = f;
      if (uvs)
        for (let k = 0; k < 2; k++) {
          const own = mesh.uvs![2 * c + k];
          uvs[8 * c + k] = own;
          uvs[8 * c + 2 + k] = (own + mesh.uvs![2 * next[c] + k]) / 2;
          uvs[8 * c + 4 + k] = middle[k];
          uvs[8 * c + 6 + k] = (own + mesh.uvs![2 * before + k]) / 2;
        }
      if (seams) {
        seams[4 * c] = mesh.seams![c];
        seams[4 * c + 3] = mesh.seams![before];
      }
      if (hard) {
        hard[4 * c] = mesh.hard![c];
        hard[4 * c + 3] = mesh.hard![before];
      }
      if (creases) {
        creases[4 * c] = softer(c);
        creases[4 * c + 3] = softer(before);
      }
    }
  }
  const faceStarts = new Uint32Array(quads + 1).map((_, f) => 4 * f);
  return createMesh({
    positions,
    faceStarts,
    corners,
    uvs,
    seams,
    hard,
    creases,
    faceMaterials:
      mesh.faceMaterials &&
      Uint16Array.from(oldFace, (f) => mesh.faceMaterials![f]),
    ids: mesh.ids && Uint16Array.from(oldFace, (f) => mesh.ids![f]),
    sourceOnly:
      mesh.sourceOnly && Uint8Array.from(oldFace, (f) => mesh.sourceOnly![f]),
    materials: mesh.materials,
  });
}

/** @param levels 0 … 5 */
export function subdivide(mesh: Mesh, levels: number): Mesh {
  let at = mesh;
  for (let k = 0; k < levels; k++) at = subdivideOnce(at);
  return at;
}
