import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceCount, faceOfCorners, vertexCount } from "./mesh";
import { createMesh } from "./change-faces";
import { nextCorners, withOwnNormals } from "./normals";
import type { MeshArray } from "./streams";
import {
  arrayLike,
  mapStreams,
  pickRows,
  STREAM_NAMES,
  STREAMS,
} from "./streams";

/** Sharpness that never smooths, in tenths. */
export const SHARP = 100;

/**
 * One step of Catmull and Clark 1978: every face of n corners becomes n quads. Creases follow DeRose, Kass and
 * Truong 1998: an edge of sharpness ≥ 1 is split in its middle, between 0 and 1 it lies between that and the
 * smooth rule; a vertex with two creases follows the curve they make, with three or more it stays. Borders are
 * infinitely sharp, so an open mesh keeps its outline as a cubic curve, and a corner of a single face stays.
 * Non-manifold edges stay as borders do. UVs and all else that hangs
 * on corners are divided straight; a crease loses one unit of sharpness.
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
  const oldFace = faceOfCorners(mesh);
  const previous = new Uint32Array(quads);
  for (let c = 0; c < quads; c++) previous[next[c]] = c;
  for (let c = 0; c < quads; c++) {
    // Vertex, middle of its edge, face, middle of the edge before.
    corners[4 * c] = mesh.corners[c];
    corners[4 * c + 1] = vertices + faces + edges.ofCorner[c];
    corners[4 * c + 2] = vertices + oldFace[c];
    corners[4 * c + 3] = vertices + faces + edges.ofCorner[previous[c]];
  }
  const divided = mapStreams(mesh, STREAM_NAMES, (values, width, name) => {
    const { on, between } = STREAMS[name];
    if (on === "faces") return pickRows(values, oldFace, width);
    if (on === "edges") return divideMarks(values, previous);
    return divideCorners(mesh, values, width, between === "unit", previous);
  });
  const { creases } = divided;
  if (creases)
    for (let c = 0; c < quads; c++)
      for (const at of [4 * c, 4 * c + 3]) {
        const e = edges.ofCorner[at === 4 * c ? c : previous[c]];
        if (sharp[e] < SHARP / 10) creases[at] = Math.max(0, creases[at] - 10);
      }
  const made = createMesh({
    positions,
    faceStarts: new Uint32Array(quads + 1).map((_, f) => 4 * f),
    corners,
    ...divided,
    materials: mesh.materials,
  });
  // Normals of a coarse face say little about the smooth one; those that were taken from elsewhere stay.
  return { ...made, normals: mesh.ownNormals && withOwnNormals(made) };
}

/** The two halves of an edge have its mark, edges within a face none. */
function divideMarks(marks: MeshArray, previous: Uint32Array): MeshArray {
  const divided = arrayLike(marks, 4 * marks.length);
  for (let c = 0; c < marks.length; c++) {
    divided[4 * c] = marks[c];
    divided[4 * c + 3] = marks[previous[c]];
  }
  return divided;
}

/** Corners of the quads of each corner: its own value, and means along its edges and over its face. */
function divideCorners(
  { faceStarts }: Mesh,
  values: MeshArray,
  width: number,
  unit: boolean,
  previous: Uint32Array,
): MeshArray {
  const divided = arrayLike(values, 4 * values.length);
  const set = (at: number, of: (k: number) => number) => {
    const row = Array.from({ length: width }, (_, k) => of(k));
    const size = unit ? Math.hypot(...row) || 1 : 1;
    for (let k = 0; k < width; k++) divided[width * at + k] = row[k] / size;
  };
  const middle = new Float64Array(width);
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    const [s, e] = [faceStarts[f], faceStarts[f + 1]];
    middle.fill(0);
    for (let c = s; c < e; c++)
      for (let k = 0; k < width; k++)
        middle[k] += values[width * c + k] / (e - s);
    for (let c = s; c < e; c++) {
      const own = (k: number) => values[width * c + k];
      const mean = (other: number) => (k: number) =>
        (own(k) + values[width * other + k]) / 2;
      set(4 * c, own);
      set(4 * c + 1, mean(c + 1 < e ? c + 1 : s));
      set(4 * c + 2, (k) => middle[k]);
      set(4 * c + 3, mean(previous[c]));
    }
  }
  return divided;
}

/** @param levels 0 … 5 */
export function subdivide(mesh: Mesh, levels: number): Mesh {
  let at = mesh;
  for (let k = 0; k < levels; k++) at = subdivideOnce(at);
  return at;
}
