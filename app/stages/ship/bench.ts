import { profileOf } from "../../../core/asset/profile";
import { PLAIN_NAMES } from "../../../core/ship/methods/names";
import type { Check } from "../../../core/ship/methods/check-list";
import { bytes, spaced } from "../../shared/figures";
import type { FigureRow, Finding } from "../../shared/figures";
import type { BenchPlan } from "../../shared/bench";
import { needGame, numbersOf } from "../../shared/bench";

const stateOf = ({ ok, stops }: Check): FigureRow["state"] =>
  ok ? "good" : stops ? "bad" : "warn";

export const ship: BenchPlan = {
  about: "Checked files in one archive.",
  main: "ship/archive",
  defaults: ({ document }) => ({ ...profileOf(document.brief).ship }),
  // How things are called is the profile's.
  hide: Object.keys(PLAIN_NAMES),
  more: ["ship/project", "ship/turntable"],
  missing: needGame,
  figures(asset, { report }): FigureRow[] {
    const n = numbersOf(report);
    const files =
      (report.files as { name: string; bytes: number }[] | undefined) ?? [];
    const checks = (report.checks as Check[] | undefined) ?? [];
    return [
      ...checks.map((check) => ({
        label: check.name,
        value: check.figure,
        // What is to be nothing says so twice otherwise.
        ...(check.limit !== check.figure && { limit: check.limit }),
        state: stateOf(check),
      })),
      { label: "Vertices, as an engine counts", value: spaced(n("vertices")) },
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
    const { failed, waived } = result?.report ?? {};
    if (typeof failed === "string")
      found.unshift({
        tone: "bad",
        text: failed,
        mend: {
          label: "Ship all the same",
          operation: "ship/archive",
          options: { ...result!.options, insist: true },
        },
      });
    if (Array.isArray(waived))
      found.unshift({
        tone: "bad",
        text: `Shipped in spite of: ${waived.join("; ")}`,
      });
    if (!asset.document.maps.length)
      found.push({
        tone: "warn",
        text: "No maps are baked: the archive will hold none",
      });
    return found;
  },
};
