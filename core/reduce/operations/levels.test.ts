import { expect, it } from "vitest";
import { run } from "../../../tests/one-part";
import { cube, moved, sphere } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import { triangleCount } from "../../mesh/mesh";

it("levels keep to what is wanted over all parts, though one cannot be made as light as its share", async () => {
  const asset = createAsset("Pair", [
    createPart("ball", 0, { game: sphere(20, 24) }),
    createPart("box", 1, { game: moved(cube(), 3, 0, 0) }),
    createPart("other", 2, { game: moved(cube(), 6, 0, 0) }),
  ]);
  const { asset: made, report } = await run("reduce/levels", asset, {
    levels: "400, 120, 60",
  });
  const told = report.levels as { wanted: number; triangles: number }[];
  expect(told.map(({ wanted }) => wanted)).toEqual([400, 120, 60]);
  told.forEach(({ wanted, triangles }, l) => {
    const counted = made.parts.reduce(
      (sum, { levels }) => sum + triangleCount(levels[l]),
      0,
    );
    expect(triangles).toBe(counted);
    expect(counted).toBeLessThanOrEqual(wanted);
  });
  // What the boxes take too much the ball gives, no more.
  expect(told[1].triangles).toBeGreaterThan(108);
});
