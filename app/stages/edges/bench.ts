import { spaced } from "../../components/figures";
import type { BenchPlan } from "../bench";
import { needGame, numbersOf } from "../bench";

export const edges: BenchPlan = {
  about: "Where the shading runs on, and where it breaks.",
  main: "edges/hard-by-angle",
  more: ["edges/hard-at-islands", "edges/hard-at-borders"],
  groups: [
    {
      title: "Normals",
      operations: [
        "edges/weigh-normals",
        "edges/take-normals",
        "edges/drop-normals",
      ],
    },
    {
      title: "Seams that show",
      operations: ["edges/harden-seams", "edges/smooth-unsplit"],
    },
  ],
  missing: needGame,
  figures(asset, { report }) {
    const n = numbersOf(report);
    const limit = asset.document.brief.vertices;
    return [
      { label: "Hard edges", value: spaced(n("hardEdges")) },
      {
        label: "Vertices for an engine",
        value: spaced(n("vertices")),
        limit: limit ? `≤ ${spaced(limit)}` : `${spaced(n("places"))} places`,
        state: limit && n("vertices") > limit ? "bad" : undefined,
      },
      {
        label: "Before this step",
        value: spaced(n("verticesBefore")),
      },
    ];
  },
  findings: () => [],
};
