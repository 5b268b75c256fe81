import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceCount, vertexCount } from "./mesh";
import { UnionFind } from "../base/union-find";

/** Unit vector normal to each face (Newell's sum, so n-gons need not be flat). 3 × faceCount; zero for no area. */
export function faceNormals(mesh: Mesh): Float32Array {
  const { positions: p, corners, faceStarts } = mesh;
  const normals = new Float32Array(3 * faceCount(mesh));
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    let x = 0;
    let y = 0;
    let z = 0;
    const origin = 3 * corners[faceStarts[f]];
    for (let c = faceStarts[f] + 1; c + 1 < faceStarts[f + 1]; c++) {
      const a = 3 * corners[c];
      const b = 3 * corners[c + 1];
      const ux = p[a] - p[origin];
      const uy = p[a + 1] - p[origin + 1];
      const uz = p[a + 2] - p[origin + 2];
      const vx = p[b] - p[origin];
      const vy = p[b + 1] - p[origin + 1];
      const vz = p[b + 2] - p[origin + 2];
      x += uy * vz - uz * vy;
      y += uz * vx - ux * vz;
      z += ux * vy - uy * vx;
    }
    const length = Math.hypot(x, y, z) || 1;
    normals[3 * f] = x / length;
    normals[3 * f + 1] = y / length;
    normals[3 * f + 2] = z / length;
  }
  return normals;
}

/** How much each face round a vertex counts for its normal. */
export type NormalWeights = "area and angle" | "area" | "angle";

/**
 * Corner normals: corners round a vertex that no hard edge parts share one, weighted by face area and corner
 * angle unless said otherwise. Open borders and non-manifold edges part corners as hard edges do.
 * Returns 3 × cornerCount, unit length.
 */
export function cornerNormals(
  mesh: Mesh,
  weights: NormalWeights = "area and angle",
): Float32Array {
  const { corners, faceStarts } = mesh;
  const fans = cornerFans(mesh);
  const sums = new Float64Array(3 * fans.count);
  const faces = faceNormals(mesh);
  const p = mesh.positions;
  for (let f = 0; f + 1 < faceStarts.length; f++) {
    const start = faceStarts[f];
    const n = faceStarts[f + 1] - start;
    for (let k = 0; k < n; k++) {
      const c = start + k;
      const o = 3 * corners[c];
      const a = 3 * corners[start + ((k + 1) % n)];
      const b = 3 * corners[start + ((k + n - 1) % n)];
      const ux = p[a] - p[o];
      const uy = p[a + 1] - p[o + 1];
      const uz = p[a + 2] - p[o + 2];
      const vx = p[b] - p[o];
      const vy = p[b + 1] - p[o + 1];
      const vz = p[b + 2] - p[o + 2];
      const x = uy * vz - uz * vy;
      const y = uz * vx - ux * vz;
      const z = ux * vy - uy * vx;
      const angle = Math.atan2(
        Math.hypot(x, y, z),
        ux * vx + uy * vy + uz * vz,
      );
      // At a reflex corner of a larger face the two edges turn the other way.
      const reflex =
        n > 3 &&
        x * faces[3 * f] + y * faces[3 * f + 1] + z * faces[3 * f + 2] < 0;
      const turn = weights === "area" ? 1 : angle;
      const size = weights === "angle" ? Math.hypot(x, y, z) || 1 : 1;
      const weight = (reflex ? -turn : turn) / size;
      const to = 3 * fans.ofCorner[c];
      sums[to] += x * weight;
      sums[to + 1] += y * weight;
      sums[to + 2] += z * weight;
    }
  }
  const normals = new Float32Array(3 * corners.length);
  for (let c = 0; c < corners.length; c++) {
    const s = 3 * fans.ofCorner[c];
    const length = Math.hypot(sums[s], sums[s + 1], sums[s + 2]);
    normals[3 * c] = length ? sums[s] / length : 0;
    normals[3 * c + 1] = length ? sums[s + 1] / length : 1;
    normals[3 * c + 2] = length ? sums[s + 2] / length : 0;
  }
  return normals;
}

/** Corner normals of a mesh (3 × cornerCount), but those of faces whose normals were taken from elsewhere as they are. */
export function withOwnNormals(
  mesh: Mesh,
  weights?: NormalWeights,
): Float32Array {
  const normals = cornerNormals(mesh, weights);
  if (mesh.ownNormals && mesh.normals)
    for (let f = 0; f < faceCount(mesh); f++)
      if (mesh.ownNormals[f]) {
        const [from, to] = [3 * mesh.faceStarts[f], 3 * mesh.faceStarts[f + 1]];
        normals.set(mesh.normals.subarray(from, to), from);
      }
  return normals;
}

/** Groups the corners of each vertex into fans: runs of faces joined by edges that are not hard. */
export function cornerFans(mesh: Mesh): {
  count: number;
  ofCorner: Uint32Array;
} {
  const { corners, faceStarts, hard } = mesh;
  const ofCorner = new Uint32Array(corners.length);
  if (!hard?.some((mark) => mark !== 0)) {
    ofCorner.set(corners);
    return { count: vertexCount(mesh), ofCorner };
  }
  const joined = new UnionFind(corners.length);
  const edges = buildEdges(mesh);
  const after = nextCorners(faceStarts, corners.length);
  for (let e = 0; e < edges.count; e++) {
    const c = edges.first[e];
    const d = edges.second[e];
    if (d < 0 || edges.uses[e] > 2 || hard[c] || hard[d]) continue;
    const same = corners[c] === corners[d];
    joined.join(c, same ? d : after[d]);
    joined.join(after[c], same ? after[d] : d);
  }
  const names = new Int32Array(corners.length).fill(-1);
  let count = 0;
  for (let c = 0; c < corners.length; c++) {
    const root = joined.find(c);
    if (names[root] < 0) names[root] = count++;
    ofCorner[c] = names[root];
  }
  return { count, ofCorner };
}

/**
 * The next corner of the same face, for every corner.
 * @returns cornerCount
 */
export function nextCorners(faceStarts: Uint32Array, corners: number) {
  const next = new Uint32Array(corners);
  for (let f = 0; f + 1 < faceStarts.length; f++)
    for (let c = faceStarts[f]; c < faceStarts[f + 1]; c++)
      next[c] = c + 1 < faceStarts[f + 1] ? c + 1 : faceStarts[f];
  return next;
}
