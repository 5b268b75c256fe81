import { triangleArea } from "../space/sample";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";
import type { Triangulation } from "./triangulate";
import { triangulate } from "./triangulate";

/** faceCount: area of each face, metres². */
export function faceAreas(
  mesh: Mesh,
  { vertices, faces }: Triangulation = triangulate(mesh),
): Float64Array {
  const areas = new Float64Array(faceCount(mesh));
  for (let t = 0; t < faces.length; t++)
    areas[faces[t]] += triangleArea(mesh.positions, vertices, t);
  return areas;
}

/** Area of a mesh's faces, m². */
export const areaOf = (mesh: Mesh): number =>
  faceCount(mesh) ? faceAreas(mesh).reduce((sum, area) => sum + area, 0) : 0;
