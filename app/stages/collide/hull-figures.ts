import type { AssetDocument } from "../../../core/asset/document";
import type { StageResult } from "../../../core/asset/asset";
import type { HullKind } from "../../../core/mesh/hull";
import { ownHulls } from "../../../core/mesh/hull";
import { numbersOf } from "../../shared/bench";
import type { FigureRow, Finding } from "../../shared/figures";
import { counted, length, spaced, volume } from "../../shared/figures";

const WORDS: Record<HullKind, readonly [one: string, more: string]> = {
  box: ["box", "boxes"],
  sphere: ["sphere", "spheres"],
  capsule: ["capsule", "capsules"],
  prism: ["prism", "prisms"],
  convex: ["hull", "hulls"],
  ground: ["ground mesh", "ground meshes"],
};

/** How many shapes of each kind there are, in words. */
function kindsOf(document: AssetDocument): string {
  const counts = new Map<HullKind, number>();
  for (const { hulls } of document.parts)
    for (const { kind } of ownHulls(hulls))
      counts.set(kind, (counts.get(kind) ?? 0) + 1);
  return [...counts]
    .sort((a, b) => b[1] - a[1])
    .map(([kind, count]) => counted(count, ...WORDS[kind]))
    .join(", ");
}

const countOf = (document: AssetDocument) =>
  document.parts.reduce((sum, { hulls }) => sum + ownHulls(hulls).length, 0);

/** How far hulls stand off at most, metres; 0 where there are none. */
export const standOff = ({ results }: AssetDocument): number =>
  Number(results.collide?.report.maxDistance ?? 0);

/** What shapes there are, and how near they are to what they stand for. */
export function hullRows(
  document: AssetDocument,
  { report }: Pick<StageResult, "report">,
): FigureRow[] {
  const n = numbersOf(report);
  const hulls = countOf(document);
  const allowed = n("allowed");
  const off = n("maxDistance");
  return [
    {
      label: "Hulls",
      value: spaced(hulls),
      limit: `≤ ${document.brief.hulls}`,
      state: hulls > document.brief.hulls ? "bad" : "good",
    },
    { label: "Shapes", value: kindsOf(document) },
    { label: "Vertices", value: spaced(n("vertices")) },
    { label: "Volume added", value: volume(n("added")) },
    {
      label: "Volume, of the meshes'",
      value: n("volumeRatio")
        ? `${n("volumeRatio").toFixed(2)} ×`
        : "open meshes",
    },
    {
      label: "Stands off at most",
      value: length(off),
      ...(allowed > 0 && {
        limit: `≤ ${length(allowed)}`,
        state: off > allowed * 1.001 ? ("bad" as const) : ("good" as const),
      }),
    },
    { label: "Stands out of them", value: length(n("outside")) },
  ];
}

/** What is wrong with the shapes there are. */
export function hullFindings(
  document: AssetDocument,
  result: Pick<StageResult, "report" | "options"> | undefined,
): Finding[] {
  const flat = (result?.report.flat as string[] | undefined) ?? [];
  const found: Finding[] = flat.map((part) => ({
    tone: "warn",
    text: `${part} is flat: no hull holds it, a box does`,
    parts: [part],
  }));
  const byHand = (result?.report.byHand as string[] | undefined) ?? [];
  if (byHand.length && result)
    found.push({
      tone: "note",
      text: `Worked by hand, and left alone when hulls are made: ${byHand.join(", ")}`,
      parts: byHand,
      mend: {
        label: "Make anew",
        operation: "collide/hulls",
        options: { ...result.options, handToo: true },
      },
    });
  const hulls = countOf(document);
  const failed =
    typeof result?.report.failed === "string" ? result.report.failed : null;
  const { brief } = document;
  if (hulls > brief.hulls)
    found.push({
      tone: "bad",
      text: failed ?? `${hulls} hulls, ${brief.hulls} are allowed`,
      mend: {
        label: "Join",
        operation: "collide/hulls",
        options: { kind: "hulls" },
      },
    });
  else if (failed) found.push({ tone: "bad", text: failed });
  return found;
}
