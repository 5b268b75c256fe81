import type { BenchPlan } from "../../shared/bench";
import { hasGame, hasSource } from "../../shared/bench";
import { dropFindings, dropRows } from "./drop-figures";
import { hullFindings, hullRows } from "./hull-figures";

export const collide: BenchPlan = {
  about: "What the engine bumps into.",
  main: "collide/hulls",
  more: ["collide/drop"],
  missing: (asset) =>
    hasGame(asset) || hasSource(asset)
      ? null
      : { text: "There is no mesh yet.", stage: "intake" },
  figures: ({ document }, result) => [
    ...hullRows(document, result),
    ...dropRows(document),
  ],
  findings: ({ document }, result) => [
    ...hullFindings(document, result),
    ...dropFindings(document),
  ],
};
