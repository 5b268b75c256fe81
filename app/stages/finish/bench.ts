import type { BenchPlan } from "../../shared/bench";
import { needGame } from "../../shared/bench";

export const finish: BenchPlan = {
  about: "A plain look for every material, to judge the asset by.",
  main: "finish/look",
  more: [],
  missing: needGame,
  figures: () => [],
  findings: (asset) =>
    asset.document.maps.length
      ? []
      : [
          {
            tone: "warn",
            text: "No maps are baked yet: the view shows plain surfaces",
          },
        ],
};
