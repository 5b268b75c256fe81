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
  const { width, height, missed, overhanging, milliseconds } = figures;
  return [
    { label: "Shown", value: `${width} × ${height} px` },
    {
      label: "Missed texels",
      value: percent(missed, 3),
      limit: `≤ ${percent(MOST_MISSED, 1)}`,
      state: missed <= MOST_MISSED ? "good" : "bad",
    },
    ...(overhanging > 0
      ? [{ label: "Past edges", value: percent(overhanging, 3) }]
      : []),
    { label: "After", value: time(milliseconds / 1000) },
  ];
}

/** What becomes of a trial, or what it stands for. @param figures null before there are any */
export function trialWords(figures: BakeTrialFigures | null): string {
  if (!figures) return "Looking at the sources…";
  const of = figures.light ? "the lighter sources that are drawn" : "";
  if (!figures.last)
    return `${of ? `From ${of}; finer` : "Finer"} ones follow.`;
  const less = figures.width < figures.full;
  return [
    of && `From ${of}: the sources are too heavy for the page.`,
    less
      ? `The bake itself is ${Math.round(figures.full / figures.width)} × as fine.`
      : "As fine as the bake itself.",
  ]
    .filter(Boolean)
    .join(" ");
}
