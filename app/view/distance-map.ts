import { BufferAttribute } from "three";
import type { BufferGeometry } from "three";
import type { Mesh } from "../../core/mesh/mesh";
import { triangulate } from "../../core/mesh/triangulate";
import { buildBvh } from "../../core/space/bvh";
import { ClosestPoint } from "../../core/space/closest-point";
import { flatNormal } from "../../core/space/vector";
import { ramp } from "./face-colours";
import { surfaceGeometry } from "./geometry";

const known = new WeakMap<Mesh, WeakMap<Mesh, Float32Array>>();

/**
 * Signed distance of every vertex of a mesh to another one, metres: above 0 where it lies outside of it.
 * Kept as long as both meshes are.
 */
export function signedDistances(mesh: Mesh, other: Mesh): Float32Array {
  const found = known.get(mesh)?.get(other);
  if (found) return found;
  const { vertices } = triangulate(other);
  const bvh = buildBvh(other.positions, vertices);
  const closest = new ClosestPoint(bvh);
  const q = other.positions;
  const distances = new Float32Array(mesh.positions.length / 3);
  const corners = new Float32Array(9);
  for (let v = 0; v < distances.length; v++) {
    const [x, y, z] = mesh.positions.subarray(3 * v, 3 * v + 3);
    const t = closest.find(x, y, z);
    for (let k = 0; k < 9; k++)
      corners[k] = q[3 * vertices[3 * t + Math.floor(k / 3)] + (k % 3)];
    const n = flatNormal(corners, 0);
    const side =
      (x - closest.x) * n[0] + (y - closest.y) * n[1] + (z - closest.z) * n[2];
    distances[v] = Math.sqrt(closest.distance2) * (side < 0 ? -1 : 1);
  }
  if (!known.has(mesh)) known.set(mesh, new WeakMap());
  known.get(mesh)!.set(other, distances);
  return distances;
}

/**
 * A surface coloured by its signed distance to another one.
 * @param farthest ends of the scale, metres
 * @param way 1 for the game mesh; −1 turns the sign, so that both sides show where the game mesh stands out
 */
export function distanceGeometry(
  mesh: Mesh,
  other: Mesh,
  farthest: number,
  way: 1 | -1,
): BufferGeometry {
  const distances = signedDistances(mesh, other);
  const geometry = surfaceGeometry(mesh);
  const { vertices } = triangulate(mesh);
  const indexed = geometry.index !== null;
  const count = geometry.getAttribute("position").count;
  const colours = new Float32Array(3 * count);
  for (let i = 0; i < count; i++) {
    const far = way * distances[indexed ? i : vertices[i]];
    colours.set(ramp(0.5 + far / (2 * farthest || 1)), 3 * i);
  }
  return geometry.setAttribute("color", new BufferAttribute(colours, 3));
}
