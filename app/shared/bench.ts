import type { Component } from "vue";
import type { Stage } from "../../core/asset/stages";
import type { StageResult } from "../../core/asset/asset";
import type { FigureRow, Finding } from "./figures";
import { spaced } from "./figures";
import type { AssetState } from "./types";

/** A component of a stage's own on its bench. */
export interface BenchPlace {
  component: Component;
  /**
   * In the place of the main form, below it, or below the findings; above the operations of a group, by its title; or
   * behind one operation, by its id.
   */
  at: "main" | "below main" | "last" | (string & {});
  /** The operation that it is the form of: the search of commands leads there. */
  operation?: string;
  /** Only there once the stage has a result, which it is given. */
  ofResult?: boolean;
  /** Only there while the operation that it stands behind is unfolded. */
  unfolded?: boolean;
}

/** What a stage's bench shows. */
export interface BenchPlan {
  about: string;
  /** The main action; and the others, folded away. */
  main: string;
  /** What its form says where it was never run, and which options it leaves to others. */
  defaults?(asset: AssetState): Record<string, unknown>;
  hide?: string[];
  more: string[];
  /** More of them under a heading of their own. */
  groups?: { title: string; operations: string[] }[];
  /** @param selected chosen parts, for figures of their own */
  figures(
    asset: AssetState,
    result: StageResult,
    selected: readonly string[],
  ): FigureRow[];
  findings(asset: AssetState, result: StageResult | undefined): Finding[];
  /** What to say and where to go when the stage can't begin yet. */
  missing?(asset: AssetState): { text: string; stage: Stage } | null;
}

export const hasSource = (asset: AssetState) =>
  asset.document.parts.some((part) => part.source);
export const hasGame = (asset: AssetState) =>
  asset.document.parts.some((part) => part.game);
export const hasHulls = (asset: AssetState) =>
  asset.document.parts.some((part) => part.hulls.length);
export const needSource = (asset: AssetState) =>
  hasSource(asset)
    ? null
    : { text: "There is no source mesh yet.", stage: "intake" as const };
export const needGame = (asset: AssetState) =>
  hasGame(asset)
    ? null
    : { text: "There is no game mesh yet.", stage: "reduce" as const };

/** Vertices as an engine counts them, against the brief where that has a limit. */
export function verticesRow(
  { document }: Pick<AssetState, "document">,
  count: number,
): FigureRow {
  const most = document.brief.vertices;
  return {
    label: "Vertices",
    value: spaced(count),
    ...(most > 0 && {
      limit: `≤ ${spaced(most)}`,
      state: count > most ? ("bad" as const) : ("good" as const),
    }),
  };
}

/** Numbers of a report by name, 0 where it has none. */
export const numbersOf = (report: Record<string, unknown>) => (name: string) =>
  Number(report[name] ?? 0);
