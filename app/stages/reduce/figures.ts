import type { AssetDocument } from "../../../core/asset/document";
import type { Judgement } from "../../../core/reduce/judge";

/** What is known of how well the game meshes stand for their sources: the newest of judging and reducing. */
export function judgementOf(
  document: Pick<AssetDocument, "reports" | "results">,
): Partial<Judgement> | null {
  const judged = document.reports["reduce/judge"];
  const reduced = document.results.reduce;
  const fresh =
    judged &&
    (!reduced ||
      judged.madeFrom["source meshes"] === reduced.madeFrom["source meshes"]);
  return ((fresh ? judged : reduced)?.report ??
    null) as Partial<Judgement> | null;
}

/** Ends of the distance map's scale, metres: three times the usual distance. */
export function farthest(
  document: Pick<AssetDocument, "reports" | "results">,
): number {
  const found = judgementOf(document);
  return found?.rms && found.diagonal ? 3 * found.rms * found.diagonal : 0.001;
}

export interface LevelFigures {
  level: number;
  wanted: number;
  triangles: number;
  rms: number;
  max: number;
  silhouette: number;
  distance: number;
  screenSize: number;
}

export const levelsOf = (
  document: Pick<AssetDocument, "reports">,
): LevelFigures[] =>
  (document.reports["reduce/levels"]?.report.levels ?? []) as LevelFigures[];

/** Metres from which each further level sets in. */
export const switchPoints = (document: Pick<AssetDocument, "reports">) =>
  levelsOf(document).map(({ distance }) => distance);
