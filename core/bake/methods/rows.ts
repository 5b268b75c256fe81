import { onBorder, mix, normalize } from "./mixing";
import { ClosestPoint } from "../../space/closest-point";
import { hashPair } from "../../base/pair-set";
import { rasterizeTriangle } from "../../space/raster";
import { RayScene } from "../../space/ray-scene";
import type { BakeScene, Canvas } from "./scene";

/** A band of rows of one sheet, from its bottom. */
export interface RowSlice {
  /** Where the sheet lies in UV: whole sheets to the right and up. */
  right: number;
  up: number;
  from: number;
  to: number;
}

export interface RowResult {
  /** 3 × texelCount of the band: tangent-space normal, zero where nothing lies. */
  normals: Float32Array;
  /** texelCount: share of the sky seen, 1 where nothing lies. */
  sky: Float32Array;
  /** texelCount: samples that landed on an island. */
  covered: Uint8Array;
  samples: number;
  /** Samples whose ray met nothing, and those of them that only hang over an open border of the source. */
  missed: number;
  overhanging: number;
  rays: number;
}

/** What one thread keeps for a scene. */
interface Tools {
  rays: RayScene;
  closest: ClosestPoint[];
  /** 3 × rays: cosine-weighted directions about +z (Hammersley set). */
  dome: Float32Array;
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
      dome: cosineDome(scene.rays),
    };
    kept.set(scene, tools);
  }
  return tools;
}

function cosineDome(count: number): Float32Array {
  const dome = new Float32Array(3 * count);
  for (let i = 0; i < count; i++) {
    const r = Math.sqrt((i + 0.5) / count);
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
  const result: RowResult = {
    normals: new Float32Array(3 * count),
    sky: new Float32Array(count),
    covered: new Uint8Array(count),
    samples: 0,
    missed: 0,
    overhanging: 0,
    rays: 0,
  };
  const baker = new SampleBaker(scene, tools, result);
  for (const canvas of scene.canvases)
    for (let t = 0; t < canvas.uvs.length / 6; t++) {
      const q = canvas.uvs.subarray(6 * t, 6 * t + 6);
      const low = (Math.min(q[1], q[3], q[5]) - up) * height;
      const high = (Math.max(q[1], q[3], q[5]) - up) * height;
      if (high < from || low > to) continue;
      baker.triangle(canvas, t);
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
          for (let x = first; x < last; x++)
            baker.sample(
              right + (x + 0.5) / fine,
              up + (row + shift + 0.5) / fineUp,
              at + Math.floor(x / grid),
            );
        },
      );
    }
  for (let i = 0; i < count; i++) {
    if (!result.covered[i]) {
      result.sky[i] = 1;
      continue;
    }
    const n = result.normals;
    const length = Math.hypot(n[3 * i], n[3 * i + 1], n[3 * i + 2]) || 1;
    for (let k = 0; k < 3; k++) n[3 * i + k] /= length;
  }
  return result;
}

class SampleBaker {
  private canvas!: Canvas;
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
  ) {}

  triangle(canvas: Canvas, t: number): void {
    this.canvas = canvas;
    this.t = t;
    const q = canvas.uvs;
    const i = 6 * t;
    const area =
      (q[i + 2] - q[i]) * (q[i + 5] - q[i + 1]) -
      (q[i + 4] - q[i]) * (q[i + 3] - q[i + 1]);
    this.inverse = area !== 0 ? 1 / area : 0;
  }

  /** Bakes the sample at (u, v) into a texel. */
  sample(u: number, v: number, texel: number): void {
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
    this.result.samples++;
    // Where nothing lies within the part's own distance a longer ray can't catch anything nearer.
    if (
      !this.catchSource(canvas.distance) &&
      !this.catchSource(4 * canvas.distance)
    ) {
      this.result.missed++;
      if (this.takeClosest()) this.result.overhanging++;
    }
    this.store(texel, canvas.tangents[12 * t + 3]);
    // One look at the sky a texel is enough; its grain is finer than what the other samples would add.
    if (this.scene.rays > 0 && this.result.covered[texel] === 0)
      this.look(texel);
    this.result.covered[texel]++;
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
        near = rays.distance + 1e-6 * far;
      }
    }
    if (bestTarget >= 0) {
      this.hit[0] = ox - d[0] * best;
      this.hit[1] = oy - d[1] * best;
      this.hit[2] = oz - d[2] * best;
      this.takeNormal(bestTarget, bestTriangle, bestU, bestV);
      return true;
    }
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
    this.result.normals[to] += x;
    this.result.normals[to + 1] += y;
    this.result.normals[to + 2] += z;
  }

  /** Share of cosine-weighted rays from the source's point that leave without meeting anything near. */
  private look(texel: number): void {
    const { hit, source: s, scene } = this;
    const { dome, rays } = this.tools;
    const hash = hashPair(
      Math.round(hit[0] * 1e7) | 0,
      hashPair(Math.round(hit[1] * 1e7) | 0, Math.round(hit[2] * 1e7) | 0),
    );
    const turn = (hash / 4294967296) * 2 * Math.PI;
    const cos = Math.cos(turn);
    const sin = Math.sin(turn);
    // A frame about the normal (Duff et al. 2017).
    const way = s[2] < 0 ? -1 : 1;
    const a = -1 / (way + s[2]);
    const b = s[0] * s[1] * a;
    const ux = 1 + way * s[0] * s[0] * a;
    const uy = way * b;
    const uz = -way * s[0];
    const vx = b;
    const vy = way + s[1] * s[1] * a;
    const vz = -s[1];
    const lift = scene.reach * 4e-4;
    const ox = hit[0] + s[0] * lift;
    const oy = hit[1] + s[1] * lift;
    const oz = hit[2] + s[2] * lift;
    const { directions } = rays;
    const count = dome.length / 3;
    for (let i = 0; i < count; i++) {
      const x = cos * dome[3 * i] - sin * dome[3 * i + 1];
      const y = sin * dome[3 * i] + cos * dome[3 * i + 1];
      const z = dome[3 * i + 2];
      directions[i] = x * ux + y * vx + z * s[0];
      directions[count + i] = x * uy + y * vy + z * s[1];
      directions[2 * count + i] = x * uz + y * vz + z * s[2];
    }
    const open = rays.sky(
      scene.everything,
      ox,
      oy,
      oz,
      s[0],
      s[1],
      s[2],
      scene.reach,
    );
    this.result.rays += count;
    this.result.sky[texel] = open / count;
  }
}
