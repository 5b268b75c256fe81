import { existsSync } from "node:fs";
import { pathToFileURL } from "node:url";
import { afterAll, describe, expect, it } from "vitest";
import { prepareScene } from "../core/bake/methods/scene";
import { bakeRows } from "../core/bake/methods/rows";
import type { RowResult, RowSlice } from "../core/bake/methods/band";
import { createAsset, createPart } from "../core/asset/asset";
import { sheetMesh } from "../tests/shapes";
import { threadWorkers } from "./workers";

const script = pathToFileURL("dist/kernel-worker.mjs");
const workers = threadWorkers(script, 2);
afterAll(() => workers.close());

const flat = sheetMesh(3);
const uvs = Float32Array.from(
  [...flat.corners].flatMap((v) => [
    flat.positions[3 * v],
    flat.positions[3 * v + 2],
  ]),
);
const asset = createAsset("a", [
  createPart("a", 0, { source: sheetMesh(9), game: { ...flat, uvs } }),
]);
const scene = prepareScene(asset, {
  width: 32,
  height: 32,
  rays: 4,
  grid: 1,
  distance: 0,
});
const slices: RowSlice[] = [0, 8, 16, 24].map((from) => ({
  right: 0,
  up: 0,
  from,
  to: from + 8,
  wanted: null,
}));

describe.runIf(existsSync(script))("workers on threads", () => {
  it("give the same results as one thread, call after call", async () => {
    for (let round = 0; round < 3; round++) {
      const results = await workers.run<RowSlice, RowResult>(
        "bake/rows",
        scene,
        slices,
      );
      results.forEach((result, i) =>
        expect(result).toEqual(bakeRows(scene, slices[i])),
      );
    }
    expect(await workers.run("bake/rows", scene, [])).toEqual([]);
  });

  it("stop where the caller throws, and work again after", async () => {
    const stopped = workers.run("bake/rows", scene, slices, () => {
      throw new Error("enough");
    });
    await expect(stopped).rejects.toThrow("enough");
    expect(await workers.run("bake/rows", scene, slices)).toHaveLength(4);
  });

  it("hand on what a kernel says", async () => {
    await expect(workers.run("bake/rows", {}, slices)).rejects.toThrow();
  });
});
