import type { AssetDocument } from "../../../core/asset/document";
import { draftedOptions } from "../../components/drafts";
import type { BakeTrialFigures } from "../../shared/messages";
import type { FigureRow } from "../../shared/figures";
import { percent, time } from "../../shared/figures";
import type { OperationInfo } from "../../shared/types";
import type { Draft } from "../../stores/view";
import { MOST_MISSED } from "./bench";

const OPERATION = "bake/maps";

/** The options of a bake as it would be run now: as it was run last, and what was typed since. */
export function bakeToTry(
  operations: readonly OperationInfo[],
  { results }: Pick<AssetDocument, "results">,
  typed: Readonly<Record<string, Record<string, Draft>>>,
): Record<string, unknown> {
  const bake = operations.find(({ id }) => id === OPERATION);
  return bake
    ? draftedOptions(bake.fields, results.bake?.options, typed[OPERATION] ?? {})
    : {};
}

/** What a trial of a bake comes to so far. */
export function trialRows(figures: BakeTrialFigures): FigureRow[] {
  const { width, height, missed, overhanging, light, milliseconds } = figures;
  return [
    { label: "Shown", value: `${width} × ${height} px` },
    // What lighter sources miss says nothing of the sources.
    ...(light
      ? []
      : [
          {
            label: "Missed texels",
            value: percent(missed, 3),
            limit: `≤ ${percent(MOST_MISSED, 1)}`,
            state: missed <= MOST_MISSED ? ("good" as const) : ("bad" as const),
          },
        ]),
    ...(overhanging > 0 && !light
      ? [{ label: "Past edges", value: percent(overhanging, 3) }]
      : []),
    { label: "After", value: time(milliseconds / 1000) },
  ];
}

/** What becomes of a trial, or what it stands for. @param figures null before there are any */
export function trialWords(figures: BakeTrialFigures | null): string {
  if (!figures) return "Looking at the sources…";
  if (!figures.last)
    return figures.light
      ? "From lighter sources; finer ones follow."
      : "Finer ones follow.";
  const less = figures.width < figures.full;
  return [
    figures.light && "From lighter sources: these are too heavy for the page.",
    less
      ? `The bake itself is ${Math.round(figures.full / figures.width)} × as fine.`
      : "As fine as the bake itself.",
  ]
    .filter(Boolean)
    .join(" ");
}
