import type { BenchPlan } from "../../shared/bench";
import { hasGame, hasHulls, hasSource } from "../../shared/bench";
import { dropFindings, dropRows } from "./drop-figures";
import { hullFindings, hullRows } from "./hull-figures";

export const collide: BenchPlan = {
  about: "What the engine bumps into.",
  main: "collide/hulls",
  more: ["collide/drop"],
  groups: [
    {
      title: "Chosen hulls, by figures",
      operations: [
        "collide/move",
        "collide/mirror",
        "collide/split",
        "collide/merge",
        "collide/reshape",
        "collide/place",
      ],
    },
  ],
  missing: (asset) =>
    hasGame(asset) || hasSource(asset) || hasHulls(asset)
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
