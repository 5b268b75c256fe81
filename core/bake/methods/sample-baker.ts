import { lengthOf } from "../../space/vector";
import { mix, normalize } from "./mixing";
import type { RowResult } from "./band";
import type { Channel } from "./channels";
import { LookRound } from "./look-round";
import type { Canvas } from "./canvas";
import { Rounding } from "./rounding";
import type { BakeScene } from "./scene";
import { SourceCatcher } from "./source-catcher";
import { colourAt } from "./source-pictures";
import { COUNTS, NEAR_LIMIT, STATUS } from "./status";
import type { Tools } from "./tools";

/** Bakes samples of game triangles into the texels of a band, see `bakeRows`. */
export class SampleBaker {
  private canvas!: Canvas;
  /** Where the canvas's counts begin. */
  private at = 0;
  private readonly wants: Readonly<Partial<Record<Channel, true>>>;
  private t = 0;
  private inverse = 0;
  private readonly tangent = new Float64Array(3);
  private readonly caught: SourceCatcher;
  private readonly round: LookRound;
  /** A colour of a picture, linear. */
  private readonly picked = new Float64Array(3);
  private readonly rounding = new Rounding();
  /** What the sample shows: the source's normal, turned where an edge is round. */
  private readonly shown = new Float64Array(3);

  constructor(
    private readonly scene: BakeScene,
    tools: Tools,
    private readonly result: Omit<RowResult, "rays">,
  ) {
    this.wants = Object.fromEntries(
      scene.channels.map((name) => [name, true as const]),
    );
    this.caught = new SourceCatcher(scene, tools);
    const { caught, wants } = this;
    this.round = new LookRound(scene, tools, caught, wants, result.values);
  }

  /** Rays cast so far. */
  get rays(): number {
    return this.caught.rays + this.round.rays;
  }

  triangle(canvas: Canvas, t: number, c: number): void {
    this.canvas = this.caught.canvas = canvas;
    this.at = COUNTS.length * c;
    this.t = this.caught.t = t;
    const q = canvas.uvs;
    const i = 6 * t;
    const area =
      (q[i + 2] - q[i]) * (q[i + 5] - q[i + 1]) -
      (q[i + 4] - q[i]) * (q[i + 3] - q[i + 1]);
    this.inverse = area !== 0 ? 1 / area : 0;
  }

  /** Bakes the sample at (u, v) into a texel. @param middle whether it is the one in the middle of the texel */
  sample(u: number, v: number, texel: number, middle: boolean): void {
    const { canvas, t, inverse, tangent } = this;
    const { p, n, d } = this.caught;
    const q = canvas.uvs;
    const i = 6 * t;
    const b =
      ((u - q[i]) * (q[i + 5] - q[i + 1]) -
        (q[i + 4] - q[i]) * (v - q[i + 1])) *
      inverse;
    const c =
      ((q[i + 2] - q[i]) * (v - q[i + 1]) -
        (u - q[i]) * (q[i + 3] - q[i + 1])) *
      inverse;
    const a = 1 - b - c;
    mix(canvas.positions, 9 * t, 3, a, b, c, p);
    mix(canvas.normals, 9 * t, 3, a, b, c, n);
    mix(canvas.directions, 9 * t, 3, a, b, c, d);
    mix(canvas.tangents, 12 * t, 4, a, b, c, tangent);
    const { corners } = canvas;
    const near = canvas.caged
      ? lengthOf(d[0], d[1], d[2])
      : a * corners[3 * t] + b * corners[3 * t + 1] + c * corners[3 * t + 2];
    normalize(d);
    const { covered } = this.result;
    const status = this.catch(near);
    this.shown.set(this.caught.source);
    if (canvas.rounded && this.rounding.at(canvas.rounded, t, a, b, c, p))
      this.rounding.turn(this.shown);
    if (this.wants.normal) this.store(texel, canvas.tangents[12 * t + 3]);
    this.storeRest(texel, status, middle || covered[texel] === 0);
    // One look round a texel is enough; its grain is finer than what the other samples would add.
    if (this.scene.rays > 0 && covered[texel] === 0) this.round.at(texel);
    covered[texel]++;
  }

  /**
   * Finds the source for the present sample and counts what became of its ray.
   * @param near the distance that should do here, metres; @returns one of `STATUS`
   */
  private catch(near: number): number {
    const { canvas, caught } = this;
    const { counts } = this.result;
    const { distance, card } = canvas;
    counts[this.at]++;
    caught.metTarget = -1;
    // Where nothing lies within a distance a longer ray can't catch anything nearer.
    const met =
      caught.along(near) || (near < distance && caught.along(distance));
    const far = !met && caught.along(4 * distance);
    if (far) counts[this.at + 3]++;
    const slants = !met && !far && !card && caught.straight();
    if (slants) counts[this.at + 5]++;
    if (caught.metTarget >= 0) {
      if (caught.behind) counts[this.at + 4]++;
      if (far) return STATUS.far;
      if (caught.behind) return STATUS.inside;
      if (slants) return STATUS.slanting;
      if (this.offset() > NEAR_LIMIT * distance) return STATUS.limit;
      return caught.metTarget === canvas.own ? STATUS.own : STATUS.shared;
    }
    const overhangs = caught.closest() || (!card && caught.beside());
    // Through a hole: what lies beside it still bleeds into it.
    if (card) return STATUS.none;
    counts[this.at + 1]++;
    if (overhangs) counts[this.at + 2]++;
    else this.noteFarthest();
    return overhangs ? STATUS.overhanging : STATUS.missed;
  }

  /** How far the source's place lies from the game mesh's, metres. */
  private offset(): number {
    const { hit, p } = this.caught;
    return lengthOf(hit[0] - p[0], hit[1] - p[1], hit[2] - p[2]);
  }

  private noteFarthest(): void {
    const { farthest } = this.result;
    const c = this.at / COUNTS.length;
    const far = this.offset();
    if (far > farthest[c]) farthest[c] = far;
  }

  /** Adds what is found once a sample; flat values are those of one sample, the middle one where there is one. */
  private storeRest(texel: number, status: number, flat: boolean): void {
    const { wants } = this;
    const { hit, p, d, metTarget, metTriangle } = this.caught;
    const { values } = this.result;
    const to = 3 * texel;
    const add = (into: Float32Array, from: ArrayLike<number>) => {
      for (let k = 0; k < 3; k++) into[to + k] += from[k];
    };
    if (wants.object) add(values.object!, this.shown);
    if (wants.position) add(values.position!, hit);
    if (wants.height)
      values.height![texel] +=
        (hit[0] - p[0]) * d[0] +
        (hit[1] - p[1]) * d[1] +
        (hit[2] - p[2]) * d[2];
    const isThere = status !== STATUS.none;
    const turned = this.scene.inverts && this.canvas.card;
    if (wants.opacity && isThere !== turned) values.opacity![texel]++;
    // The worst of a texel's samples is what one wants to know of it.
    if (wants.status && status > values.status![texel])
      values.status![texel] = status;
    if (wants.colour) this.addColour(values.colour!, to);
    if (!flat || metTarget < 0) return;
    const { names } = this.scene.targets[metTarget];
    if (!names) return;
    const from = 3 * metTriangle;
    if (wants.id) values.id![texel] = names[from];
    if (wants.material) values.material![texel] = names[from + 1];
    if (wants.part) values.part![texel] = names[from + 2];
  }

  private addColour(into: Float32Array, to: number): void {
    const { metTarget, metTriangle, metU, metV } = this.caught;
    const { picked } = this;
    const w = 1 - metU - metV;
    picked.fill(1);
    const target = metTarget < 0 ? null : this.scene.targets[metTarget];
    const picture = target?.pictures?.[metTriangle] ?? 0;
    if (target && picture) {
      const q = target.uvs!;
      const at = 6 * metTriangle;
      colourAt(
        this.scene.pictures[picture - 1],
        w * q[at] + metU * q[at + 2] + metV * q[at + 4],
        w * q[at + 1] + metU * q[at + 3] + metV * q[at + 5],
        picked,
      );
    }
    const colours = target?.colours;
    for (let k = 0; k < 3; k++) {
      const from = 9 * metTriangle + k;
      into[to + k] +=
        picked[k] *
        (colours
          ? w * colours[from] +
            metU * colours[from + 3] +
            metV * colours[from + 6]
          : 1);
    }
  }

  /**
   * Writes the source's normal in the frame of tangent, bitangent and normal, all as interpolated and not made
   * unit again, as the standard's decoding has it; the inverse of that frame is exact also where it is skewed.
   */
  private store(texel: number, sign: number): void {
    const { tangent: t } = this;
    const { shown: s } = this;
    const { n } = this.caught;
    const bx = sign * (n[1] * t[2] - n[2] * t[1]);
    const by = sign * (n[2] * t[0] - n[0] * t[2]);
    const bz = sign * (n[0] * t[1] - n[1] * t[0]);
    // Rows of the inverse are cross products of the columns; their common factor goes with normalising.
    const cx = by * n[2] - bz * n[1];
    const cy = bz * n[0] - bx * n[2];
    const cz = bx * n[1] - by * n[0];
    const det = t[0] * cx + t[1] * cy + t[2] * cz;
    const way = det < 0 ? -1 : 1;
    let x = way * (cx * s[0] + cy * s[1] + cz * s[2]);
    let y =
      way *
      ((n[1] * t[2] - n[2] * t[1]) * s[0] +
        (n[2] * t[0] - n[0] * t[2]) * s[1] +
        (n[0] * t[1] - n[1] * t[0]) * s[2]);
    let z =
      way *
      ((t[1] * bz - t[2] * by) * s[0] +
        (t[2] * bx - t[0] * bz) * s[1] +
        (t[0] * by - t[1] * bx) * s[2]);
    const length = lengthOf(x, y, z);
    if (length > 0) {
      x /= length;
      y /= length;
      z /= length;
    } else z = 1;
    const to = 3 * texel;
    const normals = this.result.values.normal!;
    normals[to] += x;
    normals[to + 1] += y;
    normals[to + 2] += z;
  }
}
