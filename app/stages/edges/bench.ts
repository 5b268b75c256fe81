import { spaced } from "../../components/figures";
import type { BenchPlan } from "../bench";
import { needGame, numbersOf } from "../bench";

export const edges: BenchPlan = {
  about: "Where the shading runs on, and where it breaks.",
  main: "edges/hard-by-angle",
  more: ["edges/hard-at-islands"],
  missing: needGame,
  figures(_, { report }) {
    const n = numbersOf(report);
    return [
      { label: "Hard edges", value: spaced(n("hardEdges")) },
      {
        label: "Hard without UV split",
        value: spaced(n("hardWithoutSplit")),
        limit: "0",
        state: n("hardWithoutSplit") ? "warn" : "good",
      },
    ];
  },
  findings(asset, result) {
    const count = Number(result?.report.hardWithoutSplit ?? 0);
    if (!count || !asset.document.results.unwrap) return [];
    return [
      {
        tone: "bad",
        text: `${spaced(count)} hard edges have no UV split; the bake will show a gradient there`,
        mend: { label: "Split", operation: "unwrap/unwrap", options: {} },
      },
    ];
  },
};
