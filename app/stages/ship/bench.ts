import { bytes, spaced } from "../../shared/figures";
import type { FigureRow, Finding } from "../../shared/figures";
import type { BenchPlan } from "../../shared/bench";
import { needGame, numbersOf, verticesRow } from "../../shared/bench";

interface Check {
  errors: number;
  warnings: number;
}

export const ship: BenchPlan = {
  about: "Checked files in one archive.",
  main: "ship/archive",
  more: [],
  missing: needGame,
  figures(asset, { report }): FigureRow[] {
    const n = numbersOf(report);
    const check = report.validator as Check | undefined;
    const files =
      (report.files as { name: string; bytes: number }[] | undefined) ?? [];
    return [
      {
        label: "Triangles",
        value: spaced(n("triangles")),
        limit: `≤ ${spaced(asset.document.brief.triangles)}`,
        state: n("triangles") > asset.document.brief.triangles ? "bad" : "good",
      },
      verticesRow(asset, n("vertices")),
      {
        label: "Validator errors",
        value: String(check?.errors ?? 0),
        limit: "0",
        state: check?.errors ? "bad" : "good",
      },
      { label: "Validator warnings", value: String(check?.warnings ?? 0) },
      { label: "Archive", value: bytes(n("archiveBytes")) },
      ...files.map((file) => ({
        label: file.name,
        value: bytes(file.bytes),
      })),
    ];
  },
  findings(asset, result): Finding[] {
    const old = asset.standing
      .filter(({ stage, state }) => state === "stale" && stage !== "ship")
      .map(({ stage }) => stage);
    const found: Finding[] = old.length
      ? [
          {
            tone: "warn",
            text: `${old.join(", ")} ${old.length === 1 ? "is" : "are"} stale: what is shipped now is not what the brief says`,
          },
        ]
      : [];
    if (typeof result?.report.failed === "string")
      found.unshift({ tone: "bad", text: result.report.failed });
    if (!asset.document.maps.length)
      found.push({
        tone: "warn",
        text: "No maps are baked: the archive will hold none",
      });
    return found;
  },
};
