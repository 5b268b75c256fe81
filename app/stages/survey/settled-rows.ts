import type { AssetDocument } from "../../../core/asset/document";
import { SETTLE_RULES } from "../../../core/settle/settle";
import type { SettleRule } from "../../../core/settle/settle";
import { changedSince } from "../../../core/asset/stale";
import type { PartNoise } from "../../../core/survey/operations/take-noise-out";
import type { AssetState } from "../../shared/types";
import { counted, length, spaced } from "../../shared/figures";
import type { Finding } from "../../shared/figures";
import { placeIn } from "./defect-rows";

/** What each rule of settling is called once it was done. */
const SETTLED: Record<SettleRule, string> = {
  coincident: "coincident vertices are joined",
  shortEdges: "edges too short to mean anything are collapsed",
  noArea: "faces without area are left out",
  layers: "faces that lie on each other are left out",
  stitch: "borders that meet are stitched",
  sheets: "fins are left out and shared edges parted",
  necks: "necks too thin to mean anything are cut",
};

/** What was settled before anything works on the sources: one row a rule, over all parts. */
export function settledRows({
  parts,
  settleWithout,
}: Pick<AssetDocument, "parts" | "settleWithout">): Finding[] {
  const rest = SETTLE_RULES.map(({ value }) => value).filter(
    (rule) => !settleWithout.includes(rule),
  );
  const rows = rest.flatMap((rule): Finding[] => {
    const done = parts.flatMap(({ name, repeat, settled }) =>
      (repeat ? [] : (settled?.done ?? []))
        .filter((one) => one.rule === rule)
        .map(({ count, places }) => ({ name, count, places })),
    );
    if (!done.length) return [];
    const count = done.reduce((sum, one) => sum + one.count, 0);
    return [
      {
        tone: "note",
        text: `for all work: ${SETTLED[rule]}, ${spaced(count)} in ${counted(done.length, "part")}; the source stays`,
        parts: done.map(({ name }) => name),
        places: done
          .flatMap(({ name, places }) =>
            places.map(({ at, radius }) => placeIn(name, at, radius)),
          )
          .slice(0, 40),
        mend: {
          label: "Leave as they are",
          operation: "survey/settle",
          options: { rules: rest.filter((each) => each !== rule) },
        },
      },
    ];
  });
  const off = settleWithout.length;
  return off
    ? [
        ...rows,
        {
          tone: "note",
          text: `${counted(off, "rule")} of settling ${off === 1 ? "is" : "are"} turned off`,
          mend: { label: "Turn on", operation: "survey/settle", options: {} },
        },
      ]
    : rows;
}

export const NOISE = "survey/take-noise-out";

/** What taking noise out was found to do, where that was tried on the sources as they are. */
export function triedNoise({ document }: Pick<AssetState, "document">) {
  const tried = document.reports[NOISE];
  if (!tried?.report.only || changedSince(tried, document).length) return null;
  return {
    parts: (tried.report.parts ?? []) as PartNoise[],
    options: tried.options,
  };
}

export function noiseRows(asset: Pick<AssetState, "document">): Finding[] {
  const tried = triedNoise(asset);
  if (!tried) return [];
  return tried.parts.map(({ part, largest, rms, places }): Finding => ({
    tone: "note",
    text: `${part}: taking noise out would move it by up to ${length(largest)}, ${length(rms)} in the mean`,
    parts: [part],
    places: places.map(({ at, radius }) => placeIn(part, at, radius)),
    mend: {
      label: "Take it out",
      operation: NOISE,
      options: { ...tried.options, parts: [part], only: false },
    },
  }));
}
