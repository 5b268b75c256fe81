import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { nextCorners } from "./normals";

/**
 * Marks the edges at which UVs part, from both sides. Open borders are no seams.
 * @param uvs 2 × cornerCount, in sheets
 * @returns cornerCount marks
 */
export function seamsFromUvs(mesh: Mesh, uvs: Float32Array): Uint8Array {
  const edges = buildEdges(mesh);
  const next = nextCorners(mesh.faceStarts, mesh.corners.length);
  const seams = new Uint8Array(mesh.corners.length);
  const differ = (a: number, b: number) =>
    uvs[2 * a] !== uvs[2 * b] || uvs[2 * a + 1] !== uvs[2 * b + 1];
  for (let e = 0; e < edges.count; e++) {
    const c = edges.first[e];
    const d = edges.second[e];
    if (d < 0) continue;
    const straight = mesh.corners[c] === mesh.corners[d];
    if (
      differ(c, straight ? d : next[d]) ||
      differ(next[c], straight ? next[d] : d)
    )
      seams[c] = seams[d] = 1;
  }
  return seams;
}
