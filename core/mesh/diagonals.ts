import type { Mesh } from "./mesh";
import { triangulate } from "./triangulate";

/**
 * The edges that triangulating adds inside faces: what a delivery has and the mesh has not.
 * @returns 2 × edgeCount vertices
 */
export function diagonalsOf(mesh: Mesh): Uint32Array {
  const { corners, faces } = triangulate(mesh);
  const found: number[] = [];
  for (let t = 0; t < faces.length; t++) {
    const start = mesh.faceStarts[faces[t]];
    const sides = mesh.faceStarts[faces[t] + 1] - start;
    if (sides === 3) continue;
    for (let k = 0; k < 3; k++) {
      const a = corners[3 * t + k] - start;
      const b = corners[3 * t + ((k + 1) % 3)] - start;
      const apart = Math.abs(a - b);
      // Each lies in two triangles, and runs the other way in the second.
      if (apart > 1 && apart < sides - 1 && a < b)
        found.push(mesh.corners[start + a], mesh.corners[start + b]);
    }
  }
  return Uint32Array.from(found);
}
