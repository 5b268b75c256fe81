import type { Asset } from "../../asset/asset";
import { partOf } from "../../asset/asset";
import { defineOperation } from "../../asset/operation";
import { INPUTS } from "../../asset/stale";
import { MissingInputError } from "../../base/errors";
import type { BakedMap, BakedKind } from "../../base/pictures";
import { udimOf } from "../../mesh/tiles";
import { BakeOptions } from "../methods/bake-options";
import {
  findingsAfter,
  findingsBefore,
  findingsOfMaps,
  findingsOfPlan,
  findingsOfSheets,
  findingsOfSize,
} from "../methods/findings";
import type { PartCounts } from "../methods/maps";
import { bakeMaps, missedShares } from "../methods/maps";
import type { MaskCoverage } from "../methods/opacity-mask";
import { maskCoverage } from "../methods/opacity-mask";
import { withBakedInUse, withBroughtAsBefore } from "../methods/brought-maps";
import { printOfMap } from "../methods/prints";
import type { BakeTrace } from "../methods/standing";
import { planBake } from "../methods/standing";
import { COUNTS } from "../methods/status";
import { wantedOf } from "../methods/wanted";

export const bakeAsset = defineOperation({
  id: "bake/maps",
  stage: "bake",
  title: "Bake maps",
  about:
    "Casts rays from the game mesh to the source and writes what they find into maps.",
  runs: "heavy",
  takes: "both",
  makesResult: true,
  forOnce: ["parts", "sheets", "fraction"],
  madeFrom: ({ also }: BakeOptions) => [
    ...INPUTS.bake,
    ...((["id", "material", "part"] as const).some((kind) =>
      also.includes(kind),
    )
      ? (["source materials", "source IDs", "colours of IDs"] as const)
      : []),
    ...(also.includes("colour")
      ? (["source vertex colours", "source pictures"] as const)
      : []),
  ],
  Options: BakeOptions,
  async run(given, options, context) {
    const start = performance.now();
    // What was brought in stands in for a baked map, which goes on to be baked.
    const asset = withBakedInUse(given);
    const wanted = wantedOf(asset, options);
    const kinds = wanted.maps.filter((kind) => kind !== "status");
    const worked = (name: string) => partOf(asset, name).repeat?.of ?? name;
    const chosen = options.parts.map(worked);
    const out = leftOut(asset, options, worked);
    if (chosen.length && chosen.every((name) => out.has(name)))
      throw new MissingInputError(
        `${chosen.join(", ")}: left out of the bake, as asked for: nothing would be baked`,
      );
    const bare = chosen.find((name) => !partOf(asset, name).game?.uvs);
    if (bare)
      throw new MissingInputError(`${bare} has no UVs: unwrap it first`);
    const trace = asset.results.bake?.report as Partial<BakeTrace> | undefined;
    const plan = planBake(asset, wanted, chosen, trace, out);
    const { maps, figures, parts } = await bakeMaps(
      asset,
      {
        ...wanted,
        maps: plan.maps,
        standing: plan.standing,
        stands: asset.maps.filter(
          ({ kind, tile = 0 }) =>
            wanted.maps.some((each) => each === kind) &&
            (!plan.maps.some((each) => each === kind) ||
              (plan.holding.some((each) => each === kind) &&
                wanted.tiles?.includes(tile) === false)),
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
    const findings = [
      ...findingsBefore(asset, wanted),
      ...findingsOfMaps(asset, kinds),
      ...findingsOfSize(wanted, Number(options.fraction)),
      ...findingsOfPlan(plan, out),
      ...findingsOfSheets(asset, maps),
      ...findingsAfter(counts, options.samples),
    ];
    return {
      asset: withBroughtAsBefore({ ...asset, maps }, given),
      headline: headlineOf(shares.missed, options, wanted.width),
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
            { parts: prints, map: printOfMap(maps, kind as BakedKind) },
          ]),
        ),
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

/** What the route says of a bake. @param missed share of the texels @param width of the maps, px */
const headlineOf = (
  missed: number,
  { fraction }: BakeOptions,
  width: number,
): string =>
  fraction === "1"
    ? `${missed < 5e-5 ? "0" : (100 * missed).toFixed(2)}\u2009% missed`
    : `tried at ${width}\u2009px`;

/** The parts that are not baked, by the names of those that are worked at. */
function leftOut(
  asset: Asset,
  { leaveOut, hidden }: BakeOptions,
  worked: (name: string) => string,
): ReadonlySet<string> {
  const [locks, hides] = [
    leaveOut.includes("locked"),
    leaveOut.includes("hidden"),
  ];
  return new Set(
    asset.parts.flatMap(({ name, locked }) =>
      (locks && locked) || (hides && hidden.includes(name)) ? worked(name) : [],
    ),
  );
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
