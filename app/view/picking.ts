import type { Camera, Mesh as ThreeMesh } from "three";
import { Raycaster, Vector2, Vector3 } from "three";
import type { Mesh } from "../../core/mesh/mesh";
import type { PartView } from "./part-view";
import { raysOf } from "./split";

/** What lies under a point of the table. */
export interface Hit {
  view: PartView;
  distance: number;
  point: Vector3;
  /** Triangle as it is drawn. */
  triangle: number;
}

/** The nearest part under a point. @param x −1 … 1 from left to right. @param y −1 … 1 from bottom to top */
export function castAt(
  parts: Iterable<PartView>,
  camera: Camera,
  x: number,
  y: number,
  source: boolean,
): Hit | null {
  const caster = new Raycaster();
  caster.setFromCamera(new Vector2(x, y), camera);
  let best: Hit | null = null;
  for (const view of parts) {
    if (!(source ? view.source : view.game).visible) continue;
    const hit = castAtPart(view, caster, source);
    if (hit && (!best || hit.distance < best.distance)) best = hit;
  }
  return best;
}

/** Rays go to the mesh itself; only what is drawn by a lighter stand-in is asked as it is drawn. */
function castAtPart(
  view: PartView,
  caster: Raycaster,
  source: boolean,
): Hit | null {
  const mesh = source ? view.sourceMesh : view.gameMesh;
  const { origin: o, direction: d } = caster.ray;
  if (mesh) {
    const rays = raysOf(mesh);
    const triangle = rays.first(0, o.x, o.y, o.z, d.x, d.y, d.z, 0, 1e9);
    if (triangle < 0) return null;
    const { distance } = rays;
    const point = caster.ray.at(distance, new Vector3());
    return { view, distance, point, triangle };
  }
  const drawn = view.surfaceOf(source) as ThreeMesh | null;
  const [hit] = drawn ? caster.intersectObject(drawn, false) : [];
  return hit
    ? {
        view,
        distance: hit.distance,
        point: hit.point,
        triangle: hit.faceIndex ?? 0,
      }
    : null;
}

/** The vertex of a face nearest to a point. */
export function nearestVertex(
  mesh: Mesh,
  face: number,
  point: Vector3,
): number {
  let best = mesh.corners[mesh.faceStarts[face]];
  let least = Infinity;
  for (let c = mesh.faceStarts[face]; c < mesh.faceStarts[face + 1]; c++) {
    const v = mesh.corners[c];
    const [x, y, z] = mesh.positions.subarray(3 * v, 3 * v + 3);
    const far = (x - point.x) ** 2 + (y - point.y) ** 2 + (z - point.z) ** 2;
    if (far < least) {
      least = far;
      best = v;
    }
  }
  return best;
}

/** The corner whose edge runs nearest to a point. */
export function nearestCorner(mesh: Mesh, point: Vector3): number {
  let best = 0;
  let least = Infinity;
  const p = mesh.positions;
  for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const d = c + 1 < mesh.faceStarts[f + 1] ? c + 1 : mesh.faceStarts[f];
      const a = 3 * mesh.corners[c];
      const b = 3 * mesh.corners[d];
      const ex = p[b] - p[a];
      const ey = p[b + 1] - p[a + 1];
      const ez = p[b + 2] - p[a + 2];
      const qx = point.x - p[a];
      const qy = point.y - p[a + 1];
      const qz = point.z - p[a + 2];
      const along = ex * ex + ey * ey + ez * ez || 1;
      const t = Math.max(0, Math.min(1, (qx * ex + qy * ey + qz * ez) / along));
      const distance =
        (qx - t * ex) ** 2 + (qy - t * ey) ** 2 + (qz - t * ez) ** 2;
      if (distance < least) {
        least = distance;
        best = c;
      }
    }
  return best;
}

/** An edge as selections name it: `part:lower-higher vertex`. */
export const edgeName = (part: string, a: number, b: number) =>
  `${part}:${Math.min(a, b)}-${Math.max(a, b)}`;
