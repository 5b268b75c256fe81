import type { CollapseLevel } from "./collapse-levels";
import type { CollapseLists } from "./collapse-topology";
import type { FaceSides } from "./face-sides";
import type { Soup } from "./soup";

/** No triangle is made thinner than this. */
const NO_AREA = 1e-5;

/** Which moves of a vertex leave the faces round it on their side and in shape. */
export class FanCheck {
  /** Whether the last move asked about was refused for a shape, and may come again at a later level. */
  misshaped = false;

  constructor(
    private readonly soup: Soup,
    private readonly lists: CollapseLists,
    /** Which way the surface faces where a triangle is too thin to say. */
    private readonly sides: FaceSides,
  ) {}

  /** Whether the faces of v that stay keep their side and their shape when v moves to the point. */
  staysSound(
    v: number,
    gone: number,
    x: number,
    y: number,
    z: number,
    { flip, sliver }: CollapseLevel,
  ): boolean {
    const { triangles, positions: p } = this.soup;
    const { noise2 } = this.sides;
    for (
      let c = this.lists.firstCorner[v];
      c >= 0;
      c = this.lists.nextCorner[c]
    ) {
      const t = (c / 3) | 0;
      if (!this.lists.alive[t]) continue;
      const k = c - 3 * t;
      const i = triangles[3 * t + (k === 2 ? 0 : k + 1)];
      const j = triangles[3 * t + (k === 0 ? 2 : k - 1)];
      if (i === gone || j === gone) continue;
      const ix = p[3 * i];
      const iy = p[3 * i + 1];
      const iz = p[3 * i + 2];
      const ex = p[3 * j] - ix;
      const ey = p[3 * j + 1] - iy;
      const ez = p[3 * j + 2] - iz;
      const ux = p[3 * v] - ix;
      const uy = p[3 * v + 1] - iy;
      const uz = p[3 * v + 2] - iz;
      const wx = x - ix;
      const wy = y - iy;
      const wz = z - iz;
      const nx = ey * uz - ez * uy;
      const ny = ez * ux - ex * uz;
      const nz = ex * uy - ey * ux;
      const mx = ey * wz - ez * wy;
      const my = ez * wx - ex * wz;
      const mz = ex * wy - ey * wx;
      const old2 = nx * nx + ny * ny + nz * nz;
      const new2 = mx * mx + my * my + mz * mz;
      const edge = ex * ex + ey * ey + ez * ez;
      const side = ux * ux + uy * uy + uz * uz;
      const third = (ux - ex) ** 2 + (uy - ey) ** 2 + (uz - ez) ** 2;
      const longest = Math.max(edge, side, third);
      const newSide = wx * wx + wy * wy + wz * wz;
      const newThird = (wx - ex) ** 2 + (wy - ey) ** 2 + (wz - ez) ** 2;
      // What was too thin to say which way it faces, and stays so, turns nothing over.
      const turns =
        old2 < noise2 * longest
          ? new2 >= noise2 * Math.max(edge, newSide, newThird) &&
            this.sides.turns(t, mx, my, mz, flip)
          : nx * mx + ny * my + nz * mz <= flip * Math.sqrt(old2 * new2);
      if (turns && flip >= 0) {
        this.misshaped = true;
        return false;
      }
      const sides = edge + newSide + newThird;
      const quality = (3.4641 * Math.sqrt(new2)) / sides;
      if (quality >= sliver && quality >= NO_AREA) continue;
      if (quality < (3.4641 * Math.sqrt(old2)) / (edge + side + third)) {
        this.misshaped = true;
        return false;
      }
    }
    return true;
  }
}
