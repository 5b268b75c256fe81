import { expect, it } from "vitest";
import {
  DEFAULT_BRIEF,
  createAsset,
  createPart,
} from "../../../core/asset/asset";
import type { StageResult } from "../../../core/asset/asset";
import { inputsOf } from "../../../core/asset/stale";
import { plainContext } from "../../../core/base/context";
import { JUDGED, judgeAsset } from "../../../core/reduce/operations/judge";
import { findOperation } from "../../../core/operations";
import { describe as documentOf, runOperation } from "../../../core/route";
import { cube } from "../../../tests/shapes";
import type { AssetState } from "../../shared/types";
import { briefOptions } from "../intake/brief-options";
import { reduce } from "./bench";

const NAMES = ["kept", "dropped", "source only"];

/** An asset of three parts, of which one has a game mesh, after a reduction with a report. */
function state(
  report: object | null,
  survey: object | null = null,
  toldOf: Record<string, string> = {},
): AssetState {
  const asset = createAsset(
    "set",
    NAMES.map((name, i) =>
      createPart(name, i, { source: cube(), game: i ? null : cube() }),
    ),
  );
  const result = (own: object): StageResult => ({
    operation: "reduce/to-budget",
    options: { symmetry: "find" },
    report: { ...own },
    headline: "",
    madeFrom: {},
    toldOf,
  });
  const document = documentOf({
    ...asset,
    brief: { ...DEFAULT_BRIEF, triangles: 100 },
    results: {
      ...(report && { reduce: result(report) }),
      ...(survey && { survey: result(survey) }),
    },
  });
  return { document } as AssetState;
}
const rowsOf = (at: AssetState) => reduce.findings(at, undefined);
const curve = { triangles: [], rms: [] };

it("says of parts that were worked and got nothing that they are too small, with a shape at hand", () => {
  const parts = [
    { part: "kept", curve },
    { part: "dropped", curve },
    { part: "source only", curve: null },
  ];
  const rows = rowsOf(state({ budget: 100, parts }));
  expect(rows).toHaveLength(1);
  expect(rows[0]).toMatchObject({
    parts: ["dropped"],
    mend: { operation: "reduce/stand-in", options: { parts: ["dropped"] } },
  });
});

/** What a survey foresaw of the budget that `state` has. */
const FORESEEN = {
  knee: 400,
  breaking: ["dropped"],
  kneeFor: 100,
};

it("tells no more what Survey foresaw once that hangs on something else, and of another budget only the knee", () => {
  const painted = { "painted density": "other" };
  expect(rowsOf(state(null, FORESEEN, painted))).toEqual([]);
  const [row] = rowsOf(state(null, { ...FORESEEN, kneeFor: 90 }));
  expect(row.text).toContain("400");
  expect(row).not.toHaveProperty("parts");
});

it("says what Survey foresaw until something is reduced, and three mends for it", () => {
  const survey = { ...FORESEEN, breaking: ["dropped", "gone since"] };
  const [row, ...rest] = rowsOf(state(null, survey));
  expect(rest).toEqual([]);
  expect(row.text).toContain("those of 1 part here, and the budget is 100");
  expect(row.mend).toMatchObject({
    operation: "intake/brief",
    options: { triangles: 400, padding: DEFAULT_BRIEF.padding },
  });
  expect(row.others!.map(({ operation }) => operation)).toEqual([
    "reduce/stand-in",
    "survey/source-only",
  ]);
  expect(row.others![1].options).toEqual({ faces: ["dropped:0-5"], on: true });
});

it("says after reducing what broke, and what another brief would break", () => {
  const report = { knee: 400, breaking: ["dropped"], parts: [] };
  const same = rowsOf(state({ ...report, budget: 100 }));
  expect(same).toHaveLength(1);
  expect(same[0].mend).toMatchObject({ operation: "reduce/to-budget" });
  const before = rowsOf(state({ ...report, budget: 500 }));
  expect(before).toHaveLength(1);
  expect(before[0].mend).toMatchObject({ operation: "intake/brief" });
  expect(rowsOf(state({ ...report, knee: 90, budget: 100 }))).toEqual([]);
});

it("takes parts that have got shapes since for seen to", () => {
  const at = state(null, FORESEEN);
  const shaped = {
    document: {
      ...at.document,
      parts: at.document.parts.map((part) =>
        part.name === "dropped" ? { ...part, standIns: [{}] } : part,
      ),
    },
  } as AssetState;
  const [row] = rowsOf(shaped);
  expect(row.parts).toBeUndefined();
  expect(row.others).toEqual([]);
});

it("raises a brief and leaves the rest of it as it is", async () => {
  const brief = {
    ...DEFAULT_BRIEF,
    triangles: 100,
    levels: [60, 20],
    sheetSize: 512,
    sheetHeight: 256,
    texelsPerMetre: 700,
  };
  const asset = { ...createAsset("set"), brief };
  const { asset: same } = await runOperation(
    findOperation("intake/brief"),
    asset,
    briefOptions(documentOf(asset)),
    plainContext(),
  );
  expect(same.brief).toEqual(brief);
});

it("says what was far smaller than a triangle, leads there, and keeps it where that is wanted", () => {
  const places = [{ part: "kept", at: [0, 1, 0], radius: 0.1 }];
  const tooSmall = { pieces: 1, handles: 12, places };
  const [row, ...rest] = rowsOf(state({ budget: 90, parts: [], tooSmall }));
  expect(rest).toEqual([]);
  expect(row).toMatchObject({ tone: "note", places });
  expect(row.text).toMatch(/^1 loose piece and 12 bridges and tunnels far/);
  // What was chosen before is chosen again.
  expect(row.mend!.options).toEqual({ symmetry: "find", smallest: true });
  const none = { pieces: 0, handles: 0, places: [] };
  expect(rowsOf(state({ budget: 90, parts: [], tooSmall: none }))).toEqual([]);
});

it("says what stands for parts that would break, and reduces them anyway where that is wanted", () => {
  const shapes = [{ part: "kept", shape: "box", triangles: 12 }];
  const report = { budget: 90, parts: [{ part: "gone", curve: {} }] };
  const rows = rowsOf(
    state({ ...report, unbroken: { shapes, baked: ["gone"] } }),
  );
  expect(rows).toHaveLength(1);
  expect(rows[0]).toMatchObject({
    tone: "note",
    text: "simple shapes stand for kept, gone is only baked: reduced to so few triangles they would break",
    parts: ["kept", "gone"],
  });
  expect(rows[0].mend!.options).toEqual({ symmetry: "find", broken: true });
  expect(
    rowsOf(
      state({ ...report, parts: [], unbroken: { shapes: [], baked: [] } }),
    ),
  ).toEqual([]);
});

it("raises a budget under the knee with what else was chosen", () => {
  const [row] = rowsOf(
    state({ budget: 90, parts: [], knee: 700, breaking: ["kept"] }),
  );
  expect(row.mend).toMatchObject({
    label: "Raise to 700",
    operation: "reduce/to-budget",
    options: { symmetry: "find", triangles: 700 },
  });
});

it("tells how far meshes are off only as long as they are those that were judged", () => {
  const asset = createAsset("set", [
    createPart("kept", 0, { source: cube(), game: cube() }),
  ]);
  const report = { ...judgeAsset(asset), triangles: 12, budget: 100 };
  const result: StageResult = {
    operation: "reduce/to-budget",
    options: {},
    report,
    headline: "",
    madeFrom: {},
    toldOf: inputsOf(JUDGED, documentOf(asset)),
  };
  const labels = (at: typeof asset, results = { reduce: result }) => {
    const document = documentOf({ ...at, results });
    return reduce
      .figures({ document } as AssetState, result, [])
      .map(({ label, value }) => `${label}: ${value}`);
  };
  expect(labels(asset).join()).toContain("Distance, rms");
  const stretched = {
    ...cube(),
    positions: cube().positions.map((x) => 2 * x),
  };
  const byHand = {
    ...asset,
    parts: asset.parts.map((part) => ({ ...part, game: stretched })),
  };
  expect(labels(byHand)).toContain("Distance: not judged as it is");
  expect(labels(byHand).join()).not.toContain("rms");
  // Judging it again is told in the place of what reducing measured.
  const judged = {
    ...result,
    report: { ...judgeAsset(byHand) },
    madeFrom: inputsOf(JUDGED, documentOf(byHand)),
  };
  const again = { ...byHand, reports: { "reduce/judge": judged } };
  expect(labels(again).join()).toContain("Distance, rms");
});
