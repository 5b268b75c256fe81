import type { MapKind } from "../../../core/base/pictures";
import { MAP_TITLES } from "../../../core/base/pictures";
import {
  readDistances,
  withDistance,
} from "../../../core/bake/methods/distances";
import type { BakeFinding } from "../../../core/bake/methods/findings";
import type { MaskCoverage } from "../../../core/bake/methods/opacity-mask";
import type { PartCounts } from "../../../core/bake/methods/maps";
import { findingWords } from "../../../core/bake/methods/findings";
import type { Finding } from "../../shared/figures";
import { length, percent, time } from "../../shared/figures";
import type { AssetState } from "../../shared/types";
import type { BenchPlan } from "../../shared/bench";
import { hasSource, numbersOf } from "../../shared/bench";

/** Share of the texels that may be missed. */
export const MOST_MISSED = 0.001;
/** Findings after which the maps can be used all the same. */
const MINOR: readonly BakeFinding["kind"][] = [
  "untrue",
  "seam",
  "far",
  "inside",
  "slanting",
  "nothing to show",
];

/** Findings after which all has to be baked once more. */
const AGAIN: readonly BakeFinding["kind"][] = ["older", "not baked", "tried"];

/** Whether maps are not what they should be: too many texels missed, tried small, or islands that are older or not there. */
export const isBakeWrong = (report: Record<string, unknown>): boolean =>
  Number(report.missed ?? 0) > MOST_MISSED ||
  ((report.findings as BakeFinding[] | undefined) ?? []).some(({ kind }) =>
    AGAIN.includes(kind),
  );

/** How much of the cards is left from afar: at full size, and halved five times. */
const maskRows = (coverage: MaskCoverage | undefined) =>
  (["plain", "kept"] as const).flatMap((how) =>
    coverage
      ? [
          {
            label:
              how === "plain"
                ? "Seen of cards, halved to 1/32"
                : "with coverage kept",
            value: [coverage[how][0], coverage[how].at(-1)!]
              .map((share) => percent(share, 1))
              .join(" → "),
          },
        ]
      : [],
  );

/** Ray distances that the last bake was given, of all parts and of single ones, metres; 0 for what is found. */
export function givenDistances({
  results,
}: Pick<AssetState["document"], "results">) {
  const options = results.bake?.options ?? {};
  const read = readDistances(String(options.distances ?? ""));
  return {
    all: Number(options.distance ?? 0) / 1000,
    own: Object.fromEntries(
      typeof read === "string"
        ? []
        : [...read].map(([name, mm]) => [name, mm / 1000]),
    ),
  };
}

/** How far the look jumps over seams, over all places that were looked at. */
function seamRows(report: Record<string, unknown>) {
  const all = ((report.counts as PartCounts[] | undefined) ?? []).flatMap(
    ({ seams }) => seams ?? [],
  );
  const places = all.reduce((sum, each) => sum + each.places, 0);
  if (!places) return [];
  const mean =
    all.reduce((sum, each) => sum + each.places * each.mean, 0) / places;
  return [{ label: "Seam jump", value: `${mean.toFixed(1)}°` }];
}

/** What of the maps was baked this time; null where that was all. */
function bakedThisTime(report: Record<string, unknown>): string | null {
  const list = (name: string) => (report[name] as unknown[] | undefined) ?? [];
  const [parts, all] = [list("baked"), list("counts")];
  const kinds = list("bakedMaps") as MapKind[];
  const some = list("maps").some((kind) => !kinds.includes(kind as MapKind));
  if (!some && parts.length === all.length) return null;
  if (!parts.length) return "nothing: all stands";
  return [
    ...(some ? [kinds.map((kind) => MAP_TITLES[kind]).join(", ")] : []),
    ...(parts.length < all.length
      ? [`${parts.length} of ${all.length} parts`]
      : []),
  ].join("; ");
}

export const bake: BenchPlan = {
  about: "The source's detail, written into maps.",
  main: "bake/maps",
  more: [],
  groups: [
    {
      title: "Cage",
      operations: ["bake/shape-cage", "bake/drop-cage", "bake/cage-file"],
    },
  ],
  missing(asset) {
    // Round edges need no source.
    if (asset.document.parts.some((part) => part.game?.streams.uvs))
      return null;
    return hasSource(asset)
      ? { text: "The game mesh has no UVs yet.", stage: "unwrap" }
      : { text: "There is no source mesh to bake from.", stage: "intake" };
  },
  figures(_, { report }) {
    const n = numbersOf(report);
    const tiles = (report.tiles as number[] | undefined) ?? [];
    const baked = bakedThisTime(report);
    return [
      {
        label: "Maps",
        value: ((report.maps as string[] | undefined) ?? [])
          .map((map) => MAP_TITLES[map as MapKind])
          .join(", "),
      },
      { label: "Size", value: `${n("size")} × ${n("height")} px` },
      ...(tiles.length > 1
        ? [{ label: "Sheets", value: tiles.join(", ") }]
        : []),
      {
        label: "Missed texels",
        value: percent(n("missed"), 3),
        limit: "≤ 0.1\u2009%",
        state: n("missed") <= MOST_MISSED ? "good" : "bad",
      },
      ...(n("overhanging") > 0
        ? [
            {
              label: "Past edges",
              value: percent(n("overhanging"), 3),
            },
          ]
        : []),
      ...(n("angle") > 0
        ? [
            {
              label: "Look off, mean",
              value: `${n("angle").toFixed(1)}°`,
            },
            {
              label: "Look off, 19 of 20",
              value: `${n("angle95").toFixed(1)}°`,
            },
          ]
        : []),
      ...seamRows(report),
      { label: "Texels covered", value: percent(n("covered")) },
      ...maskRows(report.coverage as MaskCoverage | undefined),
      ...(baked ? [{ label: "Baked this time", value: baked }] : []),
      ...(n("raysPerSecond") > 0
        ? [
            {
              label: "Rays",
              value: `${(n("raysPerSecond") / 1e6).toFixed(1)} M/s`,
            },
          ]
        : []),
      { label: "Time", value: time(n("seconds")) },
    ];
  },
  findings(asset, result) {
    const found = (result?.report.findings as BakeFinding[] | undefined) ?? [];
    const missed = Number(result?.report.missed ?? 0);
    return [
      ...(hasSource(asset)
        ? []
        : [
            {
              tone: "warn" as const,
              text: "There is no source mesh: give a radius, and round edges are baked without one",
            },
          ]),
      ...(missed > MOST_MISSED && !found.length
        ? [
            {
              tone: "bad" as const,
              text: `${percent(missed, 2)} of the texels met no source and took the closest point: the game mesh stands off too far there`,
            },
          ]
        : []),
      ...found.map((each): Finding => {
        const { kind, part, distance } = each;
        return {
          tone:
            MINOR.includes(kind) || (kind === "missed" && missed <= MOST_MISSED)
              ? "warn"
              : "bad",
          text: findingWords(each),
          ...(part && { parts: [part] }),
          ...(distance > 0 && {
            mend: {
              label: `Bake from ${length(distance / 1000)}`,
              operation: "bake/maps",
              options: {
                ...result!.options,
                distances: withDistance(
                  String(result!.options.distances ?? ""),
                  part,
                  distance,
                ),
              },
            },
          }),
          ...(AGAIN.includes(kind) && {
            mend: {
              label: kind === "tried" ? "Bake in full" : "Bake what is older",
              operation: "bake/maps",
              // What was left out is baked too, as the mend says.
              options: { ...result!.options, ...(part && { leaveOut: [] }) },
            },
          }),
        };
      }),
    ];
  },
};
