import type { Asset } from "../../asset/asset";
import { partOf, profileOf } from "../../asset/asset";
import { defineOperation } from "../../asset/operation";
import { INPUTS } from "../../asset/stale";
import { hasCard } from "../../asset/stand-ins";
import { MissingInputError, OptionsError } from "../../base/errors";
import type { BakedMap, MapKind } from "../../base/pictures";
import { MAP_KINDS } from "../../base/pictures";
import { udimOf } from "../../mesh/tiles";
import { BakeOptions } from "../methods/bake-options";
import { readDistances } from "../methods/distances";
import {
  findingsAfter,
  findingsBefore,
  findingsOfMaps,
  findingsOfPlan,
} from "../methods/findings";
import type { MapsWanted, PartCounts } from "../methods/maps";
import { bakeMaps, missedShares } from "../methods/maps";
import type { MaskCoverage } from "../methods/opacity-mask";
import { maskCoverage } from "../methods/opacity-mask";
import { printOfMap } from "../methods/prints";
import type { BakeTrace } from "../methods/standing";
import { planBake } from "../methods/standing";
import { COUNTS } from "../methods/status";

/** Texels of a sheet up to which what became of their rays is kept: on larger ones it would take half a gigabyte. */
const MOST_TOLD = 4096 ** 2;

/** Texels that fill any sheet. */
const FILLS = 8192;

export const bakeAsset = defineOperation({
  id: "bake/maps",
  stage: "bake",
  title: "Bake maps",
  about:
    "Casts rays from the game mesh to the source and writes what they find into maps.",
  runs: "heavy",
  takes: "both",
  makesResult: true,
  forOnce: ["parts"],
  madeFrom: ({ also }: BakeOptions) => [
    ...INPUTS.bake,
    ...((["id", "material", "part"] as const).some((kind) =>
      also.includes(kind),
    )
      ? (["source materials", "source IDs", "colours of IDs"] as const)
      : []),
    ...(also.includes("colour") ? (["source vertex colours"] as const) : []),
  ],
  Options: BakeOptions,
  async run(asset, options, context) {
    const start = performance.now();
    for (const name of options.cards) partOf(asset, name);
    const cards = options.cards.length
      ? options.cards
      : asset.parts.filter(hasCard).map(({ name }) => name);
    // A card without its mask would be a board.
    const kinds = MAP_KINDS.filter((kind) =>
      kind === "normal" || kind === "ao"
        ? options[kind]
        : options.also.includes(kind) ||
          (kind === "opacity" && cards.length > 0),
    );
    if (!kinds.length)
      throw new OptionsError("bake/maps", { also: "no map is wanted" });
    const wanted = wantedOf(asset, options, kinds, cards);
    const chosen = options.parts.map(
      (name) => partOf(asset, name).repeat?.of ?? name,
    );
    const bare = chosen.find((name) => !partOf(asset, name).game?.uvs);
    if (bare)
      throw new MissingInputError(`${bare} has no UVs: unwrap it first`);
    const trace = asset.results.bake?.report as Partial<BakeTrace> | undefined;
    const plan = planBake(asset, wanted, chosen, trace);
    const { maps, figures, parts } = await bakeMaps(
      asset,
      {
        ...wanted,
        maps: plan.maps,
        standing: plan.standing,
        stands: asset.maps.filter(
          ({ kind }) => wanted.maps.includes(kind) && !plan.maps.includes(kind),
        ),
        only: plan.left.length ? [...plan.baked, ...plan.kept] : undefined,
      },
      context,
    );
    const counts = parts.map((part) => ({
      ...part,
      ...(plan.kept.includes(part.part) &&
        countsOf(trace!.counts?.find((each) => each.part === part.part))),
      // Of a part without normals nothing is told but that.
      ...(plan.left.includes(part.part) &&
        !plan.prints.normal?.[part.part] && { angle: 0, angle95: 0 }),
    }));
    const shares = missedShares(counts);
    const missed = shares.missed * 100;
    const findings = [
      ...findingsBefore(asset, wanted),
      ...findingsOfMaps(asset, kinds),
      ...findingsOfPlan(plan),
      ...findingsAfter(counts, options.samples),
    ];
    return {
      asset: { ...asset, maps },
      headline: `${missed < 0.005 ? "0" : missed.toFixed(2)}\u2009% missed`,
      report: {
        maps: kinds,
        tiles: [...new Set(maps.map((map) => udimOf(map.tile ?? 0)))],
        size: wanted.width,
        height: wanted.height,
        ...shares,
        ...figures,
        ...(!plan.maps.includes("height") && { range: trace?.range ?? 0 }),
        baked: plan.baked,
        bakedMaps: plan.maps,
        findings,
        ...(kinds.includes("opacity") && {
          coverage: coverageOf(maps, options.cutOff / 100),
        }),
        counts,
        prints: Object.fromEntries(
          Object.entries(plan.prints).map(([kind, prints]) => [
            kind,
            { parts: prints, map: printOfMap(maps, kind as MapKind) },
          ]),
        ),
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

/** What the options ask for of an asset, in metres. */
function wantedOf(
  asset: Asset,
  options: BakeOptions,
  kinds: readonly MapKind[],
  cards: readonly string[],
): MapsWanted {
  const width = options.size || asset.brief.sheetSize;
  const height = Math.round(
    (width * (asset.brief.sheetHeight || asset.brief.sheetSize)) /
      asset.brief.sheetSize,
  );
  return {
    width,
    height,
    maps: width * height > MOST_TOLD ? kinds : [...kinds, "status"],
    rays: options.rays,
    grid: options.samples,
    reach: options.reach / 1000,
    cone: options.cone,
    floor: options.floor,
    radius: options.radius / 1000,
    round: options.round / 1000,
    depthUnder: options.thick / 1000,
    range: options.range / 1000,
    cards,
    distance: options.distance / 1000,
    distances: distancesOf(asset, options.distances),
    depth: options.depth === "map" ? "map" : (Number(options.depth) as 8 | 16),
    // From afar a card's texels are mixed with the ground beside it, which must have its colours then.
    padding: options.dilate || (cards.length ? FILLS : asset.brief.padding),
    grow: options.grow,
    inverts: options.invert,
    greenUp:
      options.green === "profile"
        ? profileOf(asset.brief).greenUp
        : options.green === "up",
  };
}

/** How much of the masks is seen from afar, over all sheets. */
function coverageOf(maps: readonly BakedMap[], cutOff: number): MaskCoverage {
  const all = maps
    .filter(({ kind }) => kind === "opacity")
    .map((map) => maskCoverage(map, cutOff));
  const mean = (of: "plain" | "kept") =>
    all[0][of].map(
      (_, i) => all.reduce((sum, each) => sum + each[of][i], 0) / all.length,
    );
  return { plain: mean("plain"), kept: mean("kept") };
}

/** What was counted of a part's rays when they were cast. */
const countsOf = (part: PartCounts | undefined) =>
  part && {
    ...Object.fromEntries(COUNTS.map((name) => [name, part[name]])),
    farthest: part.farthest,
  };

/**
 * Ray distances of single parts, metres by the name of the part that is worked. A part that has gone since its
 * distance was given is passed over.
 * @throws OptionsError, MissingInputError
 */
function distancesOf(asset: Asset, text: string): Map<string, number> {
  const read = readDistances(text);
  if (typeof read === "string")
    throw new OptionsError("bake/maps", {
      distances: `"${read}" is not a part and its distance, such as lid = 4.2`,
    });
  const before = asset.results.bake?.options.distances;
  const found = new Map<string, number>();
  for (const [name, mm] of read) {
    const isGone =
      before === text && !asset.parts.some((part) => part.name === name);
    if (!isGone) found.set(partOf(asset, name).repeat?.of ?? name, mm / 1000);
  }
  return found;
}
