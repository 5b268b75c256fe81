import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { cube, moved, scaled, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import { writeMeshFile } from "../../formats/index";
import type { Mesh } from "../../mesh/mesh";
import { rotation, transformMesh, translation } from "../../mesh/transform";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import { cageMesh } from "../methods/cage";
import { cageOffsets } from "../methods/found-cage";
import type { PartCounts } from "../methods/maps";

const SIZE = 64;
const run = (
  id: string,
  asset: Asset,
  options: object = {},
  files: never[] = [],
) =>
  runOperation(findOperation(id), asset, options, {
    ...plainContext(KERNELS),
    files,
  });
function assetOf(source: Mesh, game: Mesh): Asset {
  const [laid] = laidOn([game], squareSheet(SIZE));
  const asset = createAsset("buoy", [
    createPart("float", 0, { source, game: laid }),
  ]);
  return { ...asset, brief: { ...asset.brief, sheetSize: SIZE } };
}
const ball = () => assetOf(sphere(24, 32, 0.5), sphere(8, 10, 0.5));
const cageOf = (asset: Asset) => asset.parts[0].game!.cage;
const sizes = (offsets: Float32Array) =>
  Array.from({ length: offsets.length / 3 }, (_, c) =>
    Math.hypot(...offsets.subarray(3 * c, 3 * c + 3)),
  );
const bake = (asset: Asset, options: object = {}) =>
  run("bake/maps", asset, { ao: false, samples: 1, ...options });
const normals = (asset: Asset) =>
  Buffer.from(asset.maps.find(({ kind }) => kind === "normal")!.pixels.buffer);
const inFile = async (name: string, mesh: Mesh) =>
  [
    {
      name: "cage.obj",
      bytes: await writeMeshFile("cage.obj", [{ name, mesh }]),
    },
  ] as never[];

describe("the cage that is found", () => {
  it("holds all of the source, and is the one that rays begin from: saved and brought in, the bake is the same", async () => {
    const asset = ball();
    const offsets = cageOffsets(asset, asset.parts[0], 0);
    const cage = cageMesh(asset.parts[0].game!, offsets);
    expect(cage.faceStarts).toEqual(asset.parts[0].game!.faceStarts);
    // Of the cage's faces none cuts into the ball.
    for (let f = 0; f + 1 < cage.faceStarts.length; f++) {
      const middle = [0, 1, 2].map((k) => {
        let sum = 0;
        for (let c = cage.faceStarts[f]; c < cage.faceStarts[f + 1]; c++)
          sum += cage.positions[3 * cage.corners[c] + k];
        return sum / (cage.faceStarts[f + 1] - cage.faceStarts[f]);
      });
      expect(Math.hypot(...middle)).toBeGreaterThan(0.499);
    }
    const { files, report } = await run("bake/cage-file", asset);
    expect(report.file).toBe("buoy_cage.obj");
    const back = await run("bake/bring-cage", asset, {}, files as never[]);
    const [before, after] = [sizes(offsets), sizes(cageOf(back.asset)!)];
    before.forEach((size, c) => expect(after[c]).toBeCloseTo(size, 5));
    const [plain, caged] = [await bake(asset), await bake(back.asset)];
    const [a, b] = [normals(plain.asset), normals(caged.asset)];
    let differ = 0;
    for (let i = 0; i < a.length; i += 2)
      if (Math.abs(a.readUInt16LE(i) - b.readUInt16LE(i)) > 600) differ++;
    expect(differ / (a.length / 2)).toBeLessThan(0.01);
  });
});

describe("a cage that is shaped", () => {
  const faces = ["float:0-9"];
  it("has the distance that is wanted at chosen faces, and is found elsewhere", async () => {
    const { asset } = await run("bake/shape-cage", ball(), {
      ...{ faces, mesh: "game", distance: 30 },
    });
    const far = sizes(cageOf(asset)!);
    const { faceStarts } = asset.parts[0].game!;
    const inside = far.slice(0, faceStarts[10]);
    for (const size of inside) expect(size).toBeCloseTo(0.03, 6);
    expect(new Set(far.slice(faceStarts[10]))).toEqual(new Set([0]));
    const farther = await bake(
      (
        await run("bake/shape-cage", asset, {
          faces,
          mesh: "game",
          distance: 90,
        })
      ).asset,
    );
    expect((farther.report.counts as PartCounts[])[0].distance).toBeCloseTo(
      0.09,
      5,
    );
    const more = await run("bake/shape-cage", asset, {
      ...{ faces: ["float:10-12"], mesh: "game", way: "straight" },
    });
    expect(sizes(cageOf(more.asset)!).slice(0, faceStarts[10])).toEqual(inside);
    expect(sizes(cageOf(more.asset)!)[faceStarts[10]]).toBeGreaterThan(0);
    const none = await run("bake/drop-cage", more.asset);
    expect(cageOf(none.asset)).toBeNull();
    await expect(run("bake/drop-cage", none.asset)).rejects.toThrow(
      "no cage was shaped",
    );
    await expect(
      run("bake/shape-cage", ball(), { faces, mesh: "game" }),
    ).rejects.toThrow("nothing to change");
  });

  it("lets rays come straight off each face, so that a groove near an edge is where it is", async () => {
    const game = scaled(cube(), 0.5);
    const asset = assetOf(game, game);
    const { asset: straight } = await run("bake/shape-cage", asset, {
      ...{ faces: ["float:0-5"], mesh: "game", way: "straight", distance: 10 },
    });
    const cage = cageOf(straight)!;
    for (let c = 0; c < 24; c++) {
      const at = [...cage.subarray(3 * c, 3 * c + 3)].map((x) => Math.abs(x));
      expect(Math.max(...at)).toBeCloseTo(0.01, 6);
      expect(at.filter((x) => x > 1e-6)).toHaveLength(1);
    }
    const { asset: even } = await run("bake/shape-cage", straight, {
      ...{ faces: ["float:0-5"], mesh: "game", way: "evenly" },
    });
    const [x, y, z] = cageOf(even)!.map((value) => Math.abs(value));
    expect([y, z].map((value) => Math.abs(value - x) < 1e-6)).toEqual([
      true,
      true,
    ]);
  });

  it("makes the bake stale, goes with its mesh, and is baked by itself again", async () => {
    const options = { faces, mesh: "game", distance: 30 };
    const { asset: first } = await bake(ball());
    const { asset } = await run("bake/shape-cage", first, options);
    const again = await bake(asset);
    expect(again.report.baked).toEqual(["float"]);
    const turn = rotation([0, 0, 1], Math.PI / 2);
    const turned = transformMesh(asset.parts[0].game!, turn);
    const there = transformMesh(turned, translation(5, 0, 0));
    expect(sizes(there.cage!)).toEqual(sizes(turned.cage!));
    const [x, y] = asset.parts[0].game!.cage!.subarray(0, 2);
    expect(there.cage![0]).toBeCloseTo(-y, 6);
    expect(there.cage![1]).toBeCloseTo(x, 6);
  });
});

describe("a cage that is brought in", () => {
  it("has the faces of its game mesh, in metres, and its name where there are several parts", async () => {
    const asset = ball();
    const { game } = asset.parts[0];
    const larger = { ...scaled(game!, 1.1), uvs: null };
    const { asset: caged } = await run(
      "bake/bring-cage",
      asset,
      {},
      await inFile("shell", larger),
    );
    for (const size of sizes(cageOf(caged)!)) expect(size).toBeCloseTo(0.05, 5);
    await expect(
      run(
        "bake/bring-cage",
        asset,
        {},
        await inFile("shell", sphere(6, 8, 0.5)),
      ),
    ).rejects.toThrow(
      /the cage of float has .* the same faces in the same order/,
    );
    await expect(
      run(
        "bake/bring-cage",
        asset,
        {},
        await inFile("shell", scaled(larger, 100)),
      ),
    ).rejects.toThrow(
      /times as large as its game mesh: bring it in with the same unit/,
    );
    await expect(run("bake/bring-cage", asset)).rejects.toThrow("no file");
    const [laid] = laidOn([moved(cube(), 4, 0, 0)], squareSheet(SIZE));
    const two = {
      ...asset,
      parts: [...asset.parts, createPart("pole", 1, { game: laid })],
    };
    const { report } = await run(
      "bake/bring-cage",
      two,
      {},
      await inFile("float_cage", larger),
    );
    expect(report).toMatchObject({ parts: ["float"], without: ["pole"] });
    await expect(
      run("bake/bring-cage", two, {}, await inFile("shell", larger)),
    ).rejects.toThrow("no mesh of the file is named as a part: it has shell");
  });
});
