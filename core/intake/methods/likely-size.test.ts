import { expect, it } from "vitest";
import { intake } from "../../../app/stages/intake/bench";
import type { AssetState } from "../../../app/shared/types";
import { moved, sphere } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import { writeMeshFile } from "../../formats/index";
import { plainContext } from "../../base/context";
import { findOperation } from "../../operations";
import { describe, runOperation } from "../../route";
import { coarseStep, unlikelySize } from "./likely-size";

it("asks about sizes under 5 mm and over 30 m, with the unit that fits", () => {
  expect(unlikelySize([1, 2, 1])).toBeNull();
  expect(unlikelySize([0.005, 0, 0])).toBeNull();
  expect(unlikelySize([30, 1, 1])).toBeNull();
  expect(unlikelySize([])).toBeNull();
  expect(unlikelySize([40, 127, 20])).toEqual({
    size: 127,
    along: "high",
    unit: "centimetres",
    factor: 0.01,
  });
  expect(unlikelySize([1800, 2, 2])).toMatchObject({
    along: "wide",
    unit: "millimetres",
  });
  expect(unlikelySize([0.001, 0, 0.0012])).toMatchObject({
    along: "deep",
    unit: "metres",
    factor: 1000,
  });
});

it("the size that Intake shows follows when the asset is scaled, and a new asset takes the file's name", async () => {
  const mesh = sphere(8, 12, 60);
  const file = {
    name: "Mooring ring.obj",
    bytes: await writeMeshFile("a.obj", [{ name: "ring", mesh }]),
  };
  const run = (
    id: string,
    asset: ReturnType<typeof createAsset>,
    options = {},
  ) =>
    runOperation(findOperation(id), asset, options, {
      ...plainContext(),
      files: [file],
    });
  const { asset } = await run("intake/bring-in", createAsset("New asset"));
  expect(asset.name).toBe("Mooring ring");
  expect(
    unlikelySize(asset.results.intake!.report.sizeMetres as number[]),
  ).toMatchObject({ unit: "centimetres" });
  const { asset: small } = await run("intake/scale", asset, { factor: 0.01 });
  const size = small.results.intake!.report.sizeMetres as number[];
  expect(Math.max(...size)).toBeCloseTo(1.2, 1);
  const own = createAsset("Quay", [createPart("a", 0, { source: mesh })]);
  expect((await run("intake/bring-in", own)).asset.name).toBe("Quay");
  const named = await run("intake/bring-in", createAsset("Lamp"));
  expect(named.asset.name).toBe("Lamp");
});

it("warns of coordinates that have no digits left for the shape, until it is moved", async () => {
  expect(coarseStep(1e-4, 10)).toBeCloseTo(9.5e-7, 8);
  expect(coarseStep(1, 100)).toBeNull();
  expect(coarseStep(1, 1e6)).toBeCloseTo(0.0625, 6);
  expect(coarseStep(0, 3)).toBeNull();
  const far = moved(sphere(8, 12, 5e-5), 10, 0, 0);
  const asset = createAsset("speck", [createPart("a", 0, { source: far })]);
  const file = {
    name: "b.obj",
    bytes: await writeMeshFile("b.obj", [{ name: "a", mesh: far }]),
  };
  const context = { ...plainContext(), files: [file] };
  const run = async (at: typeof asset, id: string, options = {}) =>
    (await runOperation(findOperation(id), at, options, context)).asset;
  const rows = (at: typeof asset) =>
    intake
      .findings({ document: describe(at) } as AssetState, at.results.intake)
      .filter(({ mend }) => mend?.label === "Move to the origin");
  const read = await run(asset, "intake/bring-in");
  const [row] = rows(read);
  expect(row.text).toContain("10.0 m from the origin");
  expect(row.text).toContain("steps of 0.95 µm");
  const { operation, options } = row.mend!;
  expect(rows(await run(read, operation, options))).toEqual([]);
});
