import type { Quadrics } from "./quadrics";

/** A plane n·x = d about the soup's centre, metres. */
export interface HeldPlane {
  normal: readonly [number, number, number];
  d: number;
}

/** Border vertices that lie in a mirror plane, and are held in it. */
export class MirrorHold {
  /** vertexCount: 1 for those in the plane. */
  private readonly held: Uint8Array;

  /**
   * @param positions 3 × vertexCount, metres about the soup's centre
   * @param border vertexCount: 1 on borders
   * @param reach half the largest extent, metres
   */
  constructor(
    private readonly plane: HeldPlane,
    positions: Float64Array,
    border: Uint8Array,
    reach: number,
  ) {
    this.held = new Uint8Array(border.length);
    const [x, y, z] = plane.normal;
    for (let v = 0; v < border.length; v++) {
      const off =
        x * positions[3 * v] +
        y * positions[3 * v + 1] +
        z * positions[3 * v + 2] -
        plane.d;
      if (border[v] && Math.abs(off) < 1e-6 * reach) this.held[v] = 1;
    }
  }

  /** Brings the place of an edge into the plane where an end of it is held. @returns what it costs there, metres⁴ */
  place(quadrics: Quadrics, a: number, b: number, cost: number): number {
    if (!this.held[a] && !this.held[b]) return cost;
    const { normal, d } = this.plane;
    const off =
      normal[0] * quadrics.x +
      normal[1] * quadrics.y +
      normal[2] * quadrics.z -
      d;
    quadrics.x -= off * normal[0];
    quadrics.y -= off * normal[1];
    quadrics.z -= off * normal[2];
    return quadrics.costThere(a, b);
  }

  /** Notes that b has been joined to a. */
  join(a: number, b: number): void {
    this.held[a] |= this.held[b];
  }
}
