import type { Asset } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import type { BakedMap } from "../../base/pictures";
import { MissingInputError } from "../../base/errors";
import { clusterMesh } from "../../decimate/cluster";
import { triangleCount } from "../../mesh/mesh";
import { keepSettled, settledOf } from "../../settle/settled-of";
import { tileAt, tilesUsed } from "../../mesh/tiles";
import type { RowSlice } from "./band";
import { emptySheet, imagesOf, lay, withoutGrainOf } from "./baked-sheet";
import { channelsOf } from "./channels";
import type { MapsWanted } from "./maps";
import { missedShares } from "./maps";
import { bakeRows } from "./rows";
import type { BakeScene } from "./scene";
import { bakedFrom, prepareScene } from "./scene";
import { COUNTS } from "./status";
import type { Target } from "./targets";

/** Triangles of sources from which a scene is made in a moment. */
const SOON = 40_000;

/** How the maps of a trial look so far. */
export interface TrialMaps {
  /** Normals, and where there are cards their masks; 8 bits, one of each kind a sheet. */
  maps: BakedMap[];
  /** px */
  width: number;
  height: number;
  /** Shares of the samples, as of a bake. */
  missed: number;
  overhanging: number;
  /** Whether no finer ones follow. */
  last: boolean;
}

/** Edge of the first maps at most, and of the last ones, texels. */
const FIRST = 256;
const FINEST = 2048;

/** Rays between two pauses, about: a few hundredths of a second. */
const RAYS_AT_A_TIME = 2 ** 15;

/** Widths at which a sheet of so many texels is tried, rising: the last one is its own, or a half or a quarter of it. */
export function trialWidths(width: number): number[] {
  let at = width;
  while (at > FINEST) at = Math.round(at / 2);
  const widths = [at];
  while (at > FIRST) widths.unshift((at = Math.round(at / 2)));
  return widths;
}

/** Triangles of all that is baked of an asset. */
const sourceTriangles = ({ parts }: Asset): number =>
  parts.reduce((sum, part) => {
    const from = bakedFrom(part);
    return sum + (from ? triangleCount(from) : 0);
  }, 0);

/** Whether the sources are so heavy that lighter ones are worth while for a first look. */
export const isHeavy = (asset: Asset): boolean => sourceTriangles(asset) > SOON;

/** The same asset with sources that are light enough for a first look, by clusters of their vertices. */
export function withLighterSources(asset: Asset): Asset {
  const share = SOON / sourceTriangles(asset);
  return mapParts(asset, (part) => {
    const from = bakedFrom(part);
    if (!from) return part;
    const { mesh } = settledOf(from);
    const source = clusterMesh(
      mesh,
      Math.max(500, Math.round(share * triangleCount(mesh))),
    );
    keepSettled(source, { mesh: source, faces: null, done: [] });
    return { ...part, source, dense: null, skinned: false };
  });
}

/**
 * Bakes normals of some parts at ever finer sizes, one thread, each size there to be looked at before the next.
 * @param only names of worked parts that are baked; none for all
 * @param widths rising, px: those of `trialWidths` or some of them; the wanted samples are taken at the last of them all
 * @param made what was made of the same sources before, for another setting; new things are put in
 * @param pause is waited for between some thousand rays, and throws to stop
 * @throws MissingInputError where none of the parts has UVs
 */
export async function* trialBake(
  asset: Asset,
  wanted: MapsWanted,
  only: readonly string[],
  widths: readonly number[],
  made: Map<string, Target>,
  pause: () => Promise<void>,
): AsyncGenerator<TrialMaps> {
  const kinds = wanted.maps.filter(
    (kind) => kind === "normal" || kind === "opacity",
  );
  const channels = channelsOf(kinds);
  await pause();
  const scene = prepareScene(asset, {
    ...wanted,
    channels,
    rays: 0,
    made,
    ...(only.length && { only }),
  });
  if (!scene.canvases.length)
    throw new MissingInputError("no game mesh has UVs: unwrap it first");
  await pause();
  const games = asset.parts.flatMap(({ name, game }) =>
    game && (!only.length || only.includes(name)) ? [game] : [],
  );
  const tiles = tilesUsed(games);
  const finest = trialWidths(wanted.width).at(-1);
  for (const width of widths) {
    const last = width === finest;
    const share = width / wanted.width;
    const step = {
      ...wanted,
      width,
      height: Math.max(1, Math.round(share * wanted.height)),
      padding: Math.ceil(share * wanted.padding),
      grow: Math.round(share * (wanted.grow ?? 0)),
      maps: kinds,
      standing: undefined,
    };
    const { height } = step;
    const finer = { ...scene, width, height, grid: last ? wanted.grid : 1 };
    const counts = new Float64Array(COUNTS.length);
    const maps: BakedMap[] = [];
    for (const tile of tiles) {
      maps.push(...(await trialSheet(finer, step, tile, counts, pause)));
      await pause();
    }
    const of = (name: (typeof COUNTS)[number]) => counts[COUNTS.indexOf(name)];
    const [samples, missed] = [of("samples"), of("missed")];
    const overhanging = of("overhanging");
    yield {
      ...{ maps, width, height, last },
      ...missedShares([{ samples, missed, overhanging }]),
    };
  }
}

/** The maps of one sheet. @param counts of all samples, in the order of `COUNTS`: added to */
async function trialSheet(
  scene: BakeScene,
  wanted: MapsWanted,
  tile: number,
  counts: Float64Array,
  pause: () => Promise<void>,
): Promise<BakedMap[]> {
  const sheet = emptySheet(wanted, scene.channels);
  for (const slice of slicesOf(scene, tile)) {
    const band = bakeRows(scene, slice);
    band.counts.forEach((count, i) => (counts[i % COUNTS.length] += count));
    lay(sheet, [band], [slice], wanted);
    await pause();
  }
  withoutGrainOf(sheet, wanted, scene, () => {});
  return imagesOf(
    { tile, again: undefined, ...sheet },
    wanted,
    { ...wanted, ...PLAIN, depth: 8 },
    () => {},
  );
}

/** What maps of places and depths are told in: there are none. */
const PLAIN = {
  ...{ low: [0, 0, 0], high: [1, 1, 1], range: 1, thickest: 1 },
  palette: [],
};

/** A sheet in bands of so many rows that each takes a moment. */
function slicesOf(
  { width, height, grid }: BakeScene,
  tile: number,
): RowSlice[] {
  const [right, up] = tileAt(tile);
  const rows = Math.max(1, Math.round(RAYS_AT_A_TIME / (width * grid * grid)));
  return Array.from({ length: Math.ceil(height / rows) }, (_, i) => ({
    right,
    up,
    from: i * rows,
    to: Math.min(height, (i + 1) * rows),
    wanted: null,
  }));
}
