import { describe, expect, it } from "vitest";
import { run } from "../../../tests/one-part";
import { cube, moved, scaled, sphere } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import type { Hull, HullKind } from "../../mesh/hull";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { FRAMES } from "./drop-run";
import { dropTest, recordDrop } from "./drop-test";
import { TRIALS } from "./trials";

const hull = (mesh: Mesh, kind: HullKind = "convex"): Hull => ({
  ...{ name: "thing_hull_1", kind },
  positions: mesh.positions,
  triangles: triangulate(mesh).vertices,
});

const test = (hulls: Hull[], options = {}) =>
  dropTest(hulls, { slope: 15, friction: 0.6, ...options }, () => {});

/** A box so wide, high and deep. */
const boxOf = (...size: number[]): Mesh => {
  const mesh = cube();
  return {
    ...mesh,
    positions: mesh.positions.map((x, i) => (x * size[i % 3]) / 2),
  };
};

/** A box twice as wide as it is high. */
const box = () => moved(boxOf(2, 1, 2), 0, 3, 0);

describe("the drop test", () => {
  it.each([0.01, 1, 40])("tells a box %f m wide alike", async (size) => {
    const mesh = scaled(box(), size / 2);
    const found = await test([hull(mesh, "box")]);
    expect(found.stands).toBe(true);
    expect(found.fellThrough).toBe(false);
    const placed = found.trials.find(({ name }) => name === "placed")!;
    expect(placed.tilt).toBeLessThan(0.5);
    expect(placed.restSeconds).toBeLessThan(0.5);
    expect(found.penetrationMetres).toBeLessThan(0.002);
    for (const { name, restSeconds } of found.trials)
      if (name !== "steps") expect(restSeconds, name).not.toBeNull();
  });

  it("sees a pillar that is pushed fall, and a ball that rolls on", async () => {
    const pillar = await test([hull(boxOf(0.2, 2, 0.2), "box")]);
    const pushed = pillar.trials.find(({ name }) => name === "pushed")!;
    expect(pushed.tilt).toBeGreaterThan(60);
    expect(pillar.stands).toBe(true);
    const ball = await test([hull(scaled(sphere(), 0.2), "sphere")]);
    const far = (name: string) => {
      return ball.trials.find((trial) => trial.name === name)!.moved;
    };
    expect(far("rolled")).toBeGreaterThan(0.3);
    expect(far("placed")).toBeLessThan(0.05);
  });

  it("sees what stands on a point tip over", async () => {
    const cone = boxOf(0.4, 2, 0.4);
    const positions = cone.positions.slice();
    // Its foot drawn into a point aside.
    for (let i = 0; i < positions.length; i += 3)
      if (positions[i + 1] < 0) {
        positions[i] = 0.15 + 0.001 * positions[i];
        positions[i + 2] *= 0.001;
      }
    const found = await test([hull({ ...cone, positions })]);
    expect(found.stands).toBe(false);
  });

  it("slides on ice where it holds on stone", async () => {
    const slid = async (friction: number) => {
      const { trials } = await test([hull(box(), "box")], { friction });
      return trials.find(({ name }) => name === "slope")!.moved;
    };
    expect(await slid(0.02)).toBeGreaterThan(4 * (await slid(0.9)));
  });

  it("gives the same twice, and the middle of a box as its centre of mass", async () => {
    const hulls = [hull(moved(cube(), 2, 5, -1), "box")];
    const found = await test(hulls);
    expect(await test(hulls)).toEqual(found);
    [2, 5, -1].forEach((x, k) =>
      expect(found.centreOfMass[k]).toBeCloseTo(x, 2),
    );
  });

  it("is an operation that keeps its report as long as the hulls are the same", async () => {
    const part = createPart("box", 0, { game: box() });
    const asset = createAsset("Box", [part]);
    await expect(run("collide/drop", asset)).rejects.toThrow(
      /no hulls to drop/,
    );
    const made = await run("collide/hulls", asset, { kind: "box" });
    const { asset: tried, report } = await run("collide/drop", made.asset);
    expect(report).toMatchObject({ stands: true, troubles: [] });
    expect(tried.parts).toEqual(made.asset.parts);
    expect(tried.reports["collide/drop"].report).toMatchObject({
      stands: true,
    });
  });
});

it("is recorded as it is told, the same each time, from where it began to where it rests", async () => {
  const given = [hull(box(), "box")];
  const options = { slope: 15, friction: 0.6 };
  const figures = await dropTest(given, options, () => {});
  for (const name of TRIALS) {
    const { trial, poses, bodies, ground, foot } = await recordDrop(
      given,
      options,
      name,
      () => {},
    );
    expect(trial).toEqual(figures.trials.find((each) => each.name === name));
    expect(bodies).toBe(name === "stacked" ? 2 : 1);
    expect(poses).toHaveLength(7 * bodies * 8 * FRAMES);
    expect(poses.every(Number.isFinite)).toBe(true);
    expect(foot).toHaveLength(3);
    expect(ground.blocks.length > 0).toBe(name === "steps");
    expect(ground.lean > 0).toBe(name === "slope");
    const again = await recordDrop(given, options, name, () => {});
    expect(again.poses).toEqual(poses);
    if (trial.restSeconds === null) continue;
    // At rest nothing moves from frame to frame.
    const last = poses.subarray(-7 * bodies);
    const before = poses.subarray(-14 * bodies, -7 * bodies);
    last.forEach((x, i) => expect(Math.abs(x - before[i])).toBeLessThan(1e-3));
  }
});
