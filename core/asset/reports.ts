import type { Report } from "./operation";
import type { Asset } from "./asset";

/**
 * The asset with a kept report that follows what has just been done to what it lists; the same where there is none.
 * Running the operation notes that the report is of what is there then.
 */
export function withReport(
  asset: Asset,
  id: string,
  change: (report: Report) => Report,
): Asset {
  const kept = asset.reports[id];
  if (!kept) return asset;
  return {
    ...asset,
    reports: {
      ...asset.reports,
      [id]: { ...kept, report: change(kept.report) },
    },
  };
}
