import { percent, spaced } from "../../components/figures";
import type { BenchPlan } from "../bench";
import { needSource, numbersOf } from "../bench";

export const reduce: BenchPlan = {
  about: "The best game meshes that the budget can buy.",
  main: "reduce/to-budget",
  more: ["intake/part-rules"],
  missing: needSource,
  figures(asset, { report }) {
    const n = numbersOf(report);
    const budget = asset.document.brief.triangles;
    return [
      {
        label: "Triangles",
        value: spaced(n("triangles")),
        limit: `≤ ${spaced(budget)}`,
        state: n("triangles") > budget ? "bad" : "good",
      },
      {
        label: "Deviation, rms",
        value: percent(n("rms"), 3),
        limit: "of the diagonal",
      },
      {
        label: "Deviation, largest",
        value: percent(n("max"), 2),
        limit: "of the diagonal",
      },
      { label: "Time", value: `${n("seconds").toFixed(1)} s` },
    ];
  },
  findings(asset) {
    return asset.document.parts
      .filter(
        (part) => part.source && !part.game && asset.document.results.reduce,
      )
      .map((part) => ({
        tone: "warn",
        text: `${part.name} is too small for this budget: it is baked only. A budget of its own brings it back`,
        parts: [part.name],
      }));
  },
};
