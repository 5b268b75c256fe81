import { describe, expect, it } from "vitest";
import { cube, moved, sphere, torus } from "../tests/shapes";
import type { Asset } from "./asset/asset";
import { createAsset, createPart } from "./asset/asset";
import { triangleCount } from "./mesh/mesh";
import { CancelledError } from "./base/errors";
import { plainContext } from "./base/context";
import { findOperation, KERNELS } from "./operations";
import { describe as describeAsset, runOperation, staleStages } from "./route";
import { stageStates } from "./asset/stale";
import { nextStep, runRoute } from "./run-route";

const context = plainContext(KERNELS);
const small = (asset: Asset, triangles = 120): Asset => ({
  ...asset,
  brief: { ...asset.brief, triangles, sheetSize: 64, padding: 2 },
});
const fresh = () =>
  small(
    createAsset("buoy", [
      createPart("ball", 0, { source: sphere(20, 24) }),
      createPart("box", 1, { source: moved(cube(), 3, 0, 0) }),
    ]),
  );
async function go(asset: Asset, on = context) {
  const told: string[] = [];
  const files: string[] = [];
  const ends: boolean[] = [];
  const done = await runRoute(asset, on, {
    begins: (stage) => told.push(stage),
    async made(result, _, last) {
      files.push(...(result.files ?? []).map(({ name }) => name));
      ends.push(last);
    },
  });
  return { ...done, told, files, ends };
}
const stateOf = (asset: Asset, stage: string) =>
  stageStates(describeAsset(asset)).find((each) => each.stage === stage)!.state;

describe("the route", () => {
  it("takes a new asset from its source to an archive, inside the brief", async () => {
    const { asset, ran, passed, told, files, ends } = await go(fresh());
    expect(ran).toEqual([
      "survey",
      "reduce",
      "edges",
      "unwrap",
      "bake",
      "collide",
      "ship",
    ]);
    expect(told).toEqual(ran);
    expect(ends).toEqual([false, false, false, false, false, false, true]);
    expect(passed).toEqual([]);
    expect(files).toEqual(["buoy.zip"]);
    const triangles = asset.parts.reduce(
      (sum, { game }) => sum + triangleCount(game!),
      0,
    );
    expect(triangles).toBeLessThanOrEqual(120);
    expect(asset.maps.length).toBeGreaterThan(0);
    expect(staleStages(asset)).toEqual([]);
    // Done once, there is nothing left to do.
    expect(nextStep(asset, null).step).toBeNull();
    expect((await go(asset)).ran).toEqual([]);
  });

  it("redoes what is stale with the options it had, and leaves what is current", async () => {
    const begun = (
      await runOperation(
        findOperation("reduce/to-budget"),
        fresh(),
        { evenness: 0.5 },
        context,
      )
    ).asset;
    const { ran } = await go(begun);
    expect(ran).not.toContain("reduce");
    const { asset } = await go(small(begun, 80));
    expect(asset.results.reduce!.options).toMatchObject({ evenness: 0.5 });
    expect(stateOf(asset, "reduce")).toBe("current");
  });

  it("keeps game meshes that came along, and UVs of those", async () => {
    const game = sphere(6, 8);
    const own = { ...game, uvs: new Float32Array(2 * game.corners.length) };
    for (let i = 0; i < own.uvs.length; i++) own.uvs[i] = (i % 7) / 7;
    const came = small(
      createAsset("ball", [
        createPart("ball", 0, { source: sphere(20, 24), game: own }),
      ]),
    );
    const { ran, passed, asset } = await go(came);
    expect(ran).toEqual(["survey", "edges", "bake", "collide", "ship"]);
    expect(passed.map(({ stage }) => stage)).toEqual(["reduce", "unwrap"]);
    expect(asset.parts[0].game!.uvs).toEqual(own.uvs);
    const partly = small(
      createAsset("both", [
        createPart("ball", 0, { source: sphere(20, 24), game }),
        createPart("box", 1, { source: moved(cube(), 3, 0, 0) }),
      ]),
    );
    const after = await go(partly);
    expect(after.ran).toContain("reduce");
    expect(after.asset.parts[0].game!.positions).toEqual(game.positions);
    expect(after.asset.parts.map(({ locked }) => locked)).toEqual([
      false,
      false,
    ]);
  });

  it("stops where a budget can't be kept, and says so", async () => {
    const told: string[] = [];
    const ring = createAsset("ring", [
      createPart("ring", 0, { source: torus(30, 16) }),
    ]);
    await expect(
      runRoute(small(ring, 8), context, {
        begins: () => {},
        async made({ report }, { stage }, last) {
          told.push(`${stage} ${last} ${typeof report.failed}`);
        },
      }),
    ).rejects.toThrow(/^Reduce stopped the route: /);
    expect(told.at(-1)).toBe("reduce true string");
  });

  it("ends at once when it is cancelled, with what was made before", async () => {
    const made: string[] = [];
    let at = "";
    const cancelling = {
      ...context,
      check() {
        if (at === "unwrap") throw new CancelledError();
      },
    };
    await expect(
      runRoute(fresh(), cancelling, {
        begins: (stage) => (at = stage),
        async made(_, { stage }) {
          made.push(stage);
        },
      }),
    ).rejects.toThrow(CancelledError);
    expect(made).toEqual(["survey", "reduce", "edges"]);
  });

  it("has nothing to do without a mesh", async () => {
    const { ran, passed } = await go(createAsset("nothing", []));
    expect(ran).toEqual([]);
    expect(passed.length).toBe(7);
  });

  it("tells a share that only grows", async () => {
    const shares: number[] = [];
    const steps: string[] = [];
    const words = new Set<string>();
    await go(fresh(), {
      ...context,
      progress(share, step) {
        shares.push(share);
        steps.push(step);
        words.add(step.split(":")[0]);
      },
    });
    const drops = shares.flatMap((s, i) =>
      i && s < shares[i - 1] - 0.005 ? [[shares[i - 1], s, steps[i]]] : [],
    );
    expect(drops).toEqual([]);
    expect(Math.max(...shares)).toBeLessThanOrEqual(1 + 1e-9);
    expect([...words]).toContain("Bake");
  });
});
