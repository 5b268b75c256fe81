import { percent, time } from "../../shared/figures";
import type { BenchPlan } from "../../shared/bench";
import { hasSource, numbersOf } from "../../shared/bench";

export const bake: BenchPlan = {
  about: "The source's detail, written into maps.",
  main: "bake/maps",
  more: [],
  missing(asset) {
    if (!hasSource(asset))
      return { text: "There is no source mesh to bake from.", stage: "intake" };
    return asset.document.parts.some((part) => part.game?.streams.uvs)
      ? null
      : { text: "The game mesh has no UVs yet.", stage: "unwrap" };
  },
  figures(_, { report }) {
    const n = numbersOf(report);
    const tiles = (report.tiles as number[] | undefined) ?? [];
    return [
      {
        label: "Maps",
        value: ((report.maps as string[] | undefined) ?? [])
          .map((map) => (map === "ao" ? "occlusion" : map))
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
        state: n("missed") <= 0.001 ? "good" : "bad",
      },
      ...(n("overhanging") > 0
        ? [
            {
              label: "Over open borders",
              value: percent(n("overhanging"), 3),
            },
          ]
        : []),
      { label: "Texels covered", value: percent(n("covered")) },
      { label: "Rays", value: `${(n("raysPerSecond") / 1e6).toFixed(1)} M/s` },
      { label: "Time", value: time(n("seconds")) },
    ];
  },
  findings(_, result) {
    const missed = Number(result?.report.missed ?? 0);
    return missed > 0.001
      ? [
          {
            tone: "bad",
            text: `${percent(missed, 2)} of the texels met no source and took the closest point: the game mesh stands off too far there`,
          },
        ]
      : [];
  },
};
