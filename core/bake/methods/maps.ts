import type { Asset } from "../../asset/asset";
import type { BakedMap } from "../../base/pictures";
import { mapsInOrder } from "../../base/pictures";
import { ArnikError, MissingInputError } from "../../base/errors";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import { tileAt, tilesUsed, udimOf } from "../../mesh/tiles";
import type { Bounds } from "../../space/bounds";
import { boundsOf } from "../../space/bounds";
import { CHANNELS, channelsOf } from "./channels";
import { bakedAgain } from "./bake-again";
import { fidelityOf } from "./fidelity";
import { mendSeams } from "./mend-seams";
import type { SeamJump } from "./over-seams";
import { seamJumps } from "./over-seams";
import type { Depth, Encoding } from "./map-images";
import type { RowResult, RowSlice } from "./band";
import type { Sheet, SheetWanted } from "./baked-sheet";
import { emptySheet, imagesOf, lay, withoutGrainOf } from "./baked-sheet";
import { COUNTS } from "./status";
import type { SceneOptions } from "./scene";
import { bakesItself, prepareScene } from "./scene";

export interface MapsWanted
  extends Omit<SceneOptions, "channels">, SheetWanted {
  depth: Depth;
  greenUp: boolean;
  /** What stands for white in heights, metres; 0 for what is found. */
  range?: number;
  /** Sheets that are baked, by number from 0; all where left out. */
  tiles?: readonly number[];
  /** Maps that stay whole: they take their places among the new ones. */
  stands?: readonly BakedMap[];
}

/** What became of a part's rays. */
export interface PartCounts extends Record<(typeof COUNTS)[number], number> {
  part: string;
  /** How far its rays began outside it, metres. */
  distance: number;
  card: boolean;
  /** How far off the source lies at most where they met nothing and it does not end, metres. */
  farthest: number;
  /** Degrees between what the normal map shows and what the source is, in the mean and at 95 of 100 points; 0 without one. */
  angle: number;
  angle95: number;
  /** How far what the normal map shows jumps over seams; none without seams over which the source goes on. */
  seams?: SeamJump;
}

export interface BakeFigures {
  /** As of each part, for all of them. */
  angle: number;
  angle95: number;
  rays: number;
  raysPerSecond: number;
  /** Share of texels covered. */
  covered: number;
  /** What stands for white in heights, thickness, and for the corners in positions; metres. */
  range: number;
  thickest: number;
  box: Bounds;
}

/** Occlusion rays that go to a thread at a time, about: some seconds at most between two signs of progress. */
const RAYS_AT_A_TIME = 4e6;

/** The least that heights are told in by themselves, as a share of the size of everything. */
const LEAST_RANGE = 1e-4;

/** Texels that are kept in bands, before they are laid into their sheet: at 8192 px all of them would fill a gigabyte. */
const MOST_AT_ONCE = 2 ** 22;

/** Texels of all sheets together: 64 of 2048, 16 of 4096, 4 of 8192 px. */
const MOST_TEXELS = 2 ** 28;

/**
 * Bakes the wanted maps of an asset on all threads.
 * In one piece: maps share their rays and what was found of them.
 * @throws ArnikError without source, game mesh or UVs, or with too many sheets
 */
export async function bakeMaps(
  asset: Asset,
  wanted: MapsWanted,
  context: Context,
): Promise<{ maps: BakedMap[]; figures: BakeFigures; parts: PartCounts[] }> {
  if (!asset.parts.some((part) => part.source) && !bakesItself(asset, wanted))
    throw new MissingInputError(
      "there is no source mesh to bake from; without one, round edges can be baked",
    );
  if (!asset.parts.some((part) => part.game?.uvs))
    throw new MissingInputError("no game mesh has UVs: unwrap it first");
  const { width, height } = wanted;
  const tiles = tilesUsed(asset.parts.flatMap(({ game }) => game ?? [])).filter(
    (tile) => !wanted.tiles || wanted.tiles.includes(tile),
  );
  if (tiles.length * width * height > MOST_TEXELS)
    throw new ArnikError(
      `the islands lie on ${tiles.length} sheets, too many to bake at ${width} × ${height} px: pack them on fewer, or bake smaller maps`,
    );
  context.progress(0, "sorting the source");
  const channels = channelsOf(wanted.maps);
  const many = channels.some((name) => CHANNELS[name].rays);
  const scene = prepareScene(
    asset,
    { ...wanted, channels, rays: many ? wanted.rays : 0 },
    context.check,
  );
  context.check();
  const box = boundsOf(
    ...asset.parts.flatMap(({ source, game }) =>
      [source, game].flatMap((mesh) => (mesh ? [mesh.positions] : [])),
    ),
  );
  const band = Math.max(
    1,
    Math.min(
      16,
      Math.round(RAYS_AT_A_TIME / (width * Math.max(1, scene.rays))),
    ),
  );
  const maps: BakedMap[] = [];
  const sheets: Sheet[] = [];
  const encoding = (heights: number): Encoding => ({
    ...wanted,
    low: box.min,
    high: box.max,
    range: heights,
    thickest: scene.depthUnder,
    palette: asset.palette.map(({ colour }) => colour),
  });
  const counts = new Float64Array(COUNTS.length * scene.canvases.length);
  const farthestOf = new Float64Array(scene.canvases.length);
  const sums = { rays: 0, texels: 0 };
  // Where nothing stands off, what is found is only rounding: it would fill the map from black to white.
  let range = wanted.range || LEAST_RANGE * scene.size;
  const start = performance.now();
  // One sheet after the other: only one is held whole at a time.
  for (const [t, tile] of tiles.entries()) {
    const [right, up] = tileAt(tile);
    const again =
      wanted.standing &&
      bakedAgain(
        scene,
        wanted.standing,
        wanted.padding,
        right,
        up,
        channels.includes("opacity") ? Math.abs(wanted.grow ?? 0) : 0,
      );
    const slices: RowSlice[] = [];
    for (let from = 0; from < height; from += band) {
      const to = Math.min(height, from + band);
      slices.push({
        right,
        up,
        from,
        to,
        wanted: again ? again.wanted.slice(width * from, width * to) : null,
      });
    }
    const step = spanOf(context, t / tiles.length, (t + 1) / tiles.length);
    const of = tiles.length > 1 ? ` of sheet ${udimOf(tile)}` : "";
    const sheet = emptySheet(wanted, channels);
    const atOnce = Math.max(1, Math.floor(MOST_AT_ONCE / (band * width)));
    for (let first = 0; first < slices.length; first += atOnce) {
      const some = slices.slice(first, first + atOnce);
      const bands = await context.workers.run<RowSlice, RowResult>(
        "bake/rows",
        scene,
        some,
        (finished) => {
          context.check();
          step.progress(
            0.05 + (0.85 * (first + finished)) / slices.length,
            `casting rays, row ${Math.min(height, (first + finished) * band)} of ${height}${of}`,
          );
        },
      );
      context.check();
      for (const each of bands) {
        each.counts.forEach((count, i) => (counts[i] += count));
        each.farthest.forEach(
          (far, c) => (farthestOf[c] = Math.max(farthestOf[c], far)),
        );
        sums.rays += each.rays;
      }
      lay(sheet, bands, some, wanted);
    }
    step.progress(0.92, "padding islands");
    withoutGrainOf(sheet, wanted, scene, context.check);
    if (sheet.values.height && !wanted.range)
      range = Math.max(range, farthest(sheet.values.height));
    sheets.push({ tile, again, ...sheet });
    for (const mark of sheet.covered) if (mark) sums.texels++;
    // Heights wait for the range of all sheets; else only one is held whole at a time.
    if (wanted.range || !channels.includes("height") || t + 1 === tiles.length)
      for (const each of sheets.splice(0)) {
        const images = imagesOf(each, wanted, encoding(range), context.check);
        const written = each.again?.written ?? null;
        if (wanted.padding > 0)
          for (const map of images)
            // Steps of 8 bits, and what dithers them, would be told from the other side of a seam as relief.
            if (map.kind === "normal" && map.depth === 16)
              mendSeams(scene, map, wanted.greenUp, written, context.check);
        maps.push(...images);
      }
  }
  const seconds = (performance.now() - start) / 1000;
  const all = mapsInOrder([...maps, ...(wanted.stands ?? [])]);
  const normals = all.filter(({ kind }) => kind === "normal");
  const fidelity = normals.length
    ? fidelityOf(scene, normals, wanted.greenUp)
    : null;
  const jumps = normals.length
    ? seamJumps(scene, normals, wanted.greenUp, context.check)
    : null;
  const pieces = scene.canvases.map(({ part, distance, card }, c) => ({
    part,
    distance,
    card,
    farthest: farthestOf[c],
    angle: fidelity?.canvases[c].mean ?? 0,
    angle95: fidelity?.canvases[c].p95 ?? 0,
    ...(Object.fromEntries(
      COUNTS.map((name, k) => [name, counts[COUNTS.length * c + k]]),
    ) as Record<(typeof COUNTS)[number], number>),
  }));
  return {
    maps: all,
    parts: byPart(pieces).map((part) => {
      const seams = jumps?.get(part.part);
      return seams ? { ...part, seams } : part;
    }),
    figures: {
      angle: fidelity?.whole.mean ?? 0,
      angle95: fidelity?.whole.p95 ?? 0,
      rays: sums.rays,
      raysPerSecond: Math.round(sums.rays / Math.max(seconds, 1e-6)),
      covered: sums.texels / (width * height * tiles.length),
      range,
      thickest: scene.depthUnder,
      box,
    },
  };
}

/** What became of the rays of parts that were baked piece by piece, together. */
function byPart(pieces: readonly PartCounts[]): PartCounts[] {
  const parts = new Map<string, PartCounts>();
  for (const piece of pieces) {
    const sum = parts.get(piece.part);
    if (!sum) {
      parts.set(piece.part, { ...piece });
      continue;
    }
    const all = sum.samples + piece.samples || 1;
    for (const name of ["angle", "angle95"] as const)
      sum[name] = (sum.samples * sum[name] + piece.samples * piece[name]) / all;
    for (const name of ["distance", "farthest"] as const)
      sum[name] = Math.max(sum[name], piece[name]);
    for (const name of COUNTS) sum[name] += piece[name];
  }
  return [...parts.values()];
}

/** Shares of all samples whose ray met nothing though the source does not end there, and that hang over where it does. */
export function missedShares(
  parts: readonly Pick<PartCounts, "samples" | "missed" | "overhanging">[],
): { missed: number; overhanging: number } {
  const all = (name: "samples" | "missed" | "overhanging") =>
    parts.reduce((sum, part) => sum + part[name], 0);
  const samples = Math.max(1, all("samples"));
  return {
    missed: (all("missed") - all("overhanging")) / samples,
    overhanging: all("overhanging") / samples,
  };
}

/** The largest value, whichever way. */
function farthest(values: Float32Array): number {
  let most = 0;
  for (const value of values)
    if (Math.abs(value) > most) most = Math.abs(value);
  return most;
}
