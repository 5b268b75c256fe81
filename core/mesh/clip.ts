import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";
import { compactVertices, withFaces } from "./change-faces";

/** Points p with dot(normal, p) ≥ offset are kept. */
export interface Plane {
  /** Unit length. */
  normal: readonly [number, number, number];
  /** metres */
  offset: number;
}

/**
 * Cuts away what lies behind a plane. Faces that cross it are cut in two, new vertices lie on it exactly as far as
 * numbers go; UVs and normals are interpolated. The cut stays open (Sutherland and Hodgman 1974, per face).
 * In one piece: one walk over the faces fills all streams at once.
 * @param slack metres; vertices this near to the plane count as on it
 */
export function clipMesh(mesh: Mesh, plane: Plane, slack = 1e-9): Mesh {
  const count = mesh.positions.length / 3;
  const side = new Float64Array(count);
  let behind = 0;
  for (let v = 0; v < count; v++) {
    let d = -plane.offset;
    for (let k = 0; k < 3; k++)
      d += plane.normal[k] * mesh.positions[3 * v + k];
    side[v] = Math.abs(d) <= slack ? 0 : d;
    if (side[v] < 0) behind++;
  }
  if (!behind) return mesh;
  const points: number[] = [];
  const cuts = new Map<string, number>();
  const starts = [0];
  const corners: number[] = [];
  const oldCorner: number[] = [];
  const oldFace: number[] = [];
  /** New corners: their place, the other corner and how far towards it. */
  const between: [number, number, number][] = [];
  const cut = (c: number, d: number) => {
    const a = mesh.corners[c];
    const b = mesh.corners[d];
    const key = a < b ? `${a} ${b}` : `${b} ${a}`;
    let v = cuts.get(key);
    if (v === undefined) {
      v = count + points.length / 3;
      cuts.set(key, v);
      // From the lower index, so that both faces reckon alike.
      const [low, high] = a < b ? [a, b] : [b, a];
      const t = side[low] / (side[low] - side[high]);
      for (let k = 0; k < 3; k++) {
        const from = mesh.positions[3 * low + k];
        points.push(from + t * (mesh.positions[3 * high + k] - from));
      }
    }
    between.push([corners.length, d, side[a] / (side[a] - side[b])]);
    corners.push(v);
    oldCorner.push(c);
  };
  for (let f = 0; f < faceCount(mesh); f++) {
    const begin = corners.length;
    const wasBetween = between.length;
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const d = c + 1 < mesh.faceStarts[f + 1] ? c + 1 : mesh.faceStarts[f];
      const here = side[mesh.corners[c]];
      const there = side[mesh.corners[d]];
      if (here >= 0) {
        corners.push(mesh.corners[c]);
        oldCorner.push(c);
      }
      if ((here > 0 && there < 0) || (here < 0 && there > 0)) cut(c, d);
    }
    const inside = corners.slice(begin).some((v) => v >= count || side[v] > 0);
    if (corners.length - begin < 3 || !inside) {
      corners.length = oldCorner.length = begin;
      between.length = wasBetween;
      continue;
    }
    starts.push(corners.length);
    oldFace.push(f);
  }
  const positions = new Float32Array(mesh.positions.length + points.length);
  positions.set(mesh.positions);
  positions.set(points, mesh.positions.length);
  const clipped = withFaces(
    { ...mesh, positions },
    Uint32Array.from(starts),
    Uint32Array.from(oldCorner),
    Uint32Array.from(oldFace),
    Uint32Array.from(corners),
  );
  for (const [at, towards, t] of between) {
    const from = oldCorner[at];
    // The edge along the cut is a new one.
    if (side[mesh.corners[from]] > 0)
      for (const marks of [
        clipped.seams,
        clipped.hard,
        clipped.creases,
        clipped.seamOverrides,
      ])
        if (marks) marks[at] = 0;
    mix(clipped.uvs, mesh.uvs, at, from, towards, t, 2);
    mix(clipped.colours, mesh.colours, at, from, towards, t, 3);
    mix(clipped.normals, mesh.normals, at, from, towards, t, 3);
    if (clipped.normals) lengthen(clipped.normals, at);
  }
  return compactVertices(clipped);
}

/** Puts what lies a share `t` of the way from one corner to another at a corner. */
function mix<T extends Float32Array | Uint8Array>(
  into: T | null,
  values: T | null,
  at: number,
  from: number,
  to: number,
  t: number,
  width: number,
): void {
  if (!into || !values) return;
  for (let k = 0; k < width; k++) {
    const a = values[width * from + k];
    into[width * at + k] = a + t * (values[width * to + k] - a);
  }
}

/** Makes the normal at a corner unit length. */
function lengthen(normals: Float32Array, at: number): void {
  const own = normals.subarray(3 * at, 3 * at + 3);
  const length = Math.hypot(own[0], own[1], own[2]) || 1;
  for (let k = 0; k < 3; k++) own[k] /= length;
}
