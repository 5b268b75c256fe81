import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceOfCorners } from "./mesh";

/**
 * Edges round marked faces, or those between two of them. Both sides are marked.
 * @returns cornerCount marks
 */
export function edgesOfFaces(
  mesh: Mesh,
  marks: ArrayLike<number>,
  within: boolean,
): Uint8Array {
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  const found = new Uint8Array(mesh.corners.length);
  for (let e = 0; e < edges.count; e++) {
    const d = edges.second[e];
    const one = marks[face[edges.first[e]]];
    const other = d < 0 ? 0 : marks[face[d]];
    if (within ? one && other : d >= 0 && Boolean(one) !== Boolean(other)) {
      found[edges.first[e]] = 1;
      if (d >= 0) found[d] = 1;
    }
  }
  return found;
}
