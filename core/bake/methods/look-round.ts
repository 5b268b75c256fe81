import { hashPair } from "../../base/pair-set";
import type { Channel } from "./channels";
import type { Fan } from "./fans";
import type { BakeScene } from "./scene";
import type { SourceCatcher } from "./source-catcher";
import type { Tools } from "./tools";

/** What many rays from a place of the source say of what lies round it. */
export class LookRound {
  /** Rays cast so far. */
  rays = 0;
  /** By what the fans are turned. */
  private cos = 1;
  private sin = 0;

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
    const near = scene.size * 1.6e-4;
    this.turnFans();
    if (wants.sky || wants.bent) {
      const bent = wants.bent ? values.bent! : null;
      const open = this.openShare(
        tools.cone,
        scene.reach,
        near,
        1,
        bent,
        texel,
      );
      if (wants.sky) values.sky![texel] = open;
    }
    if (wants.outside)
      values.outside![texel] = this.openShare(
        tools.dome,
        4 * scene.size,
        near,
        1,
      );
    if (wants.curve) {
      const lift = Math.min(near, 0.02 * scene.radius);
      const hollow = 1 - this.openShare(tools.even, scene.radius, lift, 1);
      const convex = 1 - this.openShare(tools.even, scene.radius, lift, -1);
      values.curve![texel] = convex - hollow;
    }
    if (wants.thickness) values.thickness![texel] = this.depthUnder(near);
  }

  /**
   * The share of a fan's rays that leave; the rest are cast where the first do not tell.
   * @param bent where the directions that are open are added up, 3 × texels
   */
  private openShare(
    { first, rest, fair }: Fan,
    reach: number,
    lift: number,
    way: 1 | -1,
    bent: Float32Array | null = null,
    texel = 0,
  ): number {
    const begun = first.length / 3;
    const all = begun + rest.length / 3;
    let open = this.openRays(first, reach, lift, way);
    if (bent) this.addOpen(bent, 3 * texel, begun);
    if (rest.length === 0 || open === begun || (fair && open === 0))
      open *= all / begun;
    else {
      open += this.openRays(rest, reach, lift, way);
      if (bent) this.addOpen(bent, 3 * texel, all - begun);
    }
    if (bent && open === 0) bent.set(this.caught.source, 3 * texel);
    return open / all;
  }

  /** Turns all fans by where the point is, so that neighbours do not look in the same directions. */
  private turnFans(): void {
    const { hit } = this.caught;
    const hash = hashPair(
      Math.round(hit[0] * 1e7) | 0,
      hashPair(Math.round(hit[1] * 1e7) | 0, Math.round(hit[2] * 1e7) | 0),
    );
    const turn = (hash / 4294967296) * 2 * Math.PI;
    this.cos = Math.cos(turn);
    this.sin = Math.sin(turn);
  }

  /** Sets the rays' directions: a fan about the source's normal, or about its opposite. */
  private setFan(fan: Float32Array, way: 1 | -1): void {
    const { source } = this.caught;
    const { cos, sin } = this;
    const { rays } = this.tools;
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
    const count = fan.length / 3;
    for (let i = 0; i < count; i++) {
      const x = cos * fan[3 * i] - sin * fan[3 * i + 1];
      const y = sin * fan[3 * i] + cos * fan[3 * i + 1];
      const z = fan[3 * i + 2];
      directions[i] = x * ux + y * vx + z * sx;
      directions[count + i] = x * uy + y * vy + z * sy;
      directions[2 * count + i] = x * uz + y * vz + z * sz;
    }
  }

  /** How many of a fan's rays leave; the directions of those that do not are set to 0. */
  private openRays(
    fan: Float32Array,
    reach: number,
    lift: number,
    way: 1 | -1,
  ): number {
    const { hit, source: s } = this.caught;
    const count = fan.length / 3;
    this.setFan(fan, way);
    if (this.caught.canvas.around < 0) return count;
    this.rays += count;
    return this.tools.rays.sky(
      this.caught.canvas.around,
      hit[0] + way * s[0] * lift,
      hit[1] + way * s[1] * lift,
      hit[2] + way * s[2] * lift,
      way * s[0],
      way * s[1],
      way * s[2],
      reach,
      count,
    );
  }

  /** Adds up the first directions of those that are open. */
  private addOpen(into: Float32Array, to: number, count: number): void {
    const { directions } = this.tools.rays;
    for (let k = 0; k < 3; k++) {
      let sum = 0;
      for (let i = 0; i < count; i++) sum += directions[k * count + i];
      into[to + k] += sum;
    }
  }

  /** The mean way that rays under the surface go until they come out, metres, up to the depth that is looked at. */
  private depthUnder(lift: number): number {
    const { scene } = this;
    const { dome } = this.tools;
    if (this.caught.canvas.around < 0) return scene.depthUnder;
    const sum =
      this.waysUnder(dome.first, lift) + this.waysUnder(dome.rest, lift);
    this.rays += scene.rays;
    return sum / scene.rays;
  }

  private waysUnder(fan: Float32Array, lift: number): number {
    const { scene } = this;
    const { hit, source: s } = this.caught;
    const { rays } = this.tools;
    const { directions } = rays;
    const count = fan.length / 3;
    this.setFan(fan, -1);
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
    return sum;
  }
}
