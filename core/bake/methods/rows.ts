import { onBorder, mix, normalize } from "./mixing";
import { ClosestPoint } from "../../space/closest-point";
import { hashPair } from "../../base/pair-set";
import { rasterizeTriangle } from "../../space/raster";
import { RayScene } from "../../space/ray-scene";
import type { Channel } from "./channels";
import { CHANNELS } from "./channels";
import type { BakeScene, Canvas } from "./scene";

/** A band of rows of one sheet, from its bottom. */
export interface RowSlice {
  /** Where the sheet lies in UV: whole sheets to the right and up. */
  right: number;
  up: number;
  from: number;
  to: number;
}

/** What became of a sample's ray, by what is counted for every part: see `RowResult.counts`. */
export const COUNTS = [
  "samples",
  "missed",
  "overhanging",
  "far",
  "behind",
  "slanting",
] as const;

export interface RowResult {
  /** Width × texelCount of the band of each channel, see core/bake/methods/channels.ts; 0 where nothing lies. */
  values: Partial<Record<Channel, Float32Array>>;
  /** texelCount: samples that landed on an island. */
  covered: Uint8Array;
  /**
   * By canvas, `COUNTS` of each: samples; those whose ray met nothing, but did not go through a card; those of them
   * that only hang over an open border of the source; those that met it beyond the part's own distance; those whose
   * ray began inside something; those whose ray along the smoothed direction met nothing, but one straight off the
   * surface did.
   */
  counts: Uint32Array;
  /** By canvas: how far off the source lies at most where rays met nothing and it does not end, metres. */
  farthest: Float32Array;
  rays: number;
}

/** What one thread keeps for a scene. */
interface Tools {
  rays: RayScene;
  closest: ClosestPoint[];
  /** 3 × rays: directions about +z (Hammersley set), cosine-weighted within the cone, over the whole sky, and even. */
  cone: Float32Array;
  dome: Float32Array;
  even: Float32Array;
}

const kept = new WeakMap<BakeScene, Tools>();

function toolsFor(scene: BakeScene): Tools {
  let tools = kept.get(scene);
  if (!tools) {
    tools = {
      rays: new RayScene(
        scene.targets.map((target) => target.tree),
        scene.rays,
      ),
      closest: scene.targets.map((target) => new ClosestPoint(target.bvh)),
      cone: directionsUp(scene.rays, scene.cone, true),
      dome: directionsUp(scene.rays, Math.PI / 2, true),
      even: directionsUp(scene.rays, Math.PI / 2, false),
    };
    kept.set(scene, tools);
  }
  return tools;
}

function directionsUp(
  count: number,
  cone: number,
  byCosine: boolean,
): Float32Array {
  const dome = new Float32Array(3 * count);
  const widest = Math.sin(Math.min(cone, Math.PI / 2));
  for (let i = 0; i < count; i++) {
    const share = (i + 0.5) / count;
    const r = byCosine
      ? widest * Math.sqrt(share)
      : Math.sqrt(1 - (1 - share) ** 2);
    let bits = i;
    let turn = 0;
    for (let half = 0.5; bits; half /= 2, bits >>= 1) turn += (bits & 1) * half;
    dome[3 * i] = r * Math.cos(2 * Math.PI * turn);
    dome[3 * i + 1] = r * Math.sin(2 * Math.PI * turn);
    dome[3 * i + 2] = Math.sqrt(Math.max(0, 1 - r * r));
  }
  return dome;
}

/**
 * Bakes a band of rows: every sample of a texel that lies on a game triangle sends a ray from outside along
 * the smoothed direction, takes the source's normal where it first meets a front face, and turns it into the
 * tangent space of the game mesh. A sample whose ray meets nothing is counted and takes the closest point; where
 * that lies on an open border of the source, within reach, the game mesh only hangs over there.
 */
export function bakeRows(
  scene: BakeScene,
  { right, up, from, to }: RowSlice,
): RowResult {
  const tools = toolsFor(scene);
  const { width, height, grid } = scene;
  const count = width * (to - from);
  const values: RowResult["values"] = {};
  for (const name of scene.channels)
    values[name] = new Float32Array(CHANNELS[name].width * count);
  const result: RowResult = {
    values,
    covered: new Uint8Array(count),
    counts: new Uint32Array(COUNTS.length * scene.canvases.length),
    farthest: new Float32Array(scene.canvases.length),
    rays: 0,
  };
  const baker = new SampleBaker(scene, tools, result);
  for (const [c, canvas] of scene.canvases.entries())
    for (let t = 0; t < canvas.uvs.length / 6; t++) {
      const q = canvas.uvs.subarray(6 * t, 6 * t + 6);
      const low = (Math.min(q[1], q[3], q[5]) - up) * height;
      const high = (Math.max(q[1], q[3], q[5]) - up) * height;
      if (high < from || low > to) continue;
      baker.triangle(canvas, t, c);
      const fine = width * grid;
      const fineUp = height * grid;
      const shift = from * grid;
      rasterizeTriangle(
        (q[0] - right) * fine,
        (q[1] - up) * fineUp - shift,
        (q[2] - right) * fine,
        (q[3] - up) * fineUp - shift,
        (q[4] - right) * fine,
        (q[5] - up) * fineUp - shift,
        fine,
        (to - from) * grid,
        (row, first, last) => {
          const at = Math.floor(row / grid) * width;
          const middle = row % grid === grid >> 1;
          for (let x = first; x < last; x++)
            baker.sample(
              right + (x + 0.5) / fine,
              up + (row + shift + 0.5) / fineUp,
              at + Math.floor(x / grid),
              middle && x % grid === grid >> 1,
            );
        },
      );
    }
  for (const name of scene.channels)
    meanOf(values[name]!, CHANNELS[name].width, name, result.covered);
  return result;
}

/** Sums of a texel's samples become their mean: of unit length where they are directions. */
function meanOf(
  sums: Float32Array,
  width: number,
  name: Channel,
  covered: Uint8Array,
): void {
  const { rays, flat } = CHANNELS[name];
  if (flat || (rays && name !== "bent")) return;
  const directions = name === "normal" || name === "object" || name === "bent";
  for (let i = 0; i < covered.length; i++) {
    if (!covered[i]) continue;
    const at = width * i;
    const by = directions
      ? Math.hypot(sums[at], sums[at + 1], sums[at + 2]) || 1
      : covered[i];
    for (let k = 0; k < width; k++) sums[at + k] /= by;
  }
}

class SampleBaker {
  private canvas!: Canvas;
  /** Where the canvas's counts begin. */
  private at = 0;
  private readonly wants: Readonly<Partial<Record<Channel, true>>>;
  /** What the last sample met: a triangle of a target and the weights of its corners; −1 where it met nothing. */
  private metTarget = -1;
  private metTriangle = -1;
  private metU = 0;
  private metV = 0;
  private t = 0;
  private inverse = 0;
  private readonly p = new Float64Array(3);
  private readonly n = new Float64Array(3);
  private readonly d = new Float64Array(3);
  private readonly tangent = new Float64Array(3);
  private readonly hit = new Float64Array(3);
  private readonly source = new Float64Array(3);

  constructor(
    private readonly scene: BakeScene,
    private readonly tools: Tools,
    private readonly result: RowResult,
  ) {
    this.wants = Object.fromEntries(
      scene.channels.map((name) => [name, true as const]),
    );
  }

  triangle(canvas: Canvas, t: number, c: number): void {
    this.canvas = canvas;
    this.at = COUNTS.length * c;
    this.t = t;
    const q = canvas.uvs;
    const i = 6 * t;
    const area =
      (q[i + 2] - q[i]) * (q[i + 5] - q[i + 1]) -
      (q[i + 4] - q[i]) * (q[i + 3] - q[i + 1]);
    this.inverse = area !== 0 ? 1 / area : 0;
  }

  /** Bakes the sample at (u, v) into a texel. @param middle whether it is the one in the middle of the texel */
  sample(u: number, v: number, texel: number, middle: boolean): void {
    const { canvas, t, inverse, p, n, d, tangent } = this;
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
    normalize(d);
    const { counts, covered } = this.result;
    counts[this.at]++;
    this.metTarget = -1;
    // Where nothing lies within the part's own distance a longer ray can't catch anything nearer.
    const met = this.catchSource(canvas.distance);
    if (!met && this.catchSource(4 * canvas.distance)) counts[this.at + 3]++;
    if (this.metTarget < 0 && !canvas.card && this.catchStraight())
      counts[this.at + 5]++;
    const through = this.metTarget < 0 && canvas.card;
    if (this.metTarget < 0) {
      if (!through) counts[this.at + 1]++;
      const overhangs = this.takeClosest();
      if (overhangs && !through) counts[this.at + 2]++;
      else if (!through) this.noteFarthest();
    }
    if (this.wants.normal) this.store(texel, canvas.tangents[12 * t + 3]);
    this.storeRest(texel, through, middle || covered[texel] === 0);
    // One look round a texel is enough; its grain is finer than what the other samples would add.
    if (this.scene.rays > 0 && covered[texel] === 0) this.lookRound(texel);
    covered[texel]++;
  }

  private noteFarthest(): void {
    const { hit, p } = this;
    const { farthest } = this.result;
    const c = this.at / COUNTS.length;
    const far = Math.hypot(hit[0] - p[0], hit[1] - p[1], hit[2] - p[2]);
    if (far > farthest[c]) farthest[c] = far;
  }

  /** Adds what is found once a sample; flat values are those of one sample, the middle one where there is one. */
  private storeRest(texel: number, through: boolean, flat: boolean): void {
    const { wants, hit, p, d } = this;
    const { values } = this.result;
    const to = 3 * texel;
    const add = (into: Float32Array, from: ArrayLike<number>) => {
      for (let k = 0; k < 3; k++) into[to + k] += from[k];
    };
    if (wants.object) add(values.object!, this.source);
    if (wants.position) add(values.position!, hit);
    if (wants.height)
      values.height![texel] +=
        (hit[0] - p[0]) * d[0] +
        (hit[1] - p[1]) * d[1] +
        (hit[2] - p[2]) * d[2];
    if (wants.opacity && !through) values.opacity![texel]++;
    if (wants.colour) this.addColour(values.colour!, to);
    if (!flat || this.metTarget < 0) return;
    const { names } = this.scene.targets[this.metTarget];
    if (!names) return;
    const from = 3 * this.metTriangle;
    if (wants.id) values.id![texel] = names[from];
    if (wants.material) values.material![texel] = names[from + 1];
    if (wants.part) values.part![texel] = names[from + 2];
  }

  private addColour(into: Float32Array, to: number): void {
    const { metTarget, metTriangle, metU, metV } = this;
    const colours =
      metTarget < 0 ? null : this.scene.targets[metTarget].colours;
    for (let k = 0; k < 3; k++) {
      const from = 9 * metTriangle + k;
      into[to + k] += colours
        ? (1 - metU - metV) * colours[from] +
          metU * colours[from + 3] +
          metV * colours[from + 6]
        : 1;
    }
  }

  /** Finds the source's point and normal for the present sample; false where the ray met nothing. */
  private catchSource(distance: number): boolean {
    const { canvas, p, d } = this;
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
        this.result.rays++;
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
      if (behind) this.result.counts[this.at + 4]++;
      return true;
    }
    return false;
  }

  /** Tries the shading normal and then the triangle's own in place of the smoothed direction, which may slant past. */
  private catchStraight(): boolean {
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
      if (this.catchSource(canvas.distance)) return true;
    }
    d[0] = x;
    d[1] = y;
    d[2] = z;
    return false;
  }

  /** Takes the source's closest point; whether that lies on an open border of it, within twice the part's distance. */
  private takeClosest(): boolean {
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

  /**
   * Writes the source's normal in the frame of tangent, bitangent and normal, all as interpolated and not made
   * unit again, as the standard's decoding has it; the inverse of that frame is exact also where it is skewed.
   */
  private store(texel: number, sign: number): void {
    const { n, tangent: t, source: s } = this;
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
    const length = Math.hypot(x, y, z);
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

  /** What many rays from the source's point say. */
  private lookRound(texel: number): void {
    const { wants, tools, scene } = this;
    const { values } = this.result;
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
    const { hit, source } = this;
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
    const { hit, source: s, scene } = this;
    this.result.rays += scene.rays;
    return this.tools.rays.sky(
      scene.everything,
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
    for (let k = 0; k < 3; k++) into[to + k] = found ? sum[k] : this.source[k];
  }

  /** The mean way that rays under the surface go until they come out, metres, up to the depth that is looked at. */
  private depthUnder(lift: number): number {
    const { hit, source: s, scene } = this;
    const { rays, dome } = this.tools;
    this.turnDome(dome, -1);
    const count = scene.rays;
    const { directions } = rays;
    let sum = 0;
    for (let i = 0; i < count; i++) {
      const met = rays.first(
        scene.everything,
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
    this.result.rays += count;
    return sum / count;
  }
}
