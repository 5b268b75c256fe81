import type { Hull } from "../../mesh/hull";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { farthestOutside } from "./containment";
import { volumeOf } from "./convex-hull";
import { pointsOf } from "./hull-meshes";
import { StandOff } from "./stand-off";

export interface HullFigures {
  hulls: number;
  vertices: number;
  /** Volume of all hulls over the volume of the meshes; 0 where the meshes enclose none. */
  volumeRatio: number;
  /** Volume that the hulls add, litres. */
  added: number;
  /** How far a hull stands off the meshes at most where it is outside of them, metres. */
  maxDistance: number;
  /** How far the meshes stand out of the hulls at most, metres: fewer vertices than a hull needs cut into them. */
  outside: number;
}

/**
 * What hulls come to against the meshes they stand for.
 * @param check throws where the work is cancelled
 */
export function measureHulls(
  hulls: readonly Hull[],
  meshes: readonly Mesh[],
  check: () => void,
): HullFigures {
  const points = pointsOf(meshes);
  const indices: number[] = [];
  let base = 0;
  let volume = 0;
  for (const mesh of meshes) {
    check();
    const { vertices } = triangulate(mesh);
    volume += volumeOf(mesh.positions, vertices);
    for (const v of vertices) indices.push(base + v);
    base += mesh.positions.length / 3;
  }
  const stand = new StandOff(points, indices);
  let hullVolume = 0;
  let far = 0;
  for (const hull of hulls) {
    hullVolume += volumeOf(hull.positions, hull.triangles);
    check();
    far = Math.max(far, stand.of(hull, 1000));
  }
  return {
    hulls: hulls.length,
    vertices: hulls.reduce((sum, hull) => sum + hull.positions.length / 3, 0),
    volumeRatio: volume > 1e-15 ? hullVolume / volume : 0,
    added: Math.max(0, hullVolume - Math.max(0, volume)) * 1000,
    maxDistance: far,
    outside: outsideOf(hulls, points),
  };
}

/** How far points stand out of hulls; ground holds nothing, and is told how far off it they are. */
function outsideOf(hulls: readonly Hull[], points: Float32Array): number {
  const ground = hulls.filter(({ kind }) => kind === "ground");
  if (!ground.length) return farthestOutside(hulls, points);
  let far = 0;
  const surfaces = ground.map(
    ({ positions, triangles }) =>
      new ClosestPoint(buildBvh(positions, triangles)),
  );
  for (let i = 0; i < points.length; i += 3) {
    let least = Infinity;
    for (const surface of surfaces) {
      surface.find(points[i], points[i + 1], points[i + 2]);
      least = Math.min(least, surface.distance2);
    }
    far = Math.max(far, least);
  }
  return Math.sqrt(far);
}
