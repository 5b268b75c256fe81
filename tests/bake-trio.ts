import { expect } from "vitest";
import { laidOn, squareSheet } from "./laid";
import { cube, moved, sphere } from "./shapes";
import type { Asset, Part } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import { mapParts } from "../core/asset/parts";
import { plainContext } from "../core/base/context";
import type { BakedMap } from "../core/base/pictures";
import { MAP_KINDS } from "../core/base/pictures";
import type { Mesh } from "../core/mesh/mesh";
import { findOperation, KERNELS } from "../core/operations";
import { runOperation } from "../core/route";
import type { PartCounts } from "../core/bake/methods/maps";

/** Runs all on this thread. */
export const context = plainContext(KERNELS);
/** Of the sheet, px. */
export const SIZE = 128;
/** All maps that are not baked unless asked for. */
export const ALSO = MAP_KINDS.filter(
  (kind) => !["normal", "ao", "height", "status"].includes(kind),
);

/** A bumpy ball at a place, and a coarser one as its game mesh. */
export const bumpy = (x: number) => ({
  source: moved(
    sphere(40, 50, 0.5, (a, t) => 0.02 * Math.sin(7 * a) * Math.sin(5 * t)),
    x,
    0,
    0,
  ),
  game: moved(sphere(8, 10, 0.5), x, 0, 0),
});

/** Three parts whose islands lie side by side on one sheet, two texels apart. */
export function trio(): Asset {
  const shapes = [
    bumpy(0),
    bumpy(1.2),
    { source: moved(cube(), 2.6, 0, 0), game: moved(cube(), 2.6, 0, 0) },
  ];
  const laid = laidOn(
    shapes.map(({ game }) => game),
    { ...squareSheet(SIZE), padding: 2 },
  );
  const asset = createAsset(
    "trio",
    ["left", "middle", "right"].map((name, i) =>
      createPart(name, i, { source: shapes[i].source, game: laid[i] }),
    ),
  );
  return {
    ...asset,
    brief: { ...asset.brief, sheetSize: SIZE, padding: 2 },
  };
}

/** Bakes with all maps and few rays. */
export const bake = (asset: Asset, options: object = {}) =>
  runOperation(
    findOperation("bake/maps"),
    asset,
    { rays: 8, also: ALSO, ...options },
    context,
  );

/** The asset with one part changed. */
export const changed = (
  asset: Asset,
  name: string,
  change: (part: Part) => Partial<Part>,
): Asset =>
  mapParts(asset, (part) =>
    part.name === name ? { ...part, ...change(part) } : part,
  );

/** The mesh with every third vertex a little farther out. */
export const dented = (mesh: Mesh): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x, i) => (i % 9 === 1 ? x + 0.01 : x)),
});

/** The bytes of maps by their kind. */
export const bytes = (maps: readonly BakedMap[]) =>
  Object.fromEntries(
    maps.map(({ kind, pixels }) => [kind, Buffer.from(pixels.buffer)]),
  );

/** Bakes what has changed into what stands, and all of it from nothing; both give the same. */
export async function bothWays(
  before: Asset,
  change: (asset: Asset) => Asset,
  options: object = {},
  first: object = options,
): Promise<string[]> {
  const standing = (await bake(before, first)).asset;
  const { asset, report } = await bake(change(standing), options);
  const whole = await bake(
    { ...change(standing), results: {}, maps: [] },
    options,
  );
  expect(whole.report.baked).toEqual(["left", "middle", "right"]);
  const [again, anew] = [bytes(asset.maps), bytes(whole.asset.maps)];
  for (const kind of Object.keys(anew))
    expect(again[kind].equals(anew[kind]), kind).toBe(true);
  const counts = (of: unknown) =>
    (of as PartCounts[]).map(({ part, samples, missed, far }) => [
      part,
      samples,
      missed,
      far,
    ]);
  expect(counts(report.counts)).toEqual(counts(whole.report.counts));
  expect(report.missed).toBe(whole.report.missed);
  return report.baked as string[];
}
