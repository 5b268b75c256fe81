import type { ConvexMesh } from "../../mesh/hull";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { sampleSurface } from "../../space/sample";
import { WindingNumber } from "../../space/winding-number";

/** A point of which the surface winds round more than this lies in the solid. */
const INSIDE = 0.5;
/** Inside or outside is told from farther off than where a surface is. */
const ROUGHLY = 1.3;

/** Tells how far shapes stand off a solid: only what lies outside of it counts, where a cut ran through it does not. */
export class StandOff {
  private readonly closest: ClosestPoint;
  private readonly winding: WindingNumber;
  /** Where the last hull stood off farthest, metres. */
  farthest: readonly [number, number, number] = [0, 0, 0];

  /** @param positions 3 × pointCount, metres; @param triangles 3 × triangleCount, counter-clockwise from outside */
  constructor(positions: Float32Array, triangles: ArrayLike<number>) {
    const bvh = buildBvh(positions, triangles);
    this.closest = new ClosestPoint(bvh);
    this.winding = new WindingNumber(bvh, ROUGHLY);
  }

  /** Distance of a point outside of the solid to its surface, metres; 0 inside, and where it is less than `least`. */
  at(x: number, y: number, z: number, least = 0): number {
    this.closest.find(x, y, z);
    const { distance2 } = this.closest;
    if (distance2 <= least * least) return 0;
    return this.winding.at(x, y, z) > INSIDE ? 0 : Math.sqrt(distance2);
  }

  /** The farthest that the faces of a hull stand off at some evenly spread points, metres. */
  of({ positions, triangles }: ConvexMesh, samples: number): number {
    const { points } = sampleSurface(positions, triangles, samples);
    let far = 0;
    for (let i = 0; i < points.length; i += 3) {
      const off = this.at(points[i], points[i + 1], points[i + 2], far);
      if (off <= far) continue;
      far = off;
      this.farthest = [points[i], points[i + 1], points[i + 2]];
    }
    return far;
  }
}
