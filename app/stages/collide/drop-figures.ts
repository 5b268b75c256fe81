import type { Trial, TrialName } from "../../../core/collide/methods/trials";
import { changedSince } from "../../../core/asset/stale";
import type { AssetDocument } from "../../../core/asset/document";
import type { FigureRow, Finding } from "../../shared/figures";
import { length } from "../../shared/figures";

/** Trials of the drop test as people read them. */
export const TRIAL_WORDS: Record<TrialName, string> = {
  placed: "Put down",
  dropped: "Dropped",
  pushed: "Pushed",
  rolled: "Rolled",
  stacked: "One on another",
  slope: "On the slope",
  steps: "On steps",
};

/** What the drop test told of the present hulls; null where it has not been made for them. */
function keptOf(document: AssetDocument) {
  const kept = document.reports["collide/drop"];
  return kept && !changedSince(kept, document).length ? kept.report : null;
}

/** When the asset rests in every trial, and whether it stands. */
export function dropRows(document: AssetDocument): FigureRow[] {
  const report = keptOf(document);
  if (!report) return [];
  const trials = report.trials as Trial[];
  const stands = report.stands === true;
  return [
    {
      label: "Stands where it is put",
      value: stands ? "yes" : "no",
      state: stands ? "good" : "warn",
    },
    ...trials.map(({ name, restSeconds, fellThrough }): FigureRow => {
      const level = name !== "slope" && name !== "steps";
      return {
        label: `${TRIAL_WORDS[name]}, rests after`,
        value: fellThrough
          ? "fell through"
          : restSeconds === null
            ? "never"
            : `${restSeconds.toFixed(1)} s`,
        // On a slope and steps it may well slide on.
        ...(level && { limit: "≤ 5 s" }),
        state: fellThrough
          ? "bad"
          : level && (restSeconds ?? 9) > 5
            ? "warn"
            : undefined,
      };
    }),
    {
      label: "Lies in what it meets",
      value: length(Number(report.penetrationMetres)),
      limit: "≤ 2 mm",
      state: Number(report.penetrationMetres) > 0.002 ? "warn" : "good",
    },
  ];
}

/** What the drop test found, as findings. */
export const dropFindings = (document: AssetDocument): Finding[] =>
  ((keptOf(document)?.troubles ?? []) as string[]).map((text) => ({
    tone: "warn",
    text: `Drop test: ${text}`,
  }));
