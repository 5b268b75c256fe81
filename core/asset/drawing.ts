import type { BakedMap, MapKind } from "../base/pictures";
import type { Mesh } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import { tangentsOf } from "../mesh/tangents";
import { tileOf } from "../mesh/tiles";
import { triangulate } from "../mesh/triangulate";
import type { Bounds } from "../space/bounds";
import { boundsOf } from "../space/bounds";
import { buildBvh } from "../space/bvh";
import { RayScene, widen } from "../space/ray-scene";
import type { Vector } from "../space/vector";

/** Clay of source meshes and bone of game meshes; see docs/architecture.md on the look. */
export const CLAY: Vector = [0xcd, 0xbf, 0xae];
export const BONE: Vector = [0xe6, 0xe0, 0xd2];
const HEATHER: Vector = [0x6e, 0x5e, 0x9b];
const FOG: Vector = [0xd2, 0xd9, 0xdc];
const CHECKS: readonly Vector[] = [
  [0x5b, 0x8c, 0x94],
  [0xe8, 0xe2, 0xd2],
];
/** Squares of the checker along a sheet. */
const SQUARES = 32;
/** Where lists look from: half from the right, a little from above. */
export const FROM_ABOVE: Vector = [0.52, 0.36, 0.775];

export type DrawnLook = "plain" | "baked" | "wire" | "checker";

export interface DrawnMesh {
  mesh: Mesh;
  tint: Vector;
}

/** Where one looks from, and how large the picture is. */
export interface DrawnView {
  /** Towards the eye, of unit length, not straight up or down. */
  back: Vector;
  look: DrawnLook;
  width: number;
  height: number;
  /** Framed alike from every side, for pictures that follow each other. */
  steady?: boolean;
}

/** Draws meshes by casting rays, without a graphics card: for lists and reports. */
export class Drawing {
  private readonly scene: RayScene;
  /** 9 × triangles: positions (metres) and normals of the corners; 12 × triangles their tangents; 6 × triangles their UVs. */
  private readonly positions: Float32Array;
  private readonly normals: Float32Array;
  private readonly tangents: Float32Array;
  private readonly uvs: Float32Array;
  private readonly tints: Uint16Array;
  /** 3 × triangles, metres. */
  private readonly heights: Float32Array;
  private readonly bounds: Bounds;
  private readonly byTile: Record<"normal" | "ao", Map<number, BakedMap>>;
  /** What is known of where the last ray met something. */
  private readonly weights = new Float64Array(3);
  private readonly normal = new Float64Array(3);
  private readonly tangent = new Float64Array(4);
  private readonly uv = new Float64Array(2);
  private readonly value = new Float64Array(4);
  private readonly colour = new Float64Array(3);

  /** @param maps normal map and occlusion, green up, for the look of baked meshes */
  constructor(
    private readonly meshes: readonly DrawnMesh[],
    maps: readonly BakedMap[] = [],
  ) {
    const splits = meshes.map(({ mesh }) => triangulate(mesh));
    const count = splits.reduce((sum, split) => sum + split.faces.length, 0);
    this.positions = new Float32Array(9 * count);
    this.normals = new Float32Array(9 * count);
    this.tangents = new Float32Array(12 * count);
    this.uvs = new Float32Array(6 * count);
    this.tints = new Uint16Array(count);
    let at = 0;
    meshes.forEach(({ mesh }, m) => {
      const shading = mesh.normals ?? cornerNormals(mesh);
      const { vertices, corners, faces } = splits[m];
      for (let i = 0; i < vertices.length; i++) {
        for (let k = 0; k < 3; k++) {
          this.positions[9 * at + 3 * i + k] =
            mesh.positions[3 * vertices[i] + k];
          this.normals[9 * at + 3 * i + k] = shading[3 * corners[i] + k];
        }
        for (let k = 0; k < 2; k++)
          this.uvs[6 * at + 2 * i + k] = mesh.uvs
            ? mesh.uvs[2 * corners[i] + k]
            : 0;
      }
      if (mesh.uvs && maps.length)
        this.tangents.set(tangentsOf(mesh, shading, splits[m]), 12 * at);
      this.tints.fill(m, at, at + faces.length);
      at += faces.length;
    });
    this.bounds = boundsOf(this.positions);
    this.heights = heightsOf(this.positions);
    const ofKind = (kind: MapKind) =>
      new Map(
        maps.flatMap((map) =>
          map.kind === kind ? [[map.tile ?? 0, map]] : [],
        ),
      );
    this.byTile = { normal: ofKind("normal"), ao: ofKind("ao") };
    const corners = new Uint32Array(3 * count).map((_, i) => i);
    this.scene = new RayScene([widen(buildBvh(this.positions, corners))]);
  }

  /**
   * A picture from one side, lit from the upper left over a soft ground, framed by what there is.
   * In one piece: the loop over the pixels.
   * @returns RGB, 3 × width × height
   */
  draw({ back, look, width, height, steady }: DrawnView): Uint8Array {
    const { scene, positions } = this;
    const { min, max } = this.bounds;
    const middle = min.map((low, k) => (low + max[k]) / 2);
    const radius =
      Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 2 || 1;
    const [right, up] = frameAbout(back);
    let across = 0;
    let high = 0;
    for (let i = 0; i < positions.length; i += 3) {
      const d = [0, 1, 2].map((k) => positions[i + k] - middle[k]);
      across = Math.max(across, Math.abs(dot(d, right)));
      high = Math.max(high, Math.abs(dot(d, up)));
    }
    const scale = steady
      ? (2.1 * radius) / Math.min(width, height)
      : 2.3 * Math.max(across / width, high / height);
    const light = lightFor(right, up, back);
    const pixels = new Uint8Array(3 * width * height);
    const sum = new Float64Array(3);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        sum.fill(0);
        const fog = 1 - (0.16 * y) / height;
        for (let s = 0; s < 4; s++) {
          const u = (x + 0.25 + 0.5 * (s & 1) - width / 2) * scale;
          const v = (height / 2 - y - 0.25 - 0.5 * (s >> 1)) * scale;
          const hit = scene.first(
            0,
            middle[0] + u * right[0] + v * up[0] + 2 * radius * back[0],
            middle[1] + u * right[1] + v * up[1] + 2 * radius * back[1],
            middle[2] + u * right[2] + v * up[2] + 2 * radius * back[2],
            -back[0],
            -back[1],
            -back[2],
            0,
            4 * radius,
          );
          if (hit >= 0) this.colourAt(hit, look, scale, light);
          for (let k = 0; k < 3; k++)
            sum[k] += hit < 0 ? FOG[k] * fog : Math.min(255, this.colour[k]);
        }
        for (let k = 0; k < 3; k++)
          pixels[3 * (y * width + x) + k] = Math.round(sum[k] / 4);
      }
    return pixels;
  }

  /**
   * Sets the lit colour of where the last ray met a triangle. It allocates nothing: it is asked for every ray.
   * @param pixel its width, metres
   */
  private colourAt(
    t: number,
    look: DrawnLook,
    pixel: number,
    light: Light,
  ): void {
    const { scene, weights, normal, uv, colour } = this;
    weights[0] = 1 - scene.u - scene.v;
    weights[1] = scene.u;
    weights[2] = scene.v;
    if (look === "wire" && this.onEdge(t, pixel)) {
      colour.set(HEATHER);
      return;
    }
    this.mix(this.normals, 9 * t, normal);
    this.mix(this.uvs, 6 * t, uv);
    const baked = look === "baked";
    if (baked && this.readMap("normal")) this.turn(t);
    const occlusion = baked && this.readMap("ao") ? this.value[0] : 1;
    const length = Math.sqrt(dot(normal, normal)) || 1;
    const side = (way: Vector) => Math.max(0, dot(normal, way) / length);
    const shade =
      occlusion *
      (0.42 +
        0.5 * side(light.key) +
        0.12 * side(light.top) +
        0.06 * side(light.side));
    const { mesh, tint } = this.meshes[this.tints[t]];
    const check = Math.floor(SQUARES * uv[0]) + Math.floor(SQUARES * uv[1]);
    const own =
      look === "checker" && mesh.uvs ? CHECKS[Math.abs(check) % 2] : tint;
    for (let k = 0; k < 3; k++) colour[k] = own[k] * shade;
  }

  /** The weighted mean of the three corners' values. @param into as many numbers as a corner has */
  private mix(values: Float32Array, at: number, into: Float64Array): void {
    const [a, b, c] = this.weights;
    const width = into.length;
    for (let k = 0; k < width; k++)
      into[k] =
        a * values[at + k] +
        b * values[at + width + k] +
        c * values[at + 2 * width + k];
  }

  /** Sets what a map says at the present place of its sheet, 0 … 1 a channel. @returns false where there is none */
  private readMap(kind: "normal" | "ao"): boolean {
    const [u, v] = this.uv;
    const map = this.byTile[kind].get(Math.max(0, tileOf(u, v)));
    if (!map) return false;
    const { width, height, channels, pixels, depth } = map;
    const x = Math.min(width - 1, Math.floor((u - Math.floor(u)) * width));
    const row = Math.min(height - 1, Math.floor((v - Math.floor(v)) * height));
    const at = channels * ((height - 1 - row) * width + x);
    const top = depth === 16 ? 65535 : 255;
    for (let k = 0; k < channels; k++) this.value[k] = pixels[at + k] / top;
    return true;
  }

  /** Turns the normal by what its map gives (MikkTSpace: tangent and bitangent as interpolated). */
  private turn(t: number): void {
    const { normal: n, tangent, value } = this;
    this.mix(this.tangents, 12 * t, tangent);
    const sign = this.tangents[12 * t + 3];
    const x = 2 * value[0] - 1;
    const y = sign * (2 * value[1] - 1);
    const z = 2 * value[2] - 1;
    const [nx, ny, nz] = n;
    const [tx, ty, tz] = tangent;
    n[0] = x * tx + y * (ny * tz - nz * ty) + z * nx;
    n[1] = x * ty + y * (nz * tx - nx * tz) + z * ny;
    n[2] = x * tz + y * (nx * ty - ny * tx) + z * nz;
  }

  /** Whether the present place of a triangle lies within half a pixel of one of its sides. */
  private onEdge(t: number, pixel: number): boolean {
    for (let k = 0; k < 3; k++)
      if (this.weights[k] * this.heights[3 * t + k] < 0.5 * pixel) return true;
    return false;
  }
}

/** How high a triangle is above the side across from each corner, metres, 3 numbers per triangle. @param p 9 numbers per triangle, metres */
function heightsOf(p: Float32Array): Float32Array {
  const heights = new Float32Array(p.length / 3);
  for (let i = 0; i < p.length; i += 9) {
    const side = (a: number, b: number) =>
      [0, 1, 2].map((k) => p[i + 3 * b + k] - p[i + 3 * a + k]);
    const [e, f, g] = [side(0, 1), side(1, 2), side(2, 0)];
    const twice = Math.hypot(
      e[1] * g[2] - e[2] * g[1],
      e[2] * g[0] - e[0] * g[2],
      e[0] * g[1] - e[1] * g[0],
    );
    [f, g, e].forEach((way, k) => {
      heights[i / 3 + k] = twice / (Math.hypot(...way) || 1);
    });
  }
  return heights;
}

const dot = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Where right and up are on a picture that is seen from a side. */
function frameAbout(back: Vector): [Vector, Vector] {
  const level = Math.hypot(back[0], back[2]) || 1;
  const right: Vector = [back[2] / level, 0, -back[0] / level];
  return [
    right,
    [
      back[1] * right[2] - back[2] * right[1],
      back[2] * right[0] - back[0] * right[2],
      back[0] * right[1] - back[1] * right[0],
    ],
  ];
}

interface Light {
  key: Vector;
  top: Vector;
  side: Vector;
}

/** The light of the list's pictures, turned along with the eye. */
function lightFor(right: Vector, up: Vector, back: Vector): Light {
  const [homeRight, homeUp] = frameAbout(FROM_ABOVE);
  const turned = (way: Vector) => {
    const parts = [dot(way, homeRight), dot(way, homeUp), dot(way, FROM_ABOVE)];
    return [0, 1, 2].map(
      (k) => parts[0] * right[k] + parts[1] * up[k] + parts[2] * back[k],
    ) as unknown as Vector;
  };
  return {
    key: turned([-0.35, 0.75, 0.56]),
    top: turned([0, 1, 0]),
    side: turned([1, 0, 0]),
  };
}
