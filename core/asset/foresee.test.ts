import { describe, expect, it } from "vitest";
import { ballsInRows, sphere } from "../../tests/shapes";
import { faceCount } from "../mesh/mesh";
import { standIn } from "../reduce/operations/stand-in";
import { createAsset, createPart } from "./asset";
import { foresee } from "./foresee";
import { kneeWords } from "./knee";
import { plainContext } from "../base/context";
import { countParts } from "../survey/operations/count";
import { reduceToBudget } from "../reduce/operations/to-budget";
import { runOperation } from "../route";

const { balls, wall } = ballsInRows(30);
const asset = createAsset("rows", [
  createPart("balls", 0, { source: balls }),
  createPart("wall", 1, { source: wall }),
]);
const ahead = (budget: number) => foresee(asset, budget, plainContext());

describe("looking ahead", () => {
  it("knows below how many triangles shapes break, and which", () => {
    const { knee, breaking } = ahead(150);
    // Thirty balls can't be told apart with fewer than about ten triangles each.
    expect(knee).toBeGreaterThan(240);
    expect(knee).toBeLessThan(600);
    expect(breaking).toEqual(["balls"]);
    expect(ahead(2000)).toEqual({ knee, breaking: [] });
  });

  it("leaves locked parts and repeats out, and knows of nothing where nothing is left", () => {
    const locked = {
      ...asset,
      parts: asset.parts.map((part) => ({ ...part, locked: true })),
    };
    expect(foresee(locked, 150, plainContext())).toEqual({
      knee: null,
      breaking: [],
    });
  });

  it("counts what nobody sees for nothing, and what shapes stand for or is for the source only", async () => {
    const shut = createAsset("shut", [
      createPart("balls", 0, { source: balls }),
      createPart("wall", 1, { source: sphere(40, 60, 60) }),
    ]);
    expect(foresee(shut, 150, plainContext()).breaking).toEqual([]);
    const withBalls = (part: object) => ({
      ...asset,
      parts: asset.parts.map((each, i) => (i ? each : { ...each, ...part })),
    });
    const sourceOnly = new Uint8Array(faceCount(balls)).fill(1);
    const baked = withBalls({ source: { ...balls, sourceOnly } });
    expect(foresee(baked, 150, plainContext()).breaking).toEqual([]);
    const { asset: shaped } = await runOperation(
      standIn,
      asset,
      { parts: ["balls"], shape: "box" },
      plainContext(),
    );
    expect(shaped.parts[0].standIns.length).toBeGreaterThan(0);
    expect(foresee(shaped, 150, plainContext()).breaking).toEqual([]);
  });

  it("says before what reducing says after", async () => {
    const budget = 150;
    const brief = { ...asset.brief, triangles: budget };
    const survey = await runOperation(
      countParts,
      { ...asset, brief },
      {},
      plainContext(),
    );
    const { report } = await runOperation(
      reduceToBudget,
      asset,
      { triangles: budget, measure: false },
      plainContext(),
    );
    expect(survey.report.breaking).toEqual(report.breaking);
    expect(Number(survey.report.knee) / Number(report.knee)).toBeCloseTo(1, 1);
    const without = await runOperation(
      countParts,
      { ...asset, brief },
      { ahead: "never" },
      plainContext(),
    );
    expect(without.report.knee).toBeUndefined();
    const one = await runOperation(
      countParts,
      { ...asset, brief },
      { parts: ["balls"] },
      plainContext(),
    );
    expect(one.report.knee).toBeUndefined();
  });

  it("is put in words only where a budget lies under the knee", () => {
    expect(kneeWords({ knee: 400, breaking: [] }, 400)).toBeNull();
    expect(kneeWords({ knee: null }, 4)).toBeNull();
    expect(kneeWords({}, 4)).toBeNull();
    expect(kneeWords({ knee: 400, breaking: ["balls"] }, 150)).toBe(
      "below about 400 triangles shapes break, those of 1 part here, and the budget is 150: raise it, leave parts out, or use stand-in shapes",
    );
  });
});
