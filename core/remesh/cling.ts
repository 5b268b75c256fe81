import type { ClingWay, ClingOptions, ClingTrouble } from "./cling-troubles";
import {
  WRONG_FACING,
  THERE,
  meanEdge,
  evenOut,
  markOutliers,
  linksOf,
  vertexNormals,
  facesInTrouble,
} from "./cling-troubles";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { RayScene, widen } from "../space/ray-scene";
import type { Surface } from "../space/deviation";
import type { Mesh } from "../mesh/mesh";
import { vertexCount } from "../mesh/mesh";
import { faceNormals } from "../mesh/normals";

/** How far to both sides a ray begins and ends, as a share of the surface's size, where no reach is set. */
const FAR = 2;

/** A surface that points are brought onto: the last place found stays in the fields. */
export class ClingTarget {
  x = 0;
  y = 0;
  z = 0;
  nx = 0;
  ny = 0;
  nz = 0;
  private readonly closest: ClosestPoint;
  private readonly rays: RayScene;
  private readonly normals: Float32Array;
  private readonly size: number;

  constructor({ positions, triangles }: Surface) {
    const bvh = buildBvh(positions, triangles);
    this.closest = new ClosestPoint(bvh);
    this.rays = new RayScene([widen(bvh)]);
    const faceStarts = new Uint32Array(triangles.length / 3 + 1).map(
      (_, t) => 3 * t,
    );
    this.normals = faceNormals({
      positions,
      corners: triangles,
      faceStarts,
    } as Mesh);
    let far = 0;
    for (let i = 0; i < positions.length; i++)
      far = Math.max(far, Math.abs(positions[i]));
    this.size = 2 * far || 1;
  }

  private take(t: number): void {
    this.nx = this.normals[3 * t];
    this.ny = this.normals[3 * t + 1];
    this.nz = this.normals[3 * t + 2];
  }

  /** The nearest place within reach. */
  nearest(x: number, y: number, z: number, reach: number): boolean {
    const t = this.closest.find(x, y, z, reach * reach);
    if (t < 0) return false;
    this.take(t);
    this.x = this.closest.x;
    this.y = this.closest.y;
    this.z = this.closest.z;
    return true;
  }

  /**
   * The nearer place along a line, to and fro; one whose surface faces along (nx, ny, nz) is taken before one
   * that faces away.
   */
  along(
    p: ArrayLike<number>,
    way: ArrayLike<number>,
    normal: ArrayLike<number>,
    reach: number,
  ): boolean {
    const far = reach < Infinity ? reach : FAR * this.size;
    let best = -1;
    let least = Infinity;
    let at = 0;
    for (const sign of [1, -1]) {
      let from = 0;
      // A surface that faces away may hide the right one behind it.
      for (let hit = 0; hit < 4; hit++) {
        const t = this.rays.first(
          0,
          p[0],
          p[1],
          p[2],
          sign * way[0],
          sign * way[1],
          sign * way[2],
          from,
          far,
        );
        if (t < 0) break;
        const { distance } = this.rays;
        const facing =
          this.normals[3 * t] * normal[0] +
          this.normals[3 * t + 1] * normal[1] +
          this.normals[3 * t + 2] * normal[2];
        const cost = distance + (facing > 0 ? 0 : 1e3 * this.size);
        if (cost < least) {
          least = cost;
          best = t;
          at = sign * distance;
        }
        if (facing > 0) break;
        from = distance + 1e-6 * this.size;
      }
    }
    if (best < 0) return false;
    this.take(best);
    this.x = p[0] + at * way[0];
    this.y = p[1] + at * way[1];
    this.z = p[2] + at * way[2];
    return true;
  }
}

const AXES = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] } as const;

/**
 * Moves the points of a mesh onto a surface and evens them out along it. Open borders are evened along themselves
 * only by going with the surface.
 * @returns the moved mesh, how far points moved (mean, metres), and what went wrong
 */
export function cling(
  mesh: Mesh,
  target: ClingTarget,
  options: ClingOptions,
  check: () => void = () => {},
): { mesh: Mesh; moved: number; trouble: ClingTrouble } {
  const normals = vertexNormals(mesh);
  const count = vertexCount(mesh);
  const positions = mesh.positions.slice();
  const missed: number[] = [];
  const off = new Float32Array(3 * count);
  const wrong = new Uint8Array(count);
  const links = linksOf(mesh);
  const p = [0, 0, 0];
  const n = [0, 0, 0];
  const land = (v: number, way: ClingWay, reach: number): boolean => {
    for (let k = 0; k < 3; k++) {
      p[k] = positions[3 * v + k];
      n[k] = normals[3 * v + k];
    }
    const found =
      way === "nearest"
        ? target.nearest(p[0], p[1], p[2], reach)
        : target.along(p, way === "normals" ? n : AXES[way], n, reach);
    if (!found) return false;
    positions[3 * v] = target.x + options.offset * target.nx;
    positions[3 * v + 1] = target.y + options.offset * target.ny;
    positions[3 * v + 2] = target.z + options.offset * target.nz;
    return true;
  };
  for (let v = 0; v < count; v++) {
    if ((v & 1023) === 0) check();
    if (options.held?.[v]) continue;
    const landed = land(v, options.way, options.reach);
    for (let k = 0; k < 3; k++)
      off[3 * v + k] = positions[3 * v + k] - mesh.positions[3 * v + k];
    if (!landed) missed.push(v);
    else if (
      target.nx * n[0] + target.ny * n[1] + target.nz * n[2] < WRONG_FACING &&
      // At a rim the nearest face may be either side's: who was there already is right.
      Math.hypot(off[3 * v], off[3 * v + 1], off[3 * v + 2]) >
        THERE * meanEdge(mesh, links, v)
    )
      wrong[v] = 1;
  }
  markOutliers(mesh, links, off, wrong, options.held);
  const lost = new Uint8Array(count);
  for (const v of missed) lost[v] = 1;
  for (let round = 0; round < options.relax; round++) {
    check();
    evenOut(positions, normals, links, options.held, lost);
    for (let v = 0; v < count; v++)
      if (!options.held?.[v] && !lost[v] && !wrong[v])
        land(v, "nearest", Infinity);
  }
  const moved = { ...mesh, positions, normals: null };
  let sum = 0;
  for (let v = 0; v < count; v++)
    sum += Math.hypot(off[3 * v], off[3 * v + 1], off[3 * v + 2]);
  return {
    mesh: moved,
    moved: sum / (count || 1),
    trouble: {
      missed,
      wrong: [...wrong.keys()].filter((v) => wrong[v]),
      ...facesInTrouble(mesh, moved),
    },
  };
}
