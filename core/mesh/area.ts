import { triangleArea } from "../space/sample";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";
import { triangulate } from "./triangulate";

/** Area of a mesh's faces, m². */
export function areaOf(mesh: Mesh): number {
  if (!faceCount(mesh)) return 0;
  const { vertices, faces } = triangulate(mesh);
  let area = 0;
  for (let t = 0; t < faces.length; t++)
    area += triangleArea(mesh.positions, vertices, t);
  return area;
}
