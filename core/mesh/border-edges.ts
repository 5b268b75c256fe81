import { buildEdges } from "./edges";
import type { Mesh } from "./mesh";
import { faceOfCorners } from "./mesh";

/**
 * Marks the edges at which two faces meet that have another value each: another material, another ID.
 * @param of faceCount values; null marks nothing
 * @param marks cornerCount, set to 1 from both sides
 */
export function markBorders(
  mesh: Mesh,
  of: ArrayLike<number> | null,
  marks: Uint8Array,
): void {
  if (!of) return;
  const edges = buildEdges(mesh);
  const face = faceOfCorners(mesh);
  for (let e = 0; e < edges.count; e++) {
    const [c, d] = [edges.first[e], edges.second[e]];
    if (d >= 0 && of[face[c]] !== of[face[d]]) marks[c] = marks[d] = 1;
  }
}
