import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceOfCorners } from "./mesh";
import { faceNormals } from "./normals";

/**
 * Marks edges whose faces turn by more than an angle, from both sides.
 * @param degrees 0 … 180
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
