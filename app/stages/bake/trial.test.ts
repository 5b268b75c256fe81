import { expect, it } from "vitest";
import type { Field } from "../../../core/asset/operation";
import type { AssetDocument } from "../../../core/asset/document";
import type { BakeTrialFigures } from "../../shared/messages";
import { bakeToTry, trialRows, trialWords } from "./trial";

const field = (name: string, otherwise: unknown): Field => ({
  ...{ name, kind: "number", label: name, help: name, default: otherwise },
});
const bake = {
  ...{ id: "bake/maps", stage: "bake", title: "", about: "" },
  ...{ runs: "heavy", makesResult: true },
  fields: [field("distance", 0), field("rays", 64), field("round", 0)],
} as const;
const document = {
  results: { bake: { options: { rays: 16, round: 1 } } },
} as unknown as AssetDocument;
const figures: BakeTrialFigures = {
  ...{ width: 512, height: 512, missed: 2e-5, overhanging: 0, last: false },
  ...{ full: 2048, light: false, milliseconds: 400 },
};

it("a trial takes what was typed over what the last bake had, over what is plain", () => {
  const typed = { "bake/maps": { round: { value: 4, base: 1 } } };
  expect(bakeToTry([bake as never], document, typed)).toEqual({
    ...{ distance: 0, rays: 16, round: 4 },
  });
  const noNumber = { "bake/maps": { round: { text: "4 x", base: 1 } } };
  expect(bakeToTry([bake as never], document, noNumber).round).toBe(1);
  expect(bakeToTry([], document, typed)).toEqual({});
});

it("a trial tells its size, what it missed against the limit, and how long it took", () => {
  expect(trialRows(figures).map(({ label }) => label)).toEqual([
    ...["Shown", "Missed texels", "After"],
  ]);
  const states = [2e-5, 0.01].map(
    (missed) => trialRows({ ...figures, missed })[1].state,
  );
  expect(states).toEqual(["good", "bad"]);
  const light = trialRows({ ...figures, light: true, overhanging: 0.2 });
  expect(light.map(({ label }) => label)).toEqual(["Shown", "After"]);
  const past = trialRows({ ...figures, overhanging: 0.2 });
  expect(past[2].label).toBe("Past edges");
});

it("a trial says whether finer ones follow, what they come from, and how fine the bake itself is", () => {
  const words = (more: Partial<BakeTrialFigures>) =>
    trialWords({ ...figures, ...more });
  expect(trialWords(null)).toMatch(/sources/);
  expect(words({})).toBe("Finer ones follow.");
  expect(words({ light: true })).toMatch(/^From lighter .* follow/);
  expect(words({ width: 2048, last: true })).toBe(
    "As fine as the bake itself.",
  );
  expect(words({ width: 2048, full: 8192, last: true })).toMatch(/4 × as fine/);
  expect(words({ last: true, light: true })).toMatch(/too heavy/);
});
