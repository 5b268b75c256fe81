import type { Mesh } from "../../core/mesh/mesh";
import type { Triangulation } from "../../core/mesh/triangulate";
import { triangulate } from "../../core/mesh/triangulate";
import { buildBvh } from "../../core/space/bvh";
import { RayScene, widen } from "../../core/space/ray-scene";

const splits = new WeakMap<Mesh, Triangulation>();
const scenes = new WeakMap<Mesh, RayScene>();

/** The triangles of a mesh, made once. */
export function splitOf(mesh: Mesh): Triangulation {
  let split = splits.get(mesh);
  if (!split) splits.set(mesh, (split = triangulate(mesh)));
  return split;
}

/** A mesh to cast rays at, made when it is first asked for. */
export function raysOf(mesh: Mesh): RayScene {
  let scene = scenes.get(mesh);
  if (!scene) {
    scene = new RayScene([
      widen(buildBvh(mesh.positions, splitOf(mesh).vertices)),
    ]);
    scenes.set(mesh, scene);
  }
  return scene;
}

/** Adds the corners of the marked faces' triangles to a list of coordinates. */
export function trianglesOf(
  mesh: Mesh,
  marks: ArrayLike<number>,
  into: number[],
): void {
  const { vertices, faces } = splitOf(mesh);
  const p = mesh.positions;
  for (let i = 0; i < vertices.length; i++) {
    if (!marks[faces[Math.floor(i / 3)]]) continue;
    const v = 3 * vertices[i];
    into.push(p[v], p[v + 1], p[v + 2]);
  }
}
