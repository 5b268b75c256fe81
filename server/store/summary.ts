import type { AssetDocument } from "../../core/asset/document";
import type { Stage } from "../../core/asset/stages";
import type { StageState } from "../../core/asset/stale";
import { stageStates } from "../../core/asset/stale";

/** Raised whenever `summaryOf` says something else of the same document: older ones are made anew at start. */
export const SUMMARY_VERSION = 2;

/** What the list of assets shows of one, kept beside it so that the list reads no document. */
export interface Summary {
  version: number;
  parts: number;
  source: number;
  game: number;
  budget: number;
  standing: { stage: Stage; state: StageState }[];
}

export function summaryOf(document: AssetDocument): Summary {
  const triangles = (which: "source" | "game") =>
    document.parts.reduce(
      (sum, part) => sum + (part[which]?.triangles ?? 0),
      0,
    );
  return {
    version: SUMMARY_VERSION,
    parts: document.parts.length,
    source: triangles("source"),
    game: triangles("game"),
    budget: document.brief.triangles,
    standing: stageStates(document).map(({ stage, state }) => ({
      stage,
      state,
    })),
  };
}
