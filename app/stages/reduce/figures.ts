import { changedSince, toldNoLonger } from "../../../core/asset/stale";
import type { AssetDocument } from "../../../core/asset/document";
import type { Judgement } from "../../../core/reduce/operations/judge";

/** What is known of how well the game meshes, as they are, stand for their sources; null once either has changed. */
export function judgementOf(
  document: AssetDocument,
): Partial<Judgement> | null {
  const judged = document.reports["reduce/judge"];
  if (judged && !changedSince(judged, document).length)
    return judged.report as Partial<Judgement>;
  const { reduce } = document.results;
  return reduce && "rms" in reduce.report && !toldNoLonger(reduce, document)
    ? (reduce.report as Partial<Judgement>)
    : null;
}

/** Ends of the distance map's scale, metres: three times the usual distance. */
export function farthest(document: AssetDocument): number {
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

/** Estimated distance, metres, against triangles. */
export interface Curve {
  triangles: number[];
  rms: number[];
}

/** Estimated distance at a count, between the curve's points by their logarithms. */
export function errorAt({ triangles, rms }: Curve, count: number): number {
  const i = triangles.findIndex((n) => n >= count);
  if (i <= 0) return rms[i < 0 ? rms.length - 1 : 0];
  const t =
    Math.log(count / triangles[i - 1]) /
    Math.log(triangles[i] / triangles[i - 1]);
  return rms[i - 1] + t * (rms[i] - rms[i - 1]);
}

/** Triangles of which it is asked what they buy. */
const SOME = 100;

/** For every part how much nearer to its source its last triangles brought it and the next ones would, metres. */
export function boughtBy(document: Pick<AssetDocument, "results" | "parts">) {
  const parts = (document.results.reduce?.report.parts ?? []) as {
    part: string;
    triangles: number;
    curve: Curve | null;
  }[];
  return parts
    .flatMap(({ part, triangles, curve }) => {
      const now = document.parts.find(({ name }) => name === part)?.game;
      if (!curve?.triangles.length || !now || now.triangles !== triangles)
        return [];
      const at = errorAt(curve, triangles);
      const before = errorAt(curve, Math.max(4, triangles - SOME));
      return [
        {
          part,
          bought: before - at,
          next: at - errorAt(curve, triangles + SOME),
        },
      ];
    })
    .sort((a, b) => b.next - a.next);
}
