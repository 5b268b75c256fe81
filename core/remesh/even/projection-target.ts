import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";

/** The source as a place to project on. */
export class ProjectionTarget {
  private readonly closest: ClosestPoint;
  private readonly positions: Float32Array;
  private readonly vertices: Uint32Array;
  x = 0;
  y = 0;
  z = 0;

  constructor(source: Mesh) {
    this.positions = source.positions;
    this.vertices = triangulate(source).vertices;
    this.closest = new ClosestPoint(buildBvh(this.positions, this.vertices));
  }

  /** The nearest place of the source goes to x, y, z. */
  find(x: number, y: number, z: number): void {
    this.closest.find(x, y, z);
    this.x = this.closest.x;
    this.y = this.closest.y;
    this.z = this.closest.z;
  }
}
