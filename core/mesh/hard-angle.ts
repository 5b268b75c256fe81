import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceOfCorners } from "./mesh";
import { faceNormals, nextCorners } from "./normals";

/**
 * Marks edges whose faces turn by more than an angle, from both sides.
 * @param degrees 0 … 180
 * @returns cornerCount marks, and how many edges they are
 */
export function hardAbove(
  mesh: Mesh,
  degrees: number,
): { hard: Uint8Array; count: number } {
  const edges = buildEdges(mesh);
  const normals = faceNormals(mesh);
  const face = faceOfCorners(mesh);
  const hard = new Uint8Array(mesh.corners.length);
  const limit = Math.cos((degrees * Math.PI) / 180);
  let count = 0;
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const c = edges.first[e];
    const d = edges.second[e];
    const f = 3 * face[c];
    const g = 3 * face[d];
    const dot =
      normals[f] * normals[g] +
      normals[f + 1] * normals[g + 1] +
      normals[f + 2] * normals[g + 2];
    if (dot >= limit) continue;
    hard[c] = hard[d] = 1;
    count++;
  }
  return { hard, count };
}

/** Normals further apart than this at one end of an edge break the shading there: cosine of 1°. */
const APART = Math.cos(Math.PI / 180);
/** Faces all shaded flat say nothing of single edges: of these only those count that turn by more than this, degrees. */
const FLAT_TURN = 40;

/**
 * The edges at which normals that a mesh came with break the shading, from both sides: formats that know normals and
 * no hard edges say them that way. null where none does.
 * @returns cornerCount marks
 */
export function hardFromNormals(mesh: Mesh): Uint8Array | null {
  const { normals: n, corners, faceStarts } = mesh;
  if (!n) return null;
  const edges = buildEdges(mesh);
  const next = nextCorners(faceStarts, corners.length);
  const hard = new Uint8Array(corners.length);
  const apart = (c: number, d: number) =>
    n[3 * c] * n[3 * d] +
      n[3 * c + 1] * n[3 * d + 1] +
      n[3 * c + 2] * n[3 * d + 2] <
    APART;
  const turning = hardAbove(mesh, 1).hard;
  let count = 0;
  let smooth = 0;
  for (let e = 0; e < edges.count; e++) {
    if (edges.uses[e] !== 2) continue;
    const c = edges.first[e];
    const d = edges.second[e];
    const [atC, atNext] =
      corners[c] === corners[d] ? [d, next[d]] : [next[d], d];
    if (!apart(c, atC) && !apart(next[c], atNext)) {
      smooth += turning[c];
      continue;
    }
    hard[c] = hard[d] = 1;
    count++;
  }
  if (!count || smooth) return count ? hard : null;
  const flat = hardAbove(mesh, FLAT_TURN);
  return flat.count ? flat.hard : null;
}
