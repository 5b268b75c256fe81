import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, moved, sheetMesh, sphere, torus } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import { faceCount } from "../mesh/mesh";
import { texelCode, texelWeight } from "../mesh/texel-weights";
import { sheetOf } from "./methods/sheet";
import { tileAt, tileOf, udimOf } from "../mesh/tiles";
import { boxOf, densityOfIsland, gatherIslands } from "./methods/sheet-islands";
import { SHEET, assetOf, run, laid, gameOf } from "../../tests/unwrapped";

describe("arranging", () => {
  const two = () =>
    assetOf({ one: laid(cube()), other: laid(moved(sphere(8, 10), 4, 0, 0)) });
  const boxesOf = (asset: Asset) =>
    gatherIslands(
      asset.parts.map(({ game }) => game!),
      SHEET,
    ).map(({ pixels }) => boxOf(pixels));

  it("aligns, distributes, snaps, turns and mirrors, and holds what it moved", async () => {
    const asset = two();
    for (const [how, k] of [
      ["left", 0],
      ["bottom", 1],
      ["right", 2],
      ["top", 3],
    ] as const) {
      const done = await run(asset, "unwrap/arrange", { how });
      const edges = boxesOf(done.asset).map((box) => box[k]);
      for (const each of edges) expect(each).toBeCloseTo(edges[0], 2);
      expect(gameOf(done.asset).held!.every((mark) => mark === 1)).toBe(true);
    }
    const snapped = await run(asset, "unwrap/arrange", {
      how: "snap grid",
      grid: 32,
    });
    for (const [x, y] of boxesOf(snapped.asset)) {
      expect(Math.abs(x / 32 - Math.round(x / 32))).toBeLessThan(1e-3);
      expect(Math.abs(y / 32 - Math.round(y / 32))).toBeLessThan(1e-3);
    }
    const turned = await run(asset, "unwrap/arrange", { how: "turn left" });
    const back = await run(turned.asset, "unwrap/arrange", {
      how: "turn right",
    });
    boxesOf(back.asset).forEach((box, i) =>
      box.forEach((x, k) => expect(x).toBeCloseTo(boxesOf(asset)[i][k], 2)),
    );
    const mirrored = await run(asset, "unwrap/arrange", {
      how: "mirror across",
    });
    expect(mirrored.report.findings).toEqual(
      expect.arrayContaining([expect.objectContaining({ kind: "flipped" })]),
    );
    for (const how of [
      "middle across",
      "middle up",
      "spread across",
      "spread up",
      "snap corner",
      "mirror up",
    ])
      expect(
        (await run(asset, "unwrap/arrange", { how })).report.moved,
      ).toBeGreaterThan(0);
  });

  it("turns the model's up to the sheet's, and straight borders along it", async () => {
    const wall = laid(sheetMesh(4));
    const upright = {
      ...wall,
      positions: wall.positions.map((_, i, p) =>
        i % 3 === 1 ? p[i + 1] : i % 3 === 2 ? 0 : p[i],
      ),
    };
    const turned = await run(assetOf({ wall: upright }), "unwrap/move", {
      turn: 33,
    });
    for (const by of ["up", "edge"]) {
      const done = await run(turned.asset, "unwrap/orient", { by });
      const { uvs, corners, positions } = gameOf(done.asset);
      const flat = [...corners.keys()].map((c) => [
        uvs![2 * c + 1],
        positions[3 * corners[c] + 1],
      ]);
      if (by === "up")
        for (const [v, y] of flat)
          for (const [w, z] of flat)
            if (y > z + 0.1) expect(v).toBeGreaterThan(w);
      const [x0, y0, x1, y1] = boxOf(
        gatherIslands([gameOf(done.asset)], SHEET)[0].pixels,
      );
      const covered = gatherIslands([gameOf(done.asset)], SHEET)[0].covered;
      expect(covered / ((x1 - x0) * (y1 - y0))).toBeGreaterThan(0.99);
    }
  });

  it("keeps held islands where they are when the rest is packed and unwrapped again", async () => {
    const asset = two();
    const held = await run(asset, "unwrap/move", {
      faces: ["one:0-5"],
      x: 3,
      y: 5,
    });
    const before = boxesOf(held.asset)[0];
    const packed = await run(held.asset, "unwrap/pack", { rounds: 4 });
    expect(packed.report).toMatchObject({ overlap: 0 });
    boxesOf(packed.asset)[0].forEach((x, k) =>
      expect(x).toBeCloseTo(before[k], 3),
    );
    const again = await run(packed.asset, "unwrap/unwrap", {
      rounds: 4,
      keep: "all",
    });
    expect(gameOf(again.asset).held).not.toBeNull();
    const free = await run(again.asset, "unwrap/pack", {
      rounds: 4,
      letGo: true,
    });
    expect(gameOf(free.asset).held).toBeNull();
  });
});

describe("texel density", () => {
  it("codes weights in even steps", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1 / 32, max: 32, noNaN: true }),
        (weight) => {
          expect(
            Math.abs(Math.log2(texelWeight(texelCode(weight)) / weight)),
          ).toBeLessThan(0.03);
        },
      ),
    );
    expect(texelCode(1)).toBe(0);
    expect(texelWeight(0)).toBe(1);
  });

  it("is given by multiples, kept by packing, and read off parts", async () => {
    const asset = assetOf({
      one: laid(cube()),
      other: laid(moved(cube(), 4, 0, 0)),
    });
    const more = await run(asset, "unwrap/give-density", {
      parts: ["one"],
      times: 2,
    });
    const ratio = (of: Asset) => {
      const [a, b] = of.parts.map(({ game }) =>
        densityOfIsland(
          gatherIslands([{ ...game!, texelWeights: null }], SHEET)[0],
        ),
      );
      return a / b;
    };
    expect(ratio(more.asset)).toBeCloseTo(2, 1);
    const packed = await run(more.asset, "unwrap/pack", { rounds: 4 });
    expect(ratio(packed.asset)).toBeCloseTo(2, 1);
    expect(Number(packed.report.densitySpread)).toBeLessThan(0.03);
    const same = await run(packed.asset, "unwrap/give-density", {
      parts: ["other"],
      by: "part",
      like: "one",
    });
    expect(ratio(same.asset)).toBeCloseTo(1, 1);
    const equal = await run(same.asset, "unwrap/give-density", { by: "equal" });
    expect(gameOf(equal.asset).texelWeights).toBeNull();
    const seen = await run(asset, "unwrap/give-density", {
      by: "visibility",
      times: 0.25,
    });
    expect(Number(seen.report.given)).toBeGreaterThan(0);
    const named = {
      ...asset,
      palette: [{ name: "tin", colour: "#889900" }],
      parts: asset.parts.map((part, i) => ({
        ...part,
        game: {
          ...part.game!,
          ids: new Uint16Array(faceCount(part.game!)).fill(i),
        },
      })),
    };
    const tin = await run(named, "unwrap/give-density", {
      times: 2,
      id: "tin",
    });
    expect(gameOf(tin.asset).texelWeights).toBeNull();
    expect(gameOf(tin.asset, 1).texelWeights).not.toBeNull();
    for (const [options, message] of [
      [{ id: "rust" }, /no ID "rust"/],
      [{ by: "texels" }, /how many texels/],
      [{ by: "part", like: "nobody" }, /no part "nobody"/],
      [{ by: "asset", asset: 3 }, /no other asset/],
    ] as const)
      await expect(run(asset, "unwrap/give-density", options)).rejects.toThrow(
        message,
      );
  });

  it("comes out even on sheets that are not square", async () => {
    const asset = assetOf(
      { box: cube(), ball: moved(sphere(10, 14), 4, 0, 0) },
      { sheetHeight: 256 },
    );
    const { report } = await run(asset, "unwrap/unwrap", { rounds: 4 });
    expect(report).toMatchObject({
      width: 512,
      height: 256,
      overlap: 0,
      flipped: 0,
    });
    expect(Number(report.stretch)).toBeLessThan(1.1);
    expect(Number(report.densitySpread)).toBeLessThan(0.05);
    expect(sheetOf(asset, { size: 1024 })).toMatchObject({
      width: 1024,
      height: 512,
    });
  });
});

describe("tiles", () => {
  it("number by UDIM and find their way back", () => {
    for (let tile = 0; tile < 40; tile++) {
      const [x, y] = tileAt(tile);
      expect(tileOf(x + 0.5, y + 0.5)).toBe(tile);
      expect(udimOf(tile)).toBe(1001 + x + 10 * y);
    }
    expect(tileOf(-0.1, 0.5)).toBe(-1);
    expect(tileOf(10.2, 0.5)).toBe(-1);
  });

  it("share one density, keep parts whole, and take islands from each other", async () => {
    const asset = assetOf({
      one: cube(),
      two: moved(sphere(10, 14), 4, 0, 0),
      three: moved(torus(20, 8), 9, 0, 0),
    });
    const { asset: done, report } = await run(asset, "unwrap/unwrap", {
      rounds: 4,
      tiles: 2,
      deal: "part",
    });
    expect(report).toMatchObject({ tiles: 2, overlap: 0, outside: 0 });
    expect(Number(report.densitySpread)).toBeLessThan(0.05);
    for (const { game } of done.parts)
      expect(
        new Set([...game!.uvs!].filter((_, i) => i % 2 === 0).map(Math.floor))
          .size,
      ).toBe(1);
    const moved3 = await run(done, "unwrap/to-tile", {
      parts: ["three"],
      tile: 1012,
    });
    expect(moved3.report.perTile).toEqual(
      expect.arrayContaining([expect.objectContaining({ tile: 1012 })]),
    );
  });
});
