import type { Mesh } from "./mesh";
import { triangulate } from "./triangulate";
import { boundsOf, diagonalOf } from "../space/bounds";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { sampleSurface } from "../space/sample";
import type { Vector } from "../space/vector";
import { dot } from "../space/vector";

/** Points p with dot(normal, p) = d lie in it. */
export interface MirrorPlane {
  normal: Vector;
  /** metres */
  d: number;
}

/** Points looked at for each plane. */
const POINTS = 3000;
/** A shape counts as its own mirror image where points miss it by less than this share of its diagonal. */
const MIRRORED = 0.002;

const AXES: readonly Vector[] = [
  [1, 0, 0],
  [0, 0, 1],
  [0, 1, 0],
];

/** The mirror image of a point. */
export function mirrored(
  { normal, d }: MirrorPlane,
  p: ArrayLike<number>,
): [number, number, number] {
  const off = 2 * (dot(normal, p) - d);
  return [
    p[0] - off * normal[0],
    p[1] - off * normal[1],
    p[2] - off * normal[2],
  ];
}

/** Tells how far a surface is from being its own mirror image, as a share of its diagonal (root mean square). */
export class MirrorTest {
  private readonly points: Float32Array;
  private readonly closest: ClosestPoint;
  private readonly diagonal: number;
  readonly bounds;

  constructor(meshes: readonly Mesh[]) {
    let count = 0;
    for (const mesh of meshes) count += mesh.positions.length;
    const positions = new Float32Array(count);
    const triangles: Uint32Array[] = [];
    let base = 0;
    for (const mesh of meshes) {
      positions.set(mesh.positions, 3 * base);
      const from = base;
      triangles.push(triangulate(mesh).vertices.map((v) => v + from));
      base += mesh.positions.length / 3;
    }
    const all = new Uint32Array(
      triangles.reduce((sum, t) => sum + t.length, 0),
    );
    let at = 0;
    for (const list of triangles) {
      all.set(list, at);
      at += list.length;
    }
    this.points = sampleSurface(positions, all, POINTS, 11).points;
    this.closest = new ClosestPoint(buildBvh(positions, all));
    this.bounds = boundsOf(positions);
    this.diagonal = diagonalOf(this.bounds) || 1;
  }

  miss(plane: MirrorPlane): number {
    let sum = 0;
    for (let i = 0; i < this.points.length; i += 3) {
      const [x, y, z] = mirrored(plane, this.points.subarray(i, i + 3));
      this.closest.find(x, y, z);
      sum += this.closest.distance2;
    }
    return Math.sqrt(sum / (this.points.length / 3 || 1)) / this.diagonal;
  }

  isMirrored(plane: MirrorPlane): boolean {
    return this.miss(plane) < MIRRORED;
  }

  /** The best of the planes square to an axis, through the origin or the middle; null where none serves. */
  findPlane(axes: readonly Vector[] = AXES): MirrorPlane | null {
    let best: MirrorPlane | null = null;
    let least = MIRRORED;
    for (const normal of axes) {
      const k = normal.findIndex((x) => x !== 0);
      const middle = (this.bounds.min[k] + this.bounds.max[k]) / 2;
      for (const d of [0, middle]) {
        if (d < this.bounds.min[k] || d > this.bounds.max[k]) continue;
        const miss = this.miss({ normal, d });
        if (miss >= least * 0.98) continue;
        least = miss;
        best = { normal, d };
      }
    }
    return best;
  }
}

/**
 * The plane across an axis.
 * @param d where on the axis, metres
 */
export const planeAcross = (axis: "x" | "y" | "z", d: number): MirrorPlane => ({
  normal: { x: AXES[0], y: AXES[2], z: AXES[1] }[axis],
  d,
});
