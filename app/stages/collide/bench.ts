import type { Finding } from "../../shared/figures";
import { length, spaced, volume } from "../../shared/figures";
import type { BenchPlan } from "../../shared/bench";
import { dropFindings, dropRows } from "./drop-figures";
import { hasGame, hasSource, numbersOf } from "../../shared/bench";

export const collide: BenchPlan = {
  about: "What the engine bumps into.",
  main: "collide/hulls",
  more: ["collide/drop"],
  missing: (asset) =>
    hasGame(asset) || hasSource(asset)
      ? null
      : { text: "There is no mesh yet.", stage: "intake" },
  figures(asset, { report }) {
    const n = numbersOf(report);
    const hulls = asset.document.parts.reduce(
      (sum, part) => sum + part.hulls.length,
      0,
    );
    return [
      {
        label: "Hulls",
        value: spaced(hulls),
        limit: `≤ ${asset.document.brief.hulls}`,
        state: hulls > asset.document.brief.hulls ? "bad" : "good",
      },
      { label: "Vertices", value: spaced(n("vertices")) },
      { label: "Volume added", value: volume(n("added")) },
      {
        label: "Volume, of the meshes'",
        value: n("volumeRatio")
          ? `${n("volumeRatio").toFixed(2)} ×`
          : "open meshes",
      },
      { label: "Stands off at most", value: length(n("maxDistance")) },
      { label: "Stands out of them", value: length(n("outside")) },
      ...dropRows(asset.document),
    ];
  },
  findings(asset, result): Finding[] {
    const flat = (result?.report.flat as string[] | undefined) ?? [];
    const found: Finding[] = flat.map((part) => ({
      tone: "warn",
      text: `${part} is flat: no hull holds it, a box does`,
      parts: [part],
    }));
    const hulls = asset.document.parts.reduce(
      (sum, part) => sum + part.hulls.length,
      0,
    );
    found.push(...dropFindings(asset.document));
    const { brief } = asset.document;
    if (hulls > brief.hulls)
      found.push({
        tone: "bad",
        text:
          typeof result?.report.failed === "string"
            ? result.report.failed
            : `${hulls} hulls, ${brief.hulls} are allowed`,
        mend: {
          label: "Join",
          operation: "collide/hulls",
          options: { kind: "hulls" },
        },
      });
    return found;
  },
};
