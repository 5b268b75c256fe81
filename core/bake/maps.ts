import type { Asset, BakedMap } from "../asset/asset";
import { MissingInputError } from "../errors";
import type { Context } from "../operation";
import { dilate } from "./dilate";
import type { RowResult, RowSlice } from "./rows";
import type { SceneOptions } from "./scene";
import { prepareScene } from "./scene";

export interface MapsWanted extends SceneOptions {
  normal: boolean;
  depth: 8 | 16;
  padding: number;
  greenUp: boolean;
}

export interface BakeFigures {
  /** Share of samples whose ray met nothing. */
  missed: number;
  rays: number;
  raysPerSecond: number;
  /** Share of texels covered. */
  covered: number;
}

/** Occlusion rays that go to a thread at a time, about: some seconds at most between two signs of progress. */
const RAYS_AT_A_TIME = 4e6;

/** Bakes the wanted maps of an asset on all threads. @throws MissingInputError without source, game mesh or UVs */
export async function bakeMaps(
  asset: Asset,
  wanted: MapsWanted,
  context: Context,
): Promise<{ maps: BakedMap[]; figures: BakeFigures }> {
  if (!asset.parts.some((part) => part.source))
    throw new MissingInputError("there is no source mesh to bake from");
  if (!asset.parts.some((part) => part.game?.uvs))
    throw new MissingInputError("no game mesh has UVs: unwrap it first");
  context.progress(0, "sorting the source");
  const { size } = wanted;
  const scene = prepareScene(asset, wanted);
  context.check();
  const slices: RowSlice[] = [];
  const band = Math.max(
    1,
    Math.min(
      16,
      Math.round(RAYS_AT_A_TIME / (size * Math.max(1, wanted.rays))),
    ),
  );
  for (let from = 0; from < size; from += band)
    slices.push({ from, to: Math.min(size, from + band) });
  const start = performance.now();
  const bands = await context.lanes.run<RowSlice, RowResult>(
    "bake/rows",
    scene,
    slices,
    (finished) => {
      context.check();
      context.progress(
        0.05 + (0.85 * finished) / slices.length,
        `casting rays, row ${Math.min(size, finished * band)} of ${size}`,
      );
    },
  );
  const seconds = (performance.now() - start) / 1000;
  context.check();
  context.progress(0.92, "padding islands");
  const normals = new Float32Array(3 * size * size);
  const sky = new Float32Array(size * size);
  const covered = new Uint8Array(size * size);
  let samples = 0;
  let missed = 0;
  let rays = 0;
  bands.forEach((band, i) => {
    normals.set(band.normals, 3 * size * slices[i].from);
    sky.set(band.sky, size * slices[i].from);
    covered.set(band.covered, size * slices[i].from);
    samples += band.samples;
    missed += band.missed;
    rays += band.rays;
  });
  const maps: BakedMap[] = [];
  if (wanted.rays > 0) sky.set(smoothSky(sky, normals, covered, size));
  if (wanted.normal) {
    dilate(normals, 3, covered, size, size, wanted.padding);
    maps.push(normalImage(normals, size, wanted));
  }
  if (wanted.rays > 0) {
    dilate(sky, 1, covered, size, size, wanted.padding);
    maps.push(skyImage(sky, size, wanted.depth));
  }
  let texels = 0;
  for (const mark of covered) if (mark) texels++;
  return {
    maps,
    figures: {
      missed: samples ? missed / samples : 0,
      rays,
      raysPerSecond: Math.round(rays / Math.max(seconds, 1e-6)),
      covered: texels / (size * size),
    },
  };
}

/**
 * Takes the grain of few rays out of occlusion: the mean over 5 × 5 texels of the same island, those with a
 * different normal counting less, so that grooves stay.
 */
function smoothSky(
  sky: Float32Array,
  normals: Float32Array,
  covered: Uint8Array,
  size: number,
): Float32Array {
  const smooth = new Float32Array(sky);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const i = y * size + x;
      if (!covered[i]) continue;
      let sum = 0;
      let weights = 0;
      for (let v = Math.max(0, y - 2); v <= Math.min(size - 1, y + 2); v++)
        for (let u = Math.max(0, x - 2); u <= Math.min(size - 1, x + 2); u++) {
          const k = v * size + u;
          if (!covered[k]) continue;
          const dot =
            normals[3 * i] * normals[3 * k] +
            normals[3 * i + 1] * normals[3 * k + 1] +
            normals[3 * i + 2] * normals[3 * k + 2];
          const weight = dot > 0 ? dot ** 8 : 0;
          sum += weight * sky[k];
          weights += weight;
        }
      if (weights > 0) smooth[i] = sum / weights;
    }
  return smooth;
}

/** Rows turn round: the sheet's first row is at the bottom, an image's at the top. */
function normalImage(
  normals: Float32Array,
  size: number,
  wanted: MapsWanted,
): BakedMap {
  const top = wanted.depth === 16 ? 65535 : 255;
  const pixels =
    wanted.depth === 16
      ? new Uint16Array(3 * size * size)
      : new Uint8Array(3 * size * size);
  const green = wanted.greenUp ? 1 : -1;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const i = 3 * (y * size + x);
      const to = 3 * ((size - 1 - y) * size + x);
      const length = Math.hypot(normals[i], normals[i + 1], normals[i + 2]);
      const [nx, ny, nz] =
        length > 0
          ? [
              normals[i] / length,
              normals[i + 1] / length,
              normals[i + 2] / length,
            ]
          : [0, 0, 1];
      pixels[to] = quantize(nx, top);
      pixels[to + 1] = quantize(green * ny, top);
      pixels[to + 2] = quantize(nz, top);
    }
  return {
    kind: "normal",
    width: size,
    height: size,
    channels: 3,
    depth: wanted.depth,
    pixels,
  };
}

/** −1 … 1 to whole steps, with 0 at the step that decodes to it most nearly (128 of 255). */
function quantize(value: number, top: number): number {
  return Math.max(
    0,
    Math.min(top, Math.floor((value * 0.5 + 0.5) * top + 0.5)),
  );
}

function skyImage(sky: Float32Array, size: number, depth: 8 | 16): BakedMap {
  const top = depth === 16 ? 65535 : 255;
  const pixels =
    depth === 16 ? new Uint16Array(size * size) : new Uint8Array(size * size);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++)
      pixels[(size - 1 - y) * size + x] = Math.round(
        Math.max(0, Math.min(1, sky[y * size + x])) * top,
      );
  return { kind: "ao", width: size, height: size, channels: 1, depth, pixels };
}
