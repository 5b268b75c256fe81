import type { Plane, Surface } from "./half-space";
import { BELOW, facesAlong, markSides } from "./half-space";

/**
 * The part of a surface below a plane; triangles that cross it are cut (Sutherland and Hodgman 1974). The face that the
 * cut makes is told by its outline, and so are those of earlier cuts, so that their corners inside a solid are points
 * as well.
 * @param near points less far than that lie on the plane, metres; a face in it is kept where it faces the way the
 *   plane does
 */
export function partBelow(
  surface: Surface,
  plane: Plane,
  near: number,
): Surface {
  const part = new Part(surface, plane, near);
  part.cutTriangles();
  part.cutOutlines();
  return part.made();
}

/** What is below a plane, while it is gathered. */
class Part {
  private readonly heights: Float64Array;
  private readonly names: Int32Array;
  private readonly crossings = new Map<number, number>();
  /** How many points are kept, and where: 3 × keptCount, metres. */
  private kept = 0;
  private readonly below: Float64Array;
  /** 3 × crossingCount: where edges cross the plane, numbered after what is kept; metres. */
  private readonly crossed: number[] = [];
  /** 3 × as many as there may be, and how much of that is used. */
  private readonly triangles: Uint32Array;
  private used = 0;
  private readonly outlines: number[] = [];
  /** Number of the face that this cut makes. */
  private readonly face: number;

  constructor(
    private readonly from: Surface,
    private readonly plane: Plane,
    private readonly near: number,
  ) {
    const { positions: p, triangles, outlines } = from;
    const count = p.length / 3;
    this.heights = new Float64Array(count);
    this.names = new Int32Array(count).fill(-1);
    const marks = new Uint8Array(count);
    markSides(from, plane, near, this.heights, marks);
    for (let v = 0; v < count; v++)
      if (marks[v] & BELOW) this.names[v] = this.kept++;
    this.below = new Float64Array(3 * this.kept);
    for (let v = 0; v < count; v++) {
      const name = this.names[v];
      if (name < 0) continue;
      this.below[3 * name] = p[3 * v];
      this.below[3 * name + 1] = p[3 * v + 1];
      this.below[3 * name + 2] = p[3 * v + 2];
    }
    // What is left of a triangle is one or two of them.
    this.triangles = new Uint32Array(2 * triangles.length);
    let face = 0;
    for (let e = 0; e < outlines.length; e += 3)
      face = Math.max(face, outlines[e] + 1);
    this.face = face;
  }

  /**
   * The point where an edge crosses the plane: half as far below it as counts as in it, so that a second cut in the same
   * place finds it in the plane whatever the rounding.
   */
  private crossing(a: number, b: number): number {
    const count = this.heights.length;
    const key = Math.min(a, b) * count + Math.max(a, b);
    let name = this.crossings.get(key);
    if (name === undefined) {
      name = this.kept + this.crossed.length / 3;
      this.crossings.set(key, name);
      const { positions: p } = this.from;
      const [from, to] = [this.heights[a], this.heights[b]];
      const level = (from + this.near / 2) / (from - to);
      const share = Math.min(1, Math.max(0, level));
      for (let n = 0; n < 3; n++)
        this.crossed.push(p[3 * a + n] + (p[3 * b + n] - p[3 * a + n]) * share);
    }
    return name;
  }

  cutTriangles(): void {
    const { heights, names, near } = this;
    const { triangles } = this.from;
    const polygon: number[] = [];
    for (let t = 0; t < triangles.length; t += 3) {
      const a = triangles[t];
      const b = triangles[t + 1];
      const c = triangles[t + 2];
      const low = Math.min(heights[a], heights[b], heights[c]);
      const high = Math.max(heights[a], heights[b], heights[c]);
      if (low <= -near && high > -near) this.section(a, b, c);
      if (low > near) continue;
      if (low >= -near && !this.isKept(a, b, c)) continue;
      if (names[a] >= 0 && names[b] >= 0 && names[c] >= 0)
        this.add(names[a], names[b], names[c]);
      else {
        polygon.length = 0;
        for (let k = 0; k < 3; k++) {
          const v = triangles[t + k];
          const w = triangles[t + (k === 2 ? 0 : k + 1)];
          if (names[v] >= 0) polygon.push(names[v]);
          if (
            (heights[v] > near && heights[w] < -near) ||
            (heights[v] < -near && heights[w] > near)
          )
            polygon.push(this.crossing(v, w));
        }
        for (let k = 1; k + 1 < polygon.length; k++)
          this.add(polygon[0], polygon[k], polygon[k + 1]);
      }
    }
  }

  private add(a: number, b: number, c: number): void {
    this.triangles[this.used++] = a;
    this.triangles[this.used++] = b;
    this.triangles[this.used++] = c;
  }

  /** Whether a triangle that does not reach below the plane is kept: it lies in it and faces the way it does. */
  private isKept(a: number, b: number, c: number): boolean {
    const { heights, near, plane } = this;
    const high = Math.max(heights[a], heights[b], heights[c]);
    return high <= near && facesAlong(this.from.positions, a, b, c, plane);
  }

  /** The edge in which a triangle meets the plane just below it: a point is there or not, so that outlines stay closed. */
  private section(a: number, b: number, c: number): void {
    const { heights, near } = this;
    const [x, y, z] = [
      heights[a] > -near,
      heights[b] > -near,
      heights[c] > -near,
    ];
    this.outlines.push(this.face);
    if (x !== y) this.outlines.push(this.crossing(a, b));
    if (y !== z) this.outlines.push(this.crossing(b, c));
    if (z !== x) this.outlines.push(this.crossing(c, a));
  }

  /** Cuts the outlines of earlier cuts, and closes them along the plane: inside is between every second pair of crossings. */
  cutOutlines(): void {
    const { heights, names, near } = this;
    const { outlines } = this.from;
    const crossed = new Map<number, number[]>();
    for (let e = 0; e < outlines.length; e += 3) {
      const [face, a, b] = outlines.subarray(e, e + 3);
      const above = heights[a] > -near;
      if (above === heights[b] > -near) {
        if (!above && names[a] >= 0 && names[b] >= 0)
          this.outlines.push(face, names[a], names[b]);
        continue;
      }
      const at = this.crossing(a, b);
      if (names[above ? b : a] < 0) continue;
      this.outlines.push(face, above ? at : names[a], above ? names[b] : at);
      const list = crossed.get(face);
      if (list) list.push(at);
      else crossed.set(face, [at]);
    }
    for (const [face, list] of crossed) {
      const axis = this.longestAxis(list);
      list.sort((a, b) => this.along(a, axis) - this.along(b, axis));
      for (let k = 0; k + 1 < list.length; k += 2)
        for (const each of [face, this.face])
          this.outlines.push(each, list[k], list[k + 1]);
    }
  }

  /** One coordinate of a crossing, metres. */
  private along(crossing: number, axis: number): number {
    return this.crossed[3 * (crossing - this.kept) + axis];
  }

  private longestAxis(list: readonly number[]): number {
    const spans = [0, 1, 2].map((k) => {
      let low = Infinity;
      let high = -Infinity;
      for (const v of list) {
        low = Math.min(low, this.along(v, k));
        high = Math.max(high, this.along(v, k));
      }
      return high - low;
    });
    return spans.indexOf(Math.max(...spans));
  }

  made(): Surface {
    const positions = new Float64Array(this.below.length + this.crossed.length);
    positions.set(this.below);
    positions.set(this.crossed, this.below.length);
    return {
      positions,
      triangles: this.triangles.slice(0, this.used),
      outlines: Uint32Array.from(this.outlines),
    };
  }
}
