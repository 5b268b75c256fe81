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

/** A tall thing with wide rings, of which a hull of few vertices takes no notice that it stands on a narrow face. */
const lamp = () =>
  revolved(
    [
      [0.001, 0],
      [0.075, 0],
      [0.082, 0.001],
      [0.087, 0.004],
      [0.09, 0.01],
      [0.09, 0.1],
      [0.05, 0.14],
      [0.05, 0.25],
      [0.1, 0.28],
      [0.02, 0.33],
      [0.001, 0.33],
    ],
    128,
  );

it("what stands on a face does not lean, as its hull has corners of that face", async () => {
  const asset = createAsset("lamp", [createPart("lamp", 0, { game: lamp() })]);
  const made = await run("collide/hulls", asset, { maxHulls: 1, vertices: 24 });
  const { positions } = made.asset.parts[0].hulls[0];
  const feet: number[] = [];
  for (let i = 0; i < positions.length; i += 3)
    if (positions[i + 1] === 0)
      feet.push(Math.hypot(positions[i], positions[i + 2]));
  expect(positions.length / 3).toBeLessThanOrEqual(24);
  expect(feet.filter((far) => far > 0.07).length).toBeGreaterThan(4);
  const { report } = await run("collide/drop", made.asset);
  const [placed] = report.trials as { tilt: number }[];
  expect(placed.tilt).toBeLessThan(0.1);
});
