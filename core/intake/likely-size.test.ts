import { expect, it } from "vitest";
import { sphere } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { writeMeshFile } from "../formats/index";
import { plainContext } from "../operation";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import { unlikelySize } from "./likely-size";

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
