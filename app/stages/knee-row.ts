import type { Knee } from "../../core/asset/knee";
import { kneeWords } from "../../core/asset/knee";
import { toldNoLonger } from "../../core/asset/stale";
import { spaced } from "../shared/figures";
import type { Finding } from "../shared/figures";
import type { AssetState } from "../shared/types";
import { briefOptions } from "./intake/brief-options";

/**
 * The row that says that a budget lies under the knee of the curve, with the mends for it; none where it doesn't.
 * @param raise the operation that works to another budget, or null to set the brief's
 */
export function kneeRows(
  { document }: AssetState,
  found: Partial<Knee>,
  budget: number,
  raise: string | null,
): Finding[] {
  // A part that has got shapes since is seen to.
  const left = document.parts.filter(({ standIns }) => !standIns.length);
  const parts = (found.breaking ?? []).filter((name) =>
    left.some((part) => part.name === name),
  );
  const { knee } = found;
  const text = kneeWords({ knee, breaking: parts }, budget);
  if (!knee || !text) return [];
  const faces = document.parts.flatMap(({ name, source }) =>
    source && parts.includes(name) ? [`${name}:0-${source.faces - 1}`] : [],
  );
  return [
    {
      tone: "warn",
      text,
      ...(parts.length && { parts }),
      mend: {
        label: `Raise to ${spaced(knee)}`,
        operation: raise ?? "intake/brief",
        options: raise
          ? { ...lastOptions(document, raise), triangles: knee }
          : { ...briefOptions(document), triangles: knee },
      },
      others: parts.length
        ? [
            {
              label: "Stand-in shapes",
              operation: "reduce/stand-in",
              options: { parts },
            },
            {
              label: "Bake them only",
              operation: "survey/source-only",
              options: { faces, on: true },
            },
          ]
        : [],
    },
  ];
}

/** What a survey foresaw of the budget, as long as what it foresaw it from is the same. */
export function foreseenRows(asset: AssetState): Finding[] {
  const { results, brief } = asset.document;
  if (!results.survey || toldNoLonger(results.survey, asset.document))
    return [];
  const { knee, breaking, kneeFor } = results.survey.report as Partial<Knee> & {
    kneeFor?: number;
  };
  // Which shapes break is known for one budget only.
  const same = kneeFor === brief.triangles;
  const found = same ? { knee, breaking } : { knee };
  return kneeRows(asset, found, brief.triangles, null);
}

/** What an operation was last run with to make its stage what it is: nothing where another one made it. */
export const lastOptions = (
  { results }: AssetState["document"],
  operation: string,
): object =>
  Object.values(results).find((result) => result?.operation === operation)
    ?.options ?? {};
