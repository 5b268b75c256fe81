import type { Asset } from "../../asset/asset";
import type { BakedMap } from "../../base/pictures";
import { tileAt, tileOf } from "../../mesh/tiles";
import { Bilinear } from "../../space/bilinear";
import { rasterizeTriangle } from "../../space/raster";
import { sampleSurface } from "../../space/sample";
import type { Canvas } from "./canvas";
import { Rounding } from "./rounding";
import type { BakeScene } from "./scene";
import { prepareScene } from "./scene";
import { SourceCatcher } from "./source-catcher";
import { ANGLE_STEPS } from "./status";
import { toolsFor } from "./tools";

export interface Fidelity {
  /** Degrees between the normal that game mesh and map give and the source's. */
  mean: number;
  p95: number;
  /** Share of points whose ray meets no source. */
  unmet: number;
}

/** How true the normal map of a whole asset is, see `fidelityOf`. */
export function measureFidelity(
  asset: Asset,
  map: BakedMap,
  greenUp: boolean,
  count = 20000,
): Fidelity {
  const { width, height } = map;
  const scene = prepareScene(asset, {
    width,
    height,
    rays: 0,
    grid: 1,
    distance: 0,
  });
  return fidelityOf(scene, [map], greenUp, count).whole;
}

/**
 * How true normal maps are: at area-weighted points of the game surface, the angle between the shaded normal
 * (MikkTSpace, bilinear map) and the normal of the part's source where a ray along the shading normal first meets its front,
 * from as far outside as rays begin there to as far inside, or from up to 2 % of the sources' diagonal where that
 * meets nothing; of all, and by canvas.
 * @param maps normal maps of all tiles; @param count points
 */
export function fidelityOf(
  scene: BakeScene,
  maps: readonly BakedMap[],
  greenUp: boolean,
  count = 20000,
): { whole: Fidelity; canvases: Fidelity[] } {
  const caught = new SourceCatcher(scene, toolsFor(scene));
  const cornersOf = ({ positions }: Canvas) =>
    new Uint32Array(positions.length / 3).map((_, i) => i);
  const areas = scene.canvases.map(
    (canvas) => sampleSurface(canvas.positions, cornersOf(canvas), 1).area,
  );
  const total = areas.reduce((sum, area) => sum + area, 0);
  const all: number[] = [];
  let unmet = 0;
  const canvases = scene.canvases.map((canvas, c) => {
    const points = Math.max(1, Math.round((count * areas[c]) / total));
    const { points: at, triangles } = sampleSurface(
      canvas.positions,
      cornersOf(canvas),
      points,
      11,
    );
    const angles: number[] = [];
    for (let i = 0; i < triangles.length; i++) {
      const p = at.subarray(3 * i, 3 * i + 3);
      const angle = angleAt(
        scene,
        caught,
        canvas,
        triangles[i],
        p,
        maps,
        greenUp,
      );
      if (angle >= 0) angles.push(angle);
    }
    all.push(...angles);
    unmet += triangles.length - angles.length;
    return summed(angles, triangles.length - angles.length);
  });
  return { whole: summed(all, unmet), canvases };
}

/** Triangles between two looks at whether to go on. */
const OFTEN = 32;

/**
 * The same angle at the texels of a sheet, as a map: quarters of a degree in 8 bits, of which 1 is the least where an
 * island lies; 0 where none does, or no ray met a source.
 * @param tile which sheet; @param width px of the map, which may be smaller than the baked one
 */
export function angleMap(
  scene: BakeScene,
  maps: readonly BakedMap[],
  greenUp: boolean,
  tile: number,
  width: number,
  check: () => void,
): BakedMap {
  const height = Math.max(1, Math.round((width * scene.height) / scene.width));
  const pixels = new Uint8Array(width * height);
  const caught = new SourceCatcher(scene, toolsFor(scene));
  const [right, up] = tileAt(tile);
  const p = new Float32Array(3);
  for (const canvas of scene.canvases) {
    const q = canvas.uvs;
    for (let t = 0; 6 * t < q.length; t++) {
      if (t % OFTEN === 0) check();
      const at = [0, 1, 2].flatMap((k) => [
        (q[6 * t + 2 * k] - right) * width,
        (q[6 * t + 2 * k + 1] - up) * height,
      ]);
      const [ax, ay, bx, by, cx, cy] = at;
      const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
      rasterizeTriangle(
        ax,
        ay,
        bx,
        by,
        cx,
        cy,
        width,
        height,
        (row, first, last) => {
          for (let x = first; x < last; x++) {
            const [dx, dy] = [x + 0.5 - ax, row + 0.5 - ay];
            const b = (dx * (cy - ay) - (cx - ax) * dy) / area;
            const c = ((bx - ax) * dy - dx * (by - ay)) / area;
            for (let k = 0; k < 3; k++)
              p[k] =
                (1 - b - c) * canvas.positions[9 * t + k] +
                b * canvas.positions[9 * t + 3 + k] +
                c * canvas.positions[9 * t + 6 + k];
            const angle = angleAt(scene, caught, canvas, t, p, maps, greenUp);
            if (angle >= 0)
              pixels[(height - 1 - row) * width + x] = Math.max(
                1,
                Math.min(255, Math.round(ANGLE_STEPS * angle)),
              );
          }
        },
      );
    }
  }
  const plain = {
    kind: "angle",
    width,
    height,
    channels: 1,
    depth: 8,
  } as const;
  return tile ? { ...plain, tile, pixels } : { ...plain, pixels };
}

function summed(angles: number[], unmet: number): Fidelity {
  angles.sort((a, b) => a - b);
  return {
    mean: angles.reduce((sum, angle) => sum + angle, 0) / (angles.length || 1),
    p95: angles[Math.floor(0.95 * angles.length)] ?? 0,
    unmet: unmet / (unmet + angles.length || 1),
  };
}

const rounding = new Rounding();

/** Degrees between what is shown and what is true at a point of a triangle, −1 where its ray meets nothing. */
function angleAt(
  scene: BakeScene,
  caught: SourceCatcher,
  canvas: Canvas,
  t: number,
  p: Float32Array,
  maps: readonly BakedMap[],
  greenUp: boolean,
): number {
  const [a, b, c] = weightsAt(canvas.positions, t, p);
  const n = blend(canvas.normals, t, 3, a, b, c);
  const near = blend(canvas.corners, t, 1, a, b, c)[0];
  // From farther out a ray may meet what stands beside; no farther than it takes, then.
  const far = 0.02 * scene.size;
  caught.canvas = canvas;
  caught.p.set(p);
  caught.d.set(unit(n));
  if (!caught.along(Math.min(near, far)) && !caught.along(far)) return -1;
  const truth = caught.source;
  if (canvas.rounded && rounding.at(canvas.rounded, t, a, b, c, p))
    rounding.turn(truth);
  const tangent = blend(canvas.tangents, t, 4, a, b, c);
  const [u, v] = [0, 1].map(
    (k) =>
      a * canvas.uvs[6 * t + k] +
      b * canvas.uvs[6 * t + 2 + k] +
      c * canvas.uvs[6 * t + 4 + k],
  );
  const q = canvas.uvs.subarray(6 * t, 6 * t + 6);
  const tile = tileOf((q[0] + q[2] + q[4]) / 3, (q[1] + q[3] + q[5]) / 3);
  const [right, up] = tileAt(tile);
  const map = maps.find((each) => (each.tile ?? 0) === tile);
  // Of a sheet that was not baked nothing is told.
  if (!map) return -1;
  const x = sampleMap(map, u - right, v - up);
  if (!greenUp) x[1] = -x[1];
  const sign = canvas.tangents[12 * t + 3];
  const bitangent = [
    n[1] * tangent[2] - n[2] * tangent[1],
    n[2] * tangent[0] - n[0] * tangent[2],
    n[0] * tangent[1] - n[1] * tangent[0],
  ];
  const shown = unit(
    [0, 1, 2].map(
      (k) => x[0] * tangent[k] + sign * x[1] * bitangent[k] + x[2] * n[k],
    ),
  );
  const dot = shown[0] * truth[0] + shown[1] * truth[1] + shown[2] * truth[2];
  return (Math.acos(Math.max(-1, Math.min(1, dot))) * 180) / Math.PI;
}

function weightsAt(
  p: Float32Array,
  t: number,
  q: ArrayLike<number>,
): [number, number, number] {
  const [i, j, k] = [9 * t, 9 * t + 3, 9 * t + 6];
  const e = [0, 1, 2].map((n) => p[j + n] - p[i + n]);
  const f = [0, 1, 2].map((n) => p[k + n] - p[i + n]);
  const w = [0, 1, 2].map((n) => q[n] - p[i + n]);
  const dot = (x: number[], y: number[]) =>
    x[0] * y[0] + x[1] * y[1] + x[2] * y[2];
  const det = dot(e, e) * dot(f, f) - dot(e, f) ** 2 || 1;
  const b = (dot(f, f) * dot(w, e) - dot(e, f) * dot(w, f)) / det;
  const c = (dot(e, e) * dot(w, f) - dot(e, f) * dot(w, e)) / det;
  return [1 - b - c, b, c];
}

/** The first numbers, three at most, in a triangle whose corners have `width` numbers each. */
const blend = (
  values: Float32Array,
  t: number,
  width: number,
  a: number,
  b: number,
  c: number,
) =>
  [0, 1, 2].slice(0, width).map((k) => {
    const at = 3 * width * t + k;
    return a * values[at] + b * values[at + width] + c * values[at + 2 * width];
  });

function unit(v: number[]): number[] {
  const length = Math.hypot(v[0], v[1], v[2]) || 1;
  return v.map((x) => x / length);
}

const around = new Bilinear();

/** What a map of unit vectors shows at a place of its sheet, bilinear, −1 … 1. */
export function sampleMap(
  { width, height, depth, pixels }: BakedMap,
  u: number,
  v: number,
): number[] {
  const top = depth === 16 ? 65535 : 255;
  const value = [0, 0, 0];
  around.find(width, height, u, v);
  for (let i = 0; i < 4; i++)
    for (let k = 0; k < 3; k++)
      value[k] +=
        around.shares[i] * ((pixels[3 * around.texels[i] + k] / top) * 2 - 1);
  return value;
}
