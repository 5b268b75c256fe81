import type { Asset } from "../../asset/asset";
import { workedParts } from "../../asset/repeats";
import type { BakedKind, MapKind } from "../../base/pictures";
import { tilesUsed } from "../../mesh/tiles";
import type { Standing } from "./bake-again";
import { standingMap } from "./bake-again";
import { depthOf } from "./map-images";
import type { MapsWanted, PartCounts } from "./maps";
import type { PartPrints, Prints } from "./prints";
import { printOfMap, printsOf } from "./prints";

/** What a bake leaves of itself in its report, so that the next one need not do all again. */
export interface BakeTrace {
  prints: Prints;
  counts: PartCounts[];
  /** What stands for white in heights, metres. */
  range: number;
}

/** What is baked this time, and into what. */
export interface BakePlan {
  /** Maps that are baked; the others that are wanted stand as they should be. */
  maps: BakedKind[];
  /** Maps whose sheets, as far as they are there, are as they would be baked. */
  holding: BakedKind[];
  /** Parts whose islands are baked, and those that are kept from what stands. */
  baked: string[];
  kept: string[];
  /** Parts of what is kept that have changed since, or were baked with other settings. */
  older: string[];
  /** Parts that some map does not have, and that are not baked into it: their islands are left as ground there. */
  left: string[];
  standing: Standing | undefined;
  /** By map, of the islands that it will have. */
  prints: Partial<Record<BakedKind, PartPrints>>;
}

/** What one map would be baked from now, and what of it stands. */
interface MapPlan {
  kind: BakedKind;
  now: PartPrints;
  /** What the standing map was baked from; null where none stands that new islands could be laid into. */
  known: PartPrints | null;
  /** Whether it stands just as it would be baked, all of it, or those of its sheets that are there. */
  stands: boolean;
  holds: boolean;
}

/**
 * Plans a bake: only the chosen parts, or all that has changed since the maps that stand were baked.
 * @param chosen names of worked parts, none for all that is stale; @param before what the bake before left, if any
 * @param out names of worked parts whose islands keep what they have
 */
export function planBake(
  asset: Asset,
  wanted: MapsWanted,
  chosen: readonly string[],
  before: Partial<BakeTrace> | undefined,
  out: ReadonlySet<string> = new Set(),
): BakePlan {
  const plans = wanted.maps.map((kind) =>
    planMap(
      asset,
      kind,
      wanted,
      chosen.length > 0,
      before?.prints?.[kind],
      out,
    ),
  );
  const todo = chosen.length ? plans : plans.filter(({ stands }) => !stands);
  const names = workedParts(asset).flatMap(({ name, game }) =>
    game?.uvs ? [name] : [],
  );
  const isBaked = (name: string) =>
    !out.has(name) &&
    (chosen.length
      ? chosen.includes(name)
      : todo.some(({ known, now }) => known?.[name] !== now[name]));
  const baked = names.filter(isBaked);
  const rest = names.filter((name) => !isBaked(name));
  const has = ({ known }: MapPlan, name: string) =>
    known !== null && Object.hasOwn(known, name);
  const kept = rest.filter(
    (name) => !todo.length || todo.some((plan) => has(plan, name)),
  );
  const olderIn = (some: readonly MapPlan[]) =>
    kept.filter((name) =>
      some.some(
        (plan) => has(plan, name) && plan.known![name] !== plan.now[name],
      ),
    );
  const usable = new Set<MapKind>(
    todo.flatMap(({ kind, known }) => (known ? [kind] : [])),
  );
  return {
    maps: todo.map(({ kind }) => kind),
    holding: plans.flatMap(({ kind, holds }) => (holds ? [kind] : [])),
    baked,
    kept,
    // Of maps that are not baked this time it is told too: parts may have been left out of them.
    older: olderIn(plans),
    left: rest.filter((name) => plans.some((plan) => !has(plan, name))),
    standing: kept.length
      ? {
          maps: asset.maps.filter(({ kind }) => usable.has(kind)),
          kept: new Set(kept),
          older: new Set(olderIn(todo)),
        }
      : undefined,
    prints: Object.fromEntries(
      plans.map((plan) => [
        plan.kind,
        Object.fromEntries(
          names.flatMap((name) =>
            baked.includes(name) && todo.includes(plan)
              ? [[name, plan.now[name]]]
              : has(plan, name)
                ? [[name, plan.known![name]]]
                : [],
          ),
        ),
      ]),
    ),
  };
}

function planMap(
  asset: Asset,
  kind: BakedKind,
  wanted: MapsWanted,
  isPartial: boolean,
  print: Prints[BakedKind],
  out: ReadonlySet<string>,
): MapPlan {
  const now = printsOf(asset, kind, wanted);
  const isKnown =
    print !== undefined && print.map === printOfMap(asset.maps, kind);
  const fits = isKnown && hasMap(asset, kind, wanted);
  const names = Object.keys(now);
  const holds =
    isKnown &&
    Object.keys(print.parts).every((name) => Object.hasOwn(now, name)) &&
    names.every((name) => out.has(name) || print.parts[name] === now[name]);
  const stands = fits && holds;
  // Heights are told in the largest that is found: every island has to be asked, or none.
  const asksAll = kind === "height" && !((wanted.range ?? 0) > 0);
  return {
    kind,
    now,
    known: fits && (!asksAll || (stands && !isPartial)) ? print.parts : null,
    stands,
    holds,
  };
}

/** Whether a map stands for every tile, in the shape that is wanted. */
function hasMap(
  asset: Asset,
  kind: BakedKind,
  { width, height, depth: wanted }: MapsWanted,
): boolean {
  const tiles = tilesUsed(
    workedParts(asset).flatMap(({ game }) => (game?.uvs ? [game] : [])),
  );
  const depth = depthOf(kind, wanted);
  return tiles.every((tile) =>
    standingMap(asset.maps, { kind, tile, width, height, depth }),
  );
}
