import type { Asset } from "../../asset/asset";
import type { BakedMap } from "../../base/pictures";
import { ArnikError, MissingInputError } from "../../base/errors";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import { tileAt, tilesUsed, udimOf } from "../../mesh/tiles";
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
  /** Share of samples whose ray met nothing, though the source does not end there. */
  missed: number;
  /** Share of samples that hang over an open border of the source, and take what lies at that border. */
  overhanging: number;
  rays: number;
  raysPerSecond: number;
  /** Share of texels covered. */
  covered: number;
}

/** Occlusion rays that go to a thread at a time, about: some seconds at most between two signs of progress. */
const RAYS_AT_A_TIME = 4e6;

/** Texels of all sheets together: 64 of 2048, 16 of 4096, 4 of 8192 px. */
const MOST_TEXELS = 2 ** 28;

/** Bakes the wanted maps of an asset on all threads. @throws ArnikError without source, game mesh or UVs, or with too many sheets */
export async function bakeMaps(
  asset: Asset,
  wanted: MapsWanted,
  context: Context,
): Promise<{ maps: BakedMap[]; figures: BakeFigures }> {
  if (!asset.parts.some((part) => part.source))
    throw new MissingInputError("there is no source mesh to bake from");
  if (!asset.parts.some((part) => part.game?.uvs))
    throw new MissingInputError("no game mesh has UVs: unwrap it first");
  const { width, height } = wanted;
  const tiles = tilesUsed(asset.parts.flatMap(({ game }) => game ?? []));
  if (tiles.length * width * height > MOST_TEXELS)
    throw new ArnikError(
      `the islands lie on ${tiles.length} sheets, too many to bake at ${width} × ${height} px: pack them on fewer, or bake smaller maps`,
    );
  context.progress(0, "sorting the source");
  const scene = prepareScene(asset, wanted);
  context.check();
  const band = Math.max(
    1,
    Math.min(
      16,
      Math.round(RAYS_AT_A_TIME / (width * Math.max(1, wanted.rays))),
    ),
  );
  const maps: BakedMap[] = [];
  const sums = { samples: 0, missed: 0, overhanging: 0, rays: 0, texels: 0 };
  const start = performance.now();
  // One sheet after the other: only one is held whole at a time.
  for (const [t, tile] of tiles.entries()) {
    const [right, up] = tileAt(tile);
    const slices: RowSlice[] = [];
    for (let from = 0; from < height; from += band)
      slices.push({ right, up, from, to: Math.min(height, from + band) });
    const step = spanOf(context, t / tiles.length, (t + 1) / tiles.length);
    const of = tiles.length > 1 ? ` of sheet ${udimOf(tile)}` : "";
    const bands = await context.workers.run<RowSlice, RowResult>(
      "bake/rows",
      scene,
      slices,
      (finished) => {
        context.check();
        step.progress(
          0.05 + (0.85 * finished) / slices.length,
          `casting rays, row ${Math.min(height, finished * band)} of ${height}${of}`,
        );
      },
    );
    context.check();
    step.progress(0.92, "padding islands");
    const done = mapsOfTile(bands, slices, wanted);
    maps.push(...done.maps.map((map) => (tile ? { ...map, tile } : map)));
    sums.texels += done.texels;
    for (const each of bands) {
      sums.samples += each.samples;
      sums.missed += each.missed - each.overhanging;
      sums.overhanging += each.overhanging;
      sums.rays += each.rays;
    }
  }
  const seconds = (performance.now() - start) / 1000;
  return {
    maps,
    figures: {
      missed: sums.missed / Math.max(1, sums.samples),
      overhanging: sums.overhanging / Math.max(1, sums.samples),
      rays: sums.rays,
      raysPerSecond: Math.round(sums.rays / Math.max(seconds, 1e-6)),
      covered: sums.texels / (width * height * tiles.length),
    },
  };
}

/** What the bands of one sheet make, smoothed and with its islands padded. */
function mapsOfTile(
  bands: readonly RowResult[],
  slices: readonly RowSlice[],
  wanted: MapsWanted,
): { maps: BakedMap[]; texels: number } {
  const { width, height } = wanted;
  const normals = new Float32Array(3 * width * height);
  const sky = new Float32Array(width * height);
  const covered = new Uint8Array(width * height);
  bands.forEach((band, i) => {
    normals.set(band.normals, 3 * width * slices[i].from);
    sky.set(band.sky, width * slices[i].from);
    covered.set(band.covered, width * slices[i].from);
  });
  let texels = 0;
  for (const mark of covered) if (mark) texels++;
  const maps: BakedMap[] = [];
  if (wanted.rays > 0) sky.set(smoothSky(sky, normals, covered, width, height));
  if (wanted.normal) {
    dilate(normals, 3, covered, width, height, wanted.padding);
    maps.push(normalImage(normals, wanted));
  }
  if (wanted.rays > 0) {
    dilate(sky, 1, covered, width, height, wanted.padding);
    maps.push(skyImage(sky, wanted));
  }
  return { maps, texels };
}

/**
 * Takes the grain of few rays out of occlusion: the mean over 5 × 5 texels of the same island, those with a
 * different normal counting less, so that grooves stay.
 */
function smoothSky(
  sky: Float32Array,
  normals: Float32Array,
  covered: Uint8Array,
  width: number,
  height: number,
): Float32Array {
  const smooth = new Float32Array(sky);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (!covered[i]) continue;
      const nx = normals[3 * i];
      const ny = normals[3 * i + 1];
      const nz = normals[3 * i + 2];
      const right = Math.min(width - 1, x + 2);
      const top = Math.min(height - 1, y + 2);
      let sum = 0;
      let weights = 0;
      for (let v = Math.max(0, y - 2); v <= top; v++)
        for (
          let k = v * width + Math.max(0, x - 2);
          k <= v * width + right;
          k++
        ) {
          if (!covered[k]) continue;
          const dot =
            nx * normals[3 * k] +
            ny * normals[3 * k + 1] +
            nz * normals[3 * k + 2];
          if (!(dot > 0)) continue;
          // The eighth power: far quicker by squares.
          const dot2 = dot * dot;
          const weight = dot2 * dot2 * dot2 * dot2;
          sum += weight * sky[k];
          weights += weight;
        }
      if (weights > 0) smooth[i] = sum / weights;
    }
  return smooth;
}

/** Rows turn round: the sheet's first row is at the bottom, an image's at the top. */
function normalImage(normals: Float32Array, wanted: MapsWanted): BakedMap {
  const { width, height } = wanted;
  const top = wanted.depth === 16 ? 65535 : 255;
  const pixels =
    wanted.depth === 16
      ? new Uint16Array(3 * width * height)
      : new Uint8Array(3 * width * height);
  const green = wanted.greenUp ? 1 : -1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = 3 * (y * width + x);
      const to = 3 * ((height - 1 - y) * width + x);
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
    width,
    height,
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

function skyImage(
  sky: Float32Array,
  { width, height, depth }: MapsWanted,
): BakedMap {
  const top = depth === 16 ? 65535 : 255;
  const pixels =
    depth === 16
      ? new Uint16Array(width * height)
      : new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      pixels[(height - 1 - y) * width + x] = Math.round(
        Math.max(0, Math.min(1, sky[y * width + x])) * top,
      );
  return { kind: "ao", width, height, channels: 1, depth, pixels };
}
