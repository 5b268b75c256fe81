import { describe, expect, it } from "vitest";
import { moved, sphere, torus } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { agedBy } from "../../asset/stale";
import { plainContext } from "../../base/context";
import { findOperation } from "../../operations";
import { describe as documentOf, runOperation } from "../../route";
import { measureUnwrap } from "../methods/measure";
import { sheetOf } from "../methods/sheet";

const run = async (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());

const float = async (share: boolean) => {
  const asset = createAsset("float", [
    createPart("ring", 0, { game: torus(20, 8) }),
    createPart("ball", 1, { game: moved(sphere(10, 14), 4, 0, 0) }),
  ]);
  const start = { ...asset, brief: { ...asset.brief, sheetSize: 256 } };
  const laid = await run(start, "unwrap/unwrap", { rounds: 0 });
  return run(laid.asset, "reduce/levels", { levels: "240, 90", share });
};

describe("levels of detail that share no UVs", () => {
  it("get islands of their own, each level on a sheet half as wide as the one before", async () => {
    const { asset } = await float(false);
    expect(asset.parts[0].levels.map(({ uvs }) => uvs)).toEqual([null, null]);
    const done = await run(asset, "unwrap/levels");
    const levels = done.report.levels as Record<string, number>[];
    expect(levels.map(({ level, width }) => [level, width])).toEqual([
      [1, 128],
      [2, 64],
    ]);
    levels.forEach((told, l) => {
      const meshes = done.asset.parts.map((part) => part.levels[l]);
      const sheet = sheetOf(asset, { size: told.width });
      const figures = measureUnwrap(meshes, sheet);
      expect(figures).toMatchObject({ overlap: 0, flipped: 0 });
      expect(figures.fill).toBeGreaterThan(0.25);
      expect(figures.islands).toBe(told.islands);
      for (const { uvs } of meshes)
        for (const x of uvs!) expect(x >= 0 && x <= 1).toBe(true);
    });
    for (const [i, part] of done.asset.parts.entries()) {
      expect(part.game).toBe(asset.parts[i].game);
      part.levels.forEach((level, l) =>
        expect(level.positions).toEqual(asset.parts[i].levels[l].positions),
      );
    }
    const document = documentOf(done.asset);
    expect(agedBy(document, "unwrap/levels")).toBe(null);
    const again = await run(done.asset, "reduce/levels", { levels: "60" });
    expect(agedBy(documentOf(again.asset), "unwrap/levels")).toMatch(/levels/);
  });

  it("are left alone where they share the first level's, unless told otherwise", async () => {
    const { asset } = await float(true);
    await expect(run(asset, "unwrap/levels")).rejects.toThrow(/has UVs/);
    const anew = await run(asset, "unwrap/levels", { anew: true, size: 96 });
    expect(anew.report.levels).toMatchObject([{ width: 96 }, { width: 48 }]);
    const none = createAsset("float", [
      createPart("ring", 0, { game: torus() }),
    ]);
    await expect(run(none, "unwrap/levels")).rejects.toThrow(
      /no levels|levels of detail/,
    );
  });
});
