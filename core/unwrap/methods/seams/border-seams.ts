import { markBorders } from "../../../mesh/border-edges";
import { buildEdges } from "../../../mesh/edges";
import type { Mesh } from "../../../mesh/mesh";

/** At which borders UVs are to part. */
export interface BorderRules {
  hard: boolean;
  materials: boolean;
  ids: boolean;
}

/**
 * Seams along borders: edges between two faces that are hard, or at which the material or the ID changes.
 * @returns cornerCount, 1 from both sides
 */
export function borderSeams(
  mesh: Mesh,
  { hard, materials, ids }: BorderRules,
): Uint8Array {
  const marks = new Uint8Array(mesh.corners.length);
  if (materials) markBorders(mesh, mesh.faceMaterials, marks);
  if (ids) markBorders(mesh, mesh.ids, marks);
  if (!hard || !mesh.hard) return marks;
  const { count, first, second, uses } = buildEdges(mesh);
  for (let e = 0; e < count; e++)
    if (uses[e] === 2 && second[e] >= 0 && mesh.hard[first[e]])
      marks[first[e]] = marks[second[e]] = 1;
  return marks;
}
