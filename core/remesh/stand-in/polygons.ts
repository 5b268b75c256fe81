import earcut from "earcut";
import type { Mesh } from "../../mesh/mesh";
import { createMesh } from "../../mesh/change-faces";

/** Gathers polygons over numbered points into a mesh. */
export class Polygons {
  private readonly points: number[] = [];
  private readonly corners: number[] = [];
  private readonly faceStarts: number[] = [0];

  point(at: ArrayLike<number>): number {
    this.points.push(at[0], at[1], at[2]);
    return this.points.length / 3 - 1;
  }

  face(...corners: number[]): void {
    this.corners.push(...corners);
    this.faceStarts.push(this.corners.length);
  }

  /** Quads between two rings of as many points, or triangles where one ring is a single point. */
  band(below: readonly number[], above: readonly number[]): void {
    const n = Math.max(below.length, above.length);
    for (let i = 0; i < n; i++) {
      const j = (i + 1) % n;
      if (below.length === 1) this.face(below[0], above[j], above[i]);
      else if (above.length === 1) this.face(below[i], below[j], above[0]);
      else this.face(below[i], below[j], above[j], above[i]);
    }
  }

  /**
   * Closes loops that lie in one plane: one polygon, or triangles where there are holes.
   * @param flat 2 coordinates of each point of the loops, in the plane
   * @param over whether the closed side is turned over
   */
  close(
    loops: readonly (readonly number[])[],
    flat: readonly number[],
    over: boolean,
  ): void {
    if (loops.length === 1) {
      this.face(...(over ? [...loops[0]].reverse() : loops[0]));
      return;
    }
    const names = loops.flat();
    const holes: number[] = [];
    let before = 0;
    for (const loop of loops.slice(0, -1)) holes.push((before += loop.length));
    const cut = earcut([...flat], holes, 2);
    for (let t = 0; t < cut.length; t += 3) {
      const [a, b, c] = [cut[t], cut[t + 1], cut[t + 2]];
      const area =
        (flat[2 * b] - flat[2 * a]) * (flat[2 * c + 1] - flat[2 * a + 1]) -
        (flat[2 * b + 1] - flat[2 * a + 1]) * (flat[2 * c] - flat[2 * a]);
      const turn = area > 0 === over;
      this.face(names[a], names[turn ? c : b], names[turn ? b : c]);
    }
  }

  mesh(): Mesh {
    return createMesh({
      positions: Float32Array.from(this.points),
      corners: Uint32Array.from(this.corners),
      faceStarts: Uint32Array.from(this.faceStarts),
    });
  }
}
