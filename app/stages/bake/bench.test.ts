import { expect, it } from "vitest";
import type { StageResult } from "../../../core/asset/asset";
import type { AssetState } from "../../shared/types";
import { bake } from "./bench";

const asset = {} as AssetState;
const result = (missed: number, findings: object[]) =>
  ({
    options: { rays: 32 },
    report: { missed, findings, maps: ["normal", "bent"] },
  }) as unknown as StageResult;
const gap = {
  kind: "missed",
  part: "glass",
  texels: 80,
  reason: "80 texels met no source",
  mend: "raise the ray distance to 4.4 mm",
  distance: 4.4,
};

it("names maps as people do, and tells what was missed against its limit", () => {
  const rows = bake.figures(asset, result(0.002, []), []);
  expect(rows[0].value).toBe("normal map, bent normals");
  const missed = rows.find(({ label }) => label === "Missed texels")!;
  expect(missed.state).toBe("bad");
});

it("a finding says its part, its reason and its mend, and bakes again with the rest as it was", () => {
  const [row] = bake.findings(asset, result(0.002, [gap]));
  expect(row).toMatchObject({
    tone: "bad",
    text: "glass: 80 texels met no source; raise the ray distance to 4.4 mm",
    parts: ["glass"],
    mend: { operation: "bake/maps", options: { rays: 32, distance: 4.4 } },
  });
});

it("what stays within the limit, or only has nothing to show, is no alarm", () => {
  const plain = { ...gap, kind: "nothing to show", part: "", distance: 0 };
  const rows = bake.findings(asset, result(0.0005, [gap, plain]));
  expect(rows.map(({ tone }) => tone)).toEqual(["warn", "warn"]);
  expect(rows[1]).not.toHaveProperty("parts");
  expect(rows[1]).not.toHaveProperty("mend");
});
