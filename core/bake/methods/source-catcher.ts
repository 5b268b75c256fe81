import { mix, normalize, onBorder } from "./mixing";
import type { Canvas } from "./canvas";
import type { BakeScene } from "./scene";
import type { Tools } from "./tools";

/** How far aside of its place a ray is tried where it met nothing: a share of the part's ray distance. */
const ASIDE = 0.25;

/** Finds what of the source a place of the game mesh shows: along its ray, straight off the surface, or the closest point. */
export class SourceCatcher {
  canvas!: Canvas;
  /** The canvas's triangle. */
  t = 0;
  /** Place on the game mesh, metres; shading normal there, and the way that the ray comes from, of unit length. */
  readonly p = new Float64Array(3);
  readonly n = new Float64Array(3);
  readonly d = new Float64Array(3);
  /** Place on the source, metres, and its normal there, of unit length. */
  readonly hit = new Float64Array(3);
  readonly source = new Float64Array(3);
  /** A triangle of a target and the weights of its corners; −1 where nothing was met. */
  metTarget = -1;
  metTriangle = -1;
  metU = 0;
  metV = 0;
  /** Whether the last ray began inside something. */
  behind = false;
  /** Rays cast so far. */
  rays = 0;

  constructor(
    private readonly scene: BakeScene,
    private readonly tools: Tools,
  ) {}

  /** Finds the source's point and normal for the present sample; false where the ray met nothing. */
  along(distance: number): boolean {
    const { canvas, p, d } = this;
    this.behind = false;
    const far = 2 * distance;
    let best = Infinity;
    let bestTarget = -1;
    let bestTriangle = -1;
    let bestU = 0;
    let bestV = 0;
    let behind = false;
    const ox = p[0] + d[0] * distance;
    const oy = p[1] + d[1] * distance;
    const oz = p[2] + d[2] * distance;
    const { rays } = this.tools;
    for (const target of canvas.targets) {
      let near = 0;
      for (let tries = 0; tries < 6; tries++) {
        this.rays++;
        const hit = rays.first(
          target,
          ox,
          oy,
          oz,
          -d[0],
          -d[1],
          -d[2],
          near,
          Math.min(far, best),
        );
        if (hit < 0) break;
        if (rays.facing < 0) {
          best = rays.distance;
          bestTarget = target;
          bestTriangle = hit;
          bestU = rays.u;
          bestV = rays.v;
          break;
        }
        // The ray began inside something: on to what lies behind its back wall.
        if (tries === 0) behind = true;
        near = rays.distance + 1e-6 * far;
      }
    }
    if (bestTarget >= 0) {
      this.hit[0] = ox - d[0] * best;
      this.hit[1] = oy - d[1] * best;
      this.hit[2] = oz - d[2] * best;
      this.takeNormal(bestTarget, bestTriangle, bestU, bestV);
      this.behind = behind;
      return true;
    }
    return false;
  }

  /** Tries the shading normal and then the triangle's own in place of the smoothed direction, which may slant past. */
  straight(): boolean {
    const { canvas, d, n, t } = this;
    const [x, y, z] = d;
    for (const own of [false, true]) {
      if (own) {
        const q = canvas.positions.subarray(9 * t, 9 * t + 9);
        const [ux, uy, uz] = [q[3] - q[0], q[4] - q[1], q[5] - q[2]];
        const [vx, vy, vz] = [q[6] - q[0], q[7] - q[1], q[8] - q[2]];
        d[0] = uy * vz - uz * vy;
        d[1] = uz * vx - ux * vz;
        d[2] = ux * vy - uy * vx;
      } else d.set(n);
      normalize(d);
      if (this.along(canvas.distance)) return true;
    }
    d[0] = x;
    d[1] = y;
    d[2] = z;
    return false;
  }

  /** Takes the source's closest point; whether that lies on an open border of it, within twice the part's distance. */
  closest(): boolean {
    const { p } = this;
    let best = Infinity;
    let overhangs = false;
    for (const target of this.canvas.targets) {
      const closest = this.tools.closest[target];
      const triangle = closest.find(p[0], p[1], p[2], best);
      if (triangle < 0) continue;
      best = closest.distance2;
      this.hit[0] = closest.x;
      this.hit[1] = closest.y;
      this.hit[2] = closest.z;
      this.takeNormal(target, triangle, closest.u, closest.v);
      overhangs = onBorder(
        this.scene.targets[target].open[triangle],
        closest.u,
        closest.v,
      );
    }
    if (best === Infinity) {
      this.hit.set(p);
      this.source.set(this.n);
    }
    // A corner of the outline hangs over farther than its sides.
    return overhangs && best <= (2 * this.canvas.distance) ** 2;
  }

  /**
   * Tries the ray a little aside, where the closest point is: a game mesh that reaches past a sharp rim of its source
   * shows what lies beside that rim. Called after `closest`, whose find stays where nothing is met.
   */
  beside(): boolean {
    const { canvas, p, d, hit } = this;
    const [x, y, z] = p;
    const way = [hit[0] - x, hit[1] - y, hit[2] - z];
    const along = way[0] * d[0] + way[1] * d[1] + way[2] * d[2];
    const aside = way.map((w, k) => w - along * d[k]);
    if (Math.hypot(...aside) > ASIDE * canvas.distance) return false;
    for (let k = 0; k < 3; k++) p[k] += 1.02 * aside[k];
    const met = this.along(canvas.distance);
    p[0] = x;
    p[1] = y;
    p[2] = z;
    return met;
  }

  private takeNormal(
    target: number,
    triangle: number,
    u: number,
    v: number,
  ): void {
    this.metTarget = target;
    this.metTriangle = triangle;
    this.metU = u;
    this.metV = v;
    mix(
      this.scene.targets[target].normals,
      9 * triangle,
      3,
      1 - u - v,
      u,
      v,
      this.source,
    );
    normalize(this.source);
  }
}
