import { lengthOf } from "../../space/vector";
import type { RoundedEdges } from "./rounded-edges";
import { SIDE } from "./rounded-edges";

/** Planes that one place may lie near: more than this are not told apart. */
const MOST = 8;

/**
 * The normal of a mesh with round edges: that of the nearest point of the bevel. A convex bevel is what stays within a
 * radius of the mesh moved in by it; so the normal points from the nearest place that lies a radius inside of all
 * faces about to the place itself; hollow ones are the same from outside. Planes are told in radii of their edge, so
 * that edges of several radii meet in one corner.
 */
export class Rounding {
  /** The normal as the mesh is shaped, and with its edges round; of unit length. */
  readonly sharp = new Float64Array(3);
  readonly round = new Float64Array(3);
  /** Of the planes about: normals, and how far inside of them the place lies, radii, at most 0. */
  private readonly m = new Float64Array(3 * MOST);
  private readonly s = new Float64Array(MOST);
  private count = 0;
  private readonly v = new Float64Array(3);
  private readonly best = new Float64Array(3);
  private most = 0;

  /**
   * Finds both normals at a place of a triangle.
   * @param a,b,c weights of its corners; @param p the place, metres; @returns whether they differ
   */
  at(
    edges: RoundedEdges,
    t: number,
    a: number,
    b: number,
    c: number,
    p: ArrayLike<number>,
  ): boolean {
    const { starts, normals } = edges;
    const { sharp, round } = this;
    if (starts[t] === starts[t + 1]) return false;
    for (let k = 0; k < 3; k++)
      sharp[k] =
        a * normals[9 * t + k] +
        b * normals[9 * t + 3 + k] +
        c * normals[9 * t + 6 + k];
    if (!unit(sharp)) return false;
    round.set(sharp);
    let differs = false;
    for (let way = 1; way >= -1; way -= 2) {
      this.gather(edges, t, way, p);
      if (!this.count || !this.solve(way)) continue;
      for (let k = 0; k < 3; k++) round[k] += this.v[k] - sharp[k];
      differs = true;
    }
    return differs && unit(round);
  }

  /** Collects the planes beyond the edges near a place, outward as seen from inside (convex) or outside (hollow). */
  private gather(
    { starts, near, sides }: RoundedEdges,
    t: number,
    way: number,
    p: ArrayLike<number>,
  ): void {
    const { m, s } = this;
    this.count = 0;
    for (let i = starts[t]; i < starts[t + 1]; i++) {
      const at = SIDE * near[i];
      if (sides[at + 14] !== way) continue;
      let along = 0;
      let length2 = 0;
      for (let k = 0; k < 3; k++) {
        const x = sides[at + 3 + k] - sides[at + k];
        along += x * (p[k] - sides[at + k]);
        length2 += x * x;
      }
      if (!(length2 > 0)) continue;
      const share = Math.max(0, Math.min(1, along / length2));
      const past = Math.abs(along / length2 - share) * Math.sqrt(length2);
      // Past the end of an edge its bevel runs out.
      const fade = 1 - past / sides[at + 12];
      if (fade <= 0) continue;
      const n = Math.min(this.count, MOST - 1);
      let far2 = 0;
      let size2 = 0;
      let depth = 0;
      for (let k = 0; k < 3; k++) {
        const gap =
          p[k] - (1 - share) * sides[at + k] - share * sides[at + 3 + k];
        const x =
          way * ((1 - share) * sides[at + 6 + k] + share * sides[at + 9 + k]);
        m[3 * n + k] = x;
        size2 += x * x;
        far2 += gap * gap;
        depth += gap * x;
      }
      if (!(size2 > 0)) continue;
      const size = Math.sqrt(size2);
      for (let k = 0; k < 3; k++) m[3 * n + k] /= size;
      const reach = 1.001 * fade * sides[at + 13] + past;
      if (far2 > reach * reach) continue;
      s[n] = Math.min(0, depth / size) / (fade * sides[at + 12]);
      this.count = n + 1;
    }
  }

  /**
   * Finds the shortest way from the place to where it lies a radius inside of its own plane and all others: none, one
   * or two of them decide besides its own. @returns whether another one does; the normal is in `v` then
   */
  private solve(way: number): boolean {
    const { m, s, v, best, sharp, count } = this;
    const n0 = way * sharp[0];
    const n1 = way * sharp[1];
    const n2 = way * sharp[2];
    this.most = Infinity;
    v[0] = -n0;
    v[1] = -n1;
    v[2] = -n2;
    if (this.fits(n0, n1, n2)) return false;
    for (let i = 0; i < count; i++) {
      const c = n0 * m[3 * i] + n1 * m[3 * i + 1] + n2 * m[3 * i + 2];
      const det = 1 - c * c;
      if (det < 1e-6) continue;
      const w = (1 + s[i] - c) / det;
      const w0 = 1 - c * w;
      if (w < 0 || w0 < 0) continue;
      v[0] = -w0 * n0 - w * m[3 * i];
      v[1] = -w0 * n1 - w * m[3 * i + 1];
      v[2] = -w0 * n2 - w * m[3 * i + 2];
      this.keepBest(n0, n1, n2);
    }
    for (let i = 0; i < count; i++)
      for (let j = i + 1; j < count; j++) this.meet(n0, n1, n2, i, j);
    if (this.most === Infinity) return false;
    const size = way * Math.sqrt(this.most);
    for (let k = 0; k < 3; k++) v[k] = -best[k] / size;
    return true;
  }

  /** Where three planes meet, by Cramer's rule. */
  private meet(n0: number, n1: number, n2: number, i: number, j: number): void {
    const { m, s, v } = this;
    const a0 = m[3 * i];
    const a1 = m[3 * i + 1];
    const a2 = m[3 * i + 2];
    const b0 = m[3 * j];
    const b1 = m[3 * j + 1];
    const b2 = m[3 * j + 2];
    const x0 = a1 * b2 - a2 * b1;
    const x1 = a2 * b0 - a0 * b2;
    const x2 = a0 * b1 - a1 * b0;
    const det = n0 * x0 + n1 * x1 + n2 * x2;
    if (Math.abs(det) < 1e-3) return;
    const u = -1 - s[i];
    const w = -1 - s[j];
    v[0] = (-x0 + u * (b1 * n2 - b2 * n1) + w * (n1 * a2 - n2 * a1)) / det;
    v[1] = (-x1 + u * (b2 * n0 - b0 * n2) + w * (n2 * a0 - n0 * a2)) / det;
    v[2] = (-x2 + u * (b0 * n1 - b1 * n0) + w * (n0 * a1 - n1 * a0)) / det;
    this.keepBest(n0, n1, n2);
  }

  private keepBest(n0: number, n1: number, n2: number): void {
    const { v } = this;
    const length2 = v[0] * v[0] + v[1] * v[1] + v[2] * v[2];
    if (length2 >= this.most || !this.fits(n0, n1, n2)) return;
    this.most = length2;
    this.best.set(v);
  }

  private fits(n0: number, n1: number, n2: number): boolean {
    const { m, s, v } = this;
    if (v[0] * n0 + v[1] * n1 + v[2] * n2 > -1 + 1e-6) return false;
    for (let i = 0; i < this.count; i++)
      if (
        v[0] * m[3 * i] + v[1] * m[3 * i + 1] + v[2] * m[3 * i + 2] >
        -1 - s[i] + 1e-6
      )
        return false;
    return true;
  }

  /** Turns what a source shows as far as the mesh's own normal turns from sharp to round (Rodrigues). */
  turn(normal: Float64Array): void {
    const { sharp: f, round: t } = this;
    const x = f[1] * t[2] - f[2] * t[1];
    const y = f[2] * t[0] - f[0] * t[2];
    const z = f[0] * t[1] - f[1] * t[0];
    const c = f[0] * t[0] + f[1] * t[1] + f[2] * t[2];
    if (c < -0.999) return;
    const a = normal[0];
    const b = normal[1];
    const d = normal[2];
    const along = (x * a + y * b + z * d) / (1 + c);
    normal[0] = c * a + y * d - z * b + along * x;
    normal[1] = c * b + z * a - x * d + along * y;
    normal[2] = c * d + x * b - y * a + along * z;
    unit(normal);
  }
}

function unit(v: Float64Array): boolean {
  const length = lengthOf(v[0], v[1], v[2]);
  if (!(length > 0)) return false;
  for (let k = 0; k < 3; k++) v[k] /= length;
  return true;
}
