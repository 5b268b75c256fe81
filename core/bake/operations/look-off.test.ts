import { expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import { ANGLE_STEPS } from "../methods/status";

const context = plainContext(KERNELS);
const SIZE = 128;

/** A bumpy ball and its coarse game mesh. */
function ball(): Asset {
  const source = sphere(
    40,
    50,
    0.5,
    (a, t) => 0.01 * Math.sin(5 * a) * Math.cos(t),
  );
  const [game] = laidOn([sphere(10, 14, 0.5)], squareSheet(SIZE));
  const asset = createAsset("ball", [createPart("ball", 0, { source, game })]);
  return { ...asset, brief: { ...asset.brief, sheetSize: SIZE } };
}
const run = (id: string, asset: Asset, options: object = {}) =>
  runOperation(findOperation(id), asset, options, context);
/** Mean of the angles on the islands, degrees, of the upper or lower half of the sheet or of all. */
function meanOf({ maps }: Asset, from = 0, to = 1) {
  const { pixels, width, height } = maps.find(({ kind }) => kind === "angle")!;
  const part = pixels.slice(width * height * from, width * height * to);
  const on = [...part].filter((pixel) => pixel > 0);
  expect(on.length).toBeGreaterThan(0.2 * part.length);
  return on.reduce((sum, pixel) => sum + pixel, 0) / on.length / ANGLE_STEPS;
}

it("is what is measured of the parts, place by place, and grows where the map is wrong", async () => {
  const baked = await run("bake/maps", ball(), { ao: false, samples: 4 });
  const { asset, report } = await run("bake/look-off", baked.asset);
  const angle = Number(baked.report.angle);
  expect(Number(report.mean)).toBeCloseTo(angle, 1);
  expect(Math.abs(meanOf(asset) - angle)).toBeLessThan(0.5);
  expect(report.parts).toMatchObject([{ part: "ball" }]);
  expect(asset.maps.filter(({ kind }) => kind === "angle")).toHaveLength(1);
  // Flat in the upper half of the sheet: there the look is off by what the map no longer says.
  const flat = asset.maps.map((map) => {
    if (map.kind !== "normal") return map;
    const pixels = map.pixels.slice();
    for (let i = 0; i < pixels.length / 2; i += 3)
      pixels.set([32768, 32768, 65535], i);
    return { ...map, pixels };
  });
  const wrong = (await run("bake/look-off", { ...asset, maps: flat })).asset;
  expect(meanOf(wrong, 0, 0.5)).toBeGreaterThan(meanOf(asset, 0, 0.5) + 3);
  expect(meanOf(wrong, 0.5)).toBeCloseTo(meanOf(asset, 0.5), 5);
  expect(wrong.maps.filter(({ kind }) => kind === "angle")).toHaveLength(1);
});

it("asks often whether it is to go on, within one part too", async () => {
  const { asset } = await run("bake/maps", ball(), { ao: false, samples: 1 });
  let asked = 0;
  await runOperation(
    findOperation("bake/look-off"),
    asset,
    {},
    {
      ...context,
      check: () => void asked++,
    },
  );
  const faces = asset.parts[0].game!.faceStarts.length - 1;
  expect(asked).toBeGreaterThan(faces / 100);
  expect(asked).toBeGreaterThan(3);
});

it("goes with the maps that it was measured of, makes nothing stale, and needs a normal map", async () => {
  await expect(run("bake/look-off", ball())).rejects.toThrow(
    "there is no normal map yet: bake one first",
  );
  const options = { ao: false, samples: 1 };
  const baked = await run("bake/maps", ball(), options);
  const { asset } = await run("bake/look-off", baked.asset);
  expect(asset.results).toEqual(baked.asset.results);
  const again = await run("bake/maps", asset, { ...options, green: "down" });
  expect(again.asset.maps.some(({ kind }) => kind === "angle")).toBe(false);
});
