import type { CornerLists } from "./collapse-planes";
import type { Soup } from "./soup";

/** A triangle lower than so many spacings of the numbers it came in says nothing about which way it faces. */
const NOISE = 16;
const SPACING = 2 ** -23;

/** Length of the normals that are kept. */
const UNIT = 127;

/**
 * Which way every triangle of a soup faces, as it was when it was last thick enough to say: a collapse that turns
 * a sliver over folds the surface, and one that a sliver's own noise forbids would keep slivers for ever.
 */
export class FaceSides {
  /** 3 × triangleCount */
  private readonly normals: Int8Array;
  /** The square of the height below which a triangle can't say, metres². */
  readonly noise2: number;

  constructor(
    soup: Pick<Soup, "triangles" | "positions" | "centre">,
    lists: CornerLists,
  ) {
    const { triangles } = soup;
    const count = triangles.length / 3;
    let most = 0;
    for (let i = 0; i < soup.positions.length; i++)
      most = Math.max(most, Math.abs(soup.positions[i] + soup.centre[i % 3]));
    this.noise2 = (NOISE * SPACING * most) ** 2;
    this.normals = new Int8Array(3 * count);
    const thin: number[] = [];
    for (let t = 0; t < count; t++) if (!this.renew(soup, t)) thin.push(t);
    for (const t of thin) this.take(triangles, lists, t);
  }

  /** Keeps which way a triangle faces. @returns false where it is too thin to say: then nothing changes */
  renew(
    { triangles, positions: p }: Pick<Soup, "triangles" | "positions">,
    t: number,
  ): boolean {
    const a = 3 * triangles[3 * t];
    const b = 3 * triangles[3 * t + 1];
    const c = 3 * triangles[3 * t + 2];
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const n2 = nx * nx + ny * ny + nz * nz;
    const longest = Math.max(
      ux * ux + uy * uy + uz * uz,
      vx * vx + vy * vy + vz * vz,
      (ux - vx) ** 2 + (uy - vy) ** 2 + (uz - vz) ** 2,
    );
    if (!(n2 >= this.noise2 * longest)) return false;
    const scale = UNIT / Math.sqrt(n2);
    this.normals[3 * t] = nx * scale;
    this.normals[3 * t + 1] = ny * scale;
    this.normals[3 * t + 2] = nz * scale;
    return true;
  }

  /** Gives a triangle that can't say the mean of those round it. */
  private take(
    triangles: Uint32Array,
    { firstCorner, nextCorner }: CornerLists,
    t: number,
  ): void {
    const { normals } = this;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let k = 0; k < 3; k++) {
      const a = triangles[3 * t + k];
      const b = triangles[3 * t + ((k + 1) % 3)];
      for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) {
        const i = 3 * ((c / 3) | 0);
        if (
          triangles[i] !== b &&
          triangles[i + 1] !== b &&
          triangles[i + 2] !== b
        )
          continue;
        x += normals[i];
        y += normals[i + 1];
        z += normals[i + 2];
      }
    }
    const size = Math.sqrt(x * x + y * y + z * z);
    if (!(size > 0)) return;
    normals[3 * t] = (UNIT * x) / size;
    normals[3 * t + 1] = (UNIT * y) / size;
    normals[3 * t + 2] = (UNIT * z) / size;
  }

  /** Whether a normal lies more off from what is kept than a cosine says; no where nothing is kept. */
  turns(t: number, x: number, y: number, z: number, cosine: number): boolean {
    const { normals } = this;
    const i = 3 * t;
    const dot = x * normals[i] + y * normals[i + 1] + z * normals[i + 2];
    if (dot > 0 && cosine <= 0) return false;
    const size =
      normals[i] * normals[i] +
      normals[i + 1] * normals[i + 1] +
      normals[i + 2] * normals[i + 2];
    return (
      size > 0 && dot <= cosine * Math.sqrt(size * (x * x + y * y + z * z))
    );
  }

  /** A triangle gets another number. */
  move(from: number, to: number): void {
    this.normals.copyWithin(3 * to, 3 * from, 3 * from + 3);
  }
}
