import { spaced } from "../../shared/figures";
import type { BenchPlan } from "../../shared/bench";
import { needGame, numbersOf, verticesRow } from "../../shared/bench";

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
    { title: "Round edges", operations: ["edges/round"] },
    {
      title: "Seams that show",
      operations: ["edges/harden-seams", "edges/smooth-unsplit"],
    },
  ],
  missing: needGame,
  figures(asset, { report }) {
    const n = numbersOf(report);
    return [
      { label: "Hard edges", value: spaced(n("hardEdges")) },
      {
        label: "Vertices by the last step",
        value: `${spaced(n("verticesBefore"))} → ${spaced(n("vertices"))}`,
      },
      ...(asset.document.brief.vertices > 0
        ? [verticesRow(asset, n("vertices"))]
        : []),
    ];
  },
  findings: () => [],
};
