import { expect, it } from "vitest";
import { revolved } from "../../../tests/solids";
import { createAsset, createPart } from "../../asset/asset";
import { run } from "../../../tests/one-part";

/** A heavy disc with a rounded rim at its foot, whose underside has a vertex in the middle. */
const disc = () =>
  revolved(
    [
      [0.001, 0],
      [0.27, 0],
      [0.276, 0.0004],
      [0.281, 0.0016],
      [0.284, 0.004],
      [0.284, 0.06],
      [0.001, 0.4],
    ],
    96,
  );

it("a round foot with a rounded rim stands on its hull, however few vertices that has", async () => {
  const asset = createAsset("disc", [createPart("disc", 0, { game: disc() })]);
  for (const vertices of [32, 64]) {
    const made = await run("collide/hulls", asset, { maxHulls: 1, vertices });
    const { positions } = made.asset.parts[0].hulls[0];
    const foot = positions.filter((y, i) => i % 3 === 1 && y < 0.002);
    expect(foot.length).toBeGreaterThan(3);
    expect(new Set(foot).size).toBe(1);
    expect(positions.length / 3).toBeLessThanOrEqual(vertices);
    const { report } = await run("collide/drop", made.asset);
    expect(report).toMatchObject({ stands: true, fellThrough: false });
    expect(Number(report.restSeconds)).toBeLessThan(5);
  }
  // Never by more than a shape may stand off.
  const exact = await run("collide/hulls", asset, {
    maxHulls: 1,
    vertices: 32,
    error: 0.1,
  });
  const { positions } = exact.asset.parts[0].hulls[0];
  expect(positions.some((y, i) => i % 3 === 1 && y > 1e-4 && y < 0.005)).toBe(
    true,
  );
});
