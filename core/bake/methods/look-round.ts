import { hashPair } from "../../base/pair-set";
import type { Channel } from "./channels";
import type { BakeScene } from "./scene";
import type { SourceCatcher } from "./source-catcher";
import type { Tools } from "./tools";

/** What many rays from a place of the source say of what lies round it. */
export class LookRound {
  /** Rays cast so far. */
  rays = 0;

  constructor(
    private readonly scene: BakeScene,
    private readonly tools: Tools,
    private readonly caught: Pick<SourceCatcher, "canvas" | "hit" | "source">,
    private readonly wants: Readonly<Partial<Record<Channel, true>>>,
    private readonly values: Partial<Record<Channel, Float32Array>>,
  ) {}

  /** What many rays from the source's point say. */
  at(texel: number): void {
    const { wants, tools, scene, values } = this;
    const count = scene.rays;
    const near = scene.size * 1.6e-4;
    if (wants.sky || wants.bent) {
      this.turnDome(tools.cone, 1);
      const open = this.openRays(scene.reach, near, 1);
      if (wants.sky) values.sky![texel] = open / count;
      if (wants.bent) this.addOpen(values.bent!, 3 * texel);
    }
    if (wants.outside) {
      this.turnDome(tools.dome, 1);
      values.outside![texel] = this.openRays(4 * scene.size, near, 1) / count;
    }
    if (wants.curve) {
      const lift = Math.min(near, 0.02 * scene.radius);
      this.turnDome(tools.even, 1);
      const hollow = 1 - this.openRays(scene.radius, lift, 1) / count;
      this.turnDome(tools.even, -1);
      const convex = 1 - this.openRays(scene.radius, lift, -1) / count;
      values.curve![texel] = convex - hollow;
    }
    if (wants.thickness) values.thickness![texel] = this.depthUnder(near);
  }

  /** Sets the rays' directions: a dome about the source's normal, or about its opposite, turned by where the point is. */
  private turnDome(dome: Float32Array, way: 1 | -1): void {
    const { hit, source } = this.caught;
    const { rays } = this.tools;
    const hash = hashPair(
      Math.round(hit[0] * 1e7) | 0,
      hashPair(Math.round(hit[1] * 1e7) | 0, Math.round(hit[2] * 1e7) | 0),
    );
    const turn = (hash / 4294967296) * 2 * Math.PI;
    const cos = Math.cos(turn);
    const sin = Math.sin(turn);
    const sx = way * source[0];
    const sy = way * source[1];
    const sz = way * source[2];
    // A frame about the normal (Duff et al. 2017).
    const sign = sz < 0 ? -1 : 1;
    const a = -1 / (sign + sz);
    const b = sx * sy * a;
    const ux = 1 + sign * sx * sx * a;
    const uy = sign * b;
    const uz = -sign * sx;
    const vx = b;
    const vy = sign + sy * sy * a;
    const vz = -sy;
    const { directions } = rays;
    const count = dome.length / 3;
    for (let i = 0; i < count; i++) {
      const x = cos * dome[3 * i] - sin * dome[3 * i + 1];
      const y = sin * dome[3 * i] + cos * dome[3 * i + 1];
      const z = dome[3 * i + 2];
      directions[i] = x * ux + y * vx + z * sx;
      directions[count + i] = x * uy + y * vy + z * sy;
      directions[2 * count + i] = x * uz + y * vz + z * sz;
    }
  }

  /** How many of the rays leave; those that do not are set to 0. */
  private openRays(reach: number, lift: number, way: 1 | -1): number {
    const { scene } = this;
    const { hit, source: s } = this.caught;
    if (this.caught.canvas.around < 0) return scene.rays;
    this.rays += scene.rays;
    return this.tools.rays.sky(
      this.caught.canvas.around,
      hit[0] + way * s[0] * lift,
      hit[1] + way * s[1] * lift,
      hit[2] + way * s[2] * lift,
      way * s[0],
      way * s[1],
      way * s[2],
      reach,
    );
  }

  /** Adds up the directions that are open; the source's normal where none is. */
  private addOpen(into: Float32Array, to: number): void {
    const { directions } = this.tools.rays;
    const count = directions.length / 3;
    const sum = [0, 0, 0];
    for (let k = 0; k < 3; k++)
      for (let i = 0; i < count; i++) sum[k] += directions[k * count + i];
    const found = Math.hypot(sum[0], sum[1], sum[2]) > 0;
    for (let k = 0; k < 3; k++)
      into[to + k] = found ? sum[k] : this.caught.source[k];
  }

  /** The mean way that rays under the surface go until they come out, metres, up to the depth that is looked at. */
  private depthUnder(lift: number): number {
    const { scene } = this;
    const { hit, source: s } = this.caught;
    const { rays, dome } = this.tools;
    if (this.caught.canvas.around < 0) return scene.depthUnder;
    this.turnDome(dome, -1);
    const count = scene.rays;
    const { directions } = rays;
    let sum = 0;
    for (let i = 0; i < count; i++) {
      const met = rays.first(
        this.caught.canvas.around,
        hit[0] - s[0] * lift,
        hit[1] - s[1] * lift,
        hit[2] - s[2] * lift,
        directions[i],
        directions[count + i],
        directions[2 * count + i],
        0,
        scene.depthUnder,
      );
      sum += met < 0 ? scene.depthUnder : rays.distance;
    }
    this.rays += count;
    return sum / count;
  }
}
