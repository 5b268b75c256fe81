import { expect, it } from "vitest";
import type { StageResult } from "../../../core/asset/asset";
import type { AssetState } from "../../shared/types";
import { bake, isBakeWrong } from "./bench";

const assetWith = (part: object) =>
  ({ document: { parts: [part] } }) as unknown as AssetState;
const asset = assetWith({ source: {} });
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
    mend: {
      operation: "bake/maps",
      options: { rays: 32, distances: "glass = 4.4" },
    },
  });
  const [other] = bake.findings(asset, {
    ...result(0.002, [gap]),
    options: { distances: "cap = 2; glass = 3; lid=1 " },
  });
  expect(other.mend!.options).toEqual({
    distances: "cap = 2; lid = 1; glass = 4.4",
  });
});

it("islands that are older or not baked are wrong, and baked with the rest as it was", () => {
  const older = { ...gap, kind: "older", distance: 0 };
  expect(isBakeWrong(result(0, [older]).report)).toBe(true);
  expect(isBakeWrong(result(0, [{ ...older, kind: "not baked" }]).report)).toBe(
    true,
  );
  expect(isBakeWrong(result(0, [{ ...older, kind: "untrue" }]).report)).toBe(
    false,
  );
  expect(isBakeWrong(result(0.002, []).report)).toBe(true);
  const [row] = bake.findings(asset, result(0, [older]));
  expect(row).toMatchObject({
    tone: "bad",
    mend: { label: "Bake what is older", options: { rays: 32, leaveOut: [] } },
  });
});

it("maps that were tried small are wrong until they are baked in full", () => {
  const tried = { ...gap, kind: "tried", part: "", distance: 0 };
  expect(isBakeWrong(result(0, [tried]).report)).toBe(true);
  const [row] = bake.findings(asset, result(0, [tried]));
  expect(row).toMatchObject({
    tone: "bad",
    mend: { label: "Bake in full", options: { rays: 32 } },
  });
});

it("tells how true the look is", () => {
  const rows = (more: object) =>
    bake.figures(
      asset,
      {
        ...result(0, []),
        report: { ...result(0, []).report, ...more },
      } as StageResult,
      [],
    );
  const value = (label: string, more: object) =>
    rows(more).find((row) => row.label === label)?.value;
  const told = { angle: 1.234, angle95: 7.66 };
  expect(value("Look off, mean", told)).toBe("1.2°");
  expect(value("Look off, 19 of 20", told)).toBe("7.7°");
  expect(value("Look off, mean", {})).toBeUndefined();
});

it("tells which parts and which maps were baked where not all were", () => {
  const told = (baked: string[], bakedMaps: string[]) =>
    bake
      .figures(
        asset,
        {
          ...result(0, []),
          report: {
            ...result(0, []).report,
            ...{ baked, bakedMaps, counts: [{}, {}, {}] },
          },
        } as StageResult,
        [],
      )
      .find(({ label }) => label === "Baked this time")?.value;
  const all = ["a", "b", "c"];
  expect(told(all, ["normal", "bent"])).toBeUndefined();
  expect(told(["a"], ["normal", "bent"])).toBe("1 of 3 parts");
  expect(told(all, ["bent"])).toBe("bent normals");
  expect(told(["a"], ["bent"])).toBe("bent normals; 1 of 3 parts");
  expect(told([], [])).toBe("nothing: all stands");
});

it("what stays within the limit, or only has nothing to show, is no alarm", () => {
  const plain = { ...gap, kind: "nothing to show", part: "", distance: 0 };
  const rows = bake.findings(asset, result(0.0005, [gap, plain]));
  expect(rows.map(({ tone }) => tone)).toEqual(["warn", "warn"]);
  expect(rows[1]).not.toHaveProperty("parts");
  expect(rows[1]).not.toHaveProperty("mend");
});

it("without a source round edges can be baked, where there are UVs", () => {
  const bare = assetWith({ source: null, game: { streams: { uvs: {} } } });
  expect(bake.missing!(bare)).toBeNull();
  expect(bake.findings(bare, undefined)).toMatchObject([
    { tone: "warn", text: expect.stringContaining("give a radius") as string },
  ]);
  expect(bake.findings(asset, undefined)).toEqual([]);
  expect(bake.missing!(asset)?.stage).toBe("unwrap");
  expect(bake.missing!(assetWith({ source: null }))?.stage).toBe("intake");
});

it("tells how far the look jumps over all seams, and nothing where there are none", () => {
  const rowOf = (counts: object[]) => {
    const given = result(0, []);
    return bake
      .figures(asset, { ...given, report: { ...given.report, counts } }, [])
      .find(({ label }) => label === "Seam jump");
  };
  const counts = [
    { seams: { mean: 2, places: 30 } },
    { seams: { mean: 6, places: 10 } },
    {},
  ];
  expect(rowOf(counts)).toMatchObject({ value: "3.0°" });
  expect(rowOf([{}])).toBeUndefined();
  const seam = { ...gap, kind: "seam" };
  expect(isBakeWrong(result(0, [seam]).report)).toBe(false);
});
