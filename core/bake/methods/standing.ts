import type { Asset } from "../../asset/asset";
import { workedParts } from "../../asset/repeats";
import { tilesUsed } from "../../mesh/tiles";
import type { Standing } from "./bake-again";
import { standingMap } from "./bake-again";
import { depthOf } from "./map-images";
import type { MapsWanted, PartCounts } from "./maps";
import type { Prints } from "./prints";
import { printOfMaps, printsOf } from "./prints";

/** What a bake leaves of itself in its report, so that the next one need not do all again. */
export interface BakeTrace {
  prints: Prints;
  counts: PartCounts[];
}

/** What is baked this time, and into what. */
export interface BakePlan {
  /** Parts whose islands are baked, and those that are kept from what stands. */
  baked: string[];
  kept: string[];
  /** Parts of what is kept that have changed since, or were baked with other settings. */
  older: string[];
  /** Parts that are neither baked nor there: their islands are left as ground. */
  left: string[];
  standing: Standing | undefined;
  prints: Omit<Prints, "maps">;
}

/**
 * Plans a bake: only the chosen parts, or all that has changed since the maps that stand were baked.
 * @param chosen names of worked parts, none for all that is stale; @param before what the bake before left, if any
 */
export function planBake(
  asset: Asset,
  wanted: MapsWanted,
  chosen: readonly string[],
  before: Partial<BakeTrace> | undefined,
): BakePlan {
  const prints = printsOf(asset, wanted);
  const names = Object.keys(prints);
  const known =
    before?.prints && before.prints.maps === printOfMaps(asset.maps)
      ? before.prints.parts
      : null;
  const same = (name: string) => known?.[name] === prints[name];
  // Heights are told in the largest that is found: every island has to be asked.
  const fits =
    known !== null &&
    (!wanted.maps.includes("height") || (wanted.range ?? 0) > 0) &&
    hasAllMaps(asset, wanted);
  const isChosen = (name: string) =>
    chosen.length ? chosen.includes(name) : !fits || !same(name);
  const baked = names.filter(isChosen);
  const rest = names.filter((name) => !isChosen(name));
  const kept = fits ? rest.filter((name) => Object.hasOwn(known, name)) : [];
  const older = kept.filter((name) => !same(name));
  return {
    baked,
    kept,
    older,
    left: rest.filter((name) => !kept.includes(name)),
    standing: kept.length
      ? { maps: asset.maps, kept: new Set(kept), older: new Set(older) }
      : undefined,
    prints: {
      parts: Object.fromEntries(
        [...baked, ...kept].map((name) => [
          name,
          baked.includes(name) ? prints[name] : known![name],
        ]),
      ),
    },
  };
}

/** Whether a map of every kind stands for every tile, in the shape that is wanted. */
function hasAllMaps(
  asset: Asset,
  { maps, width, height, depth: wanted }: MapsWanted,
): boolean {
  const tiles = tilesUsed(
    workedParts(asset).flatMap(({ game }) => (game?.uvs ? [game] : [])),
  );
  return maps.every((kind) => {
    const depth = depthOf(kind, wanted);
    return tiles.every((tile) =>
      standingMap(asset.maps, { kind, tile, width, height, depth }),
    );
  });
}
