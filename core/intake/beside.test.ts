import { tilesUsed } from "../mesh/tiles";
import { describe, expect, it } from "vitest";
import { encode } from "fast-png";
import { cube } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import type { BakedMap } from "../base/pictures";
import { createAsset, createPart } from "../asset/asset";
import { pictureSize } from "../formats/picture";
import { run, text } from "../../tests/intake-run";

describe("reference pictures", () => {
  const png = encode({
    width: 6,
    height: 4,
    data: new Uint8Array(72),
    channels: 3,
    depth: 8,
  });
  const jpeg = new Uint8Array([
    0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0xff, 0xc0, 0, 11, 8, 0, 50, 0, 70, 1,
    1, 0x11, 0,
  ]);

  it("say their size", () => {
    expect(pictureSize("a", png)).toEqual({ kind: "png", width: 6, height: 4 });
    expect(pictureSize("a", jpeg)).toEqual({
      kind: "jpeg",
      width: 70,
      height: 50,
    });
    expect(() => pictureSize("a.gif", text(["GIF89a"]))).toThrow(/neither/);
    expect(() => pictureSize("a.jpg", jpeg.slice(0, 9))).toThrow(/neither/);
  });

  it("are kept with the asset, placed and taken away", async () => {
    const asset = createAsset("a", [createPart("box", 0, { source: cube() })]);
    const { asset: with1 } = await run(
      "add-reference",
      asset,
      { plane: "side" },
      {
        files: [{ name: "view.png", bytes: png }],
      },
    );
    expect(with1.references).toMatchObject([
      { name: "view.png", plane: "side", size: 2, at: [-1, -1, 0] },
    ]);
    const { asset: faded } = await run("edit-reference", with1, {
      picture: "view.png",
      opacity: 0.2,
    });
    expect(faded.references[0].opacity).toBe(0.2);
    const { asset: none } = await run("edit-reference", faded, {
      picture: "view.png",
      remove: true,
    });
    expect(none.references).toEqual([]);
    await expect(
      run("edit-reference", none, { picture: "view.png" }),
    ).rejects.toThrow(/no picture/);
    await expect(run("add-reference", asset)).rejects.toThrow(
      /no picture to add/,
    );
  });
});

describe("a part of another asset", () => {
  it("comes over with its game mesh, UVs, looks and texels", async () => {
    const uvs = Float32Array.from(
      { length: 48 },
      (_, i) => 0.1 + 0.3 * [0, 0, 1, 0, 1, 1, 0, 1][i % 8],
    );
    const game = { ...cube(), uvs, materials: ["brass"] };
    const other: Asset = {
      ...createAsset("other", [createPart("box", 0, { source: cube(), game })]),
      looks: [
        { material: "brass", colour: "#aa8844", roughness: 0.4, metalness: 1 },
      ],
      maps: [
        {
          kind: "ao",
          width: 32,
          height: 32,
          channels: 1,
          depth: 8,
          pixels: new Uint8Array(1024).fill(77),
        },
      ],
    };
    const { asset, report } = await run(
      "bring-over",
      createAsset("mine", [createPart("box", 0, { source: cube() })]),
      { asset: 7, part: "box" },
      { assetById: async () => other },
    );
    expect(asset.parts.map(({ name }) => name)).toEqual(["box", "box.2"]);
    expect(asset.looks).toEqual(other.looks);
    expect(Number(report.texels)).toBeGreaterThan(80);
    const [map] = asset.maps;
    expect(map.pixels[32 * 25 + 6]).toBe(77);
    expect(map.pixels[0]).toBe(255);
    await expect(
      run("bring-over", asset, { asset: 7, part: "box" }),
    ).rejects.toThrow(/no store/);
  });

  it("gets a tile of its own where its islands lie on those of others", async () => {
    const square = (x: number) =>
      Float32Array.from({ length: 48 }, (_, i) =>
        i % 2
          ? 0.1 + 0.3 * [0, 0, 1, 1][(i >> 1) % 4]
          : x + 0.3 * [0, 1, 1, 0][(i >> 1) % 4],
      );
    const plain = (value: number): BakedMap => ({
      ...{ width: 32, height: 32, channels: 1, depth: 8 },
      kind: "ao",
      pixels: new Uint8Array(1024).fill(value),
    });
    const other = (x: number): Asset => {
      const game = { ...cube(), uvs: square(x) };
      const part = createPart("cap", 0, { game });
      return {
        ...createAsset("other", [{ ...part, levels: [game] }]),
        maps: [plain(77)],
      };
    };
    const mine: Asset = {
      ...createAsset("mine", [
        createPart("box", 0, { game: { ...cube(), uvs: square(0.1) } }),
      ]),
      maps: [plain(9)],
    };
    const bring = (from: Asset) =>
      run(
        "bring-over",
        mine,
        { asset: 7, part: "cap" },
        { assetById: async () => from },
      );
    const beside = await bring(other(0.6));
    expect(beside.report).toMatchObject({ tiles: [] });
    expect(beside.asset.parts[1].game!.uvs).toEqual(square(0.6));
    const [map] = beside.asset.maps;
    expect(beside.asset.maps).toHaveLength(1);
    const texel = (x: number) => map.pixels[32 * 24 + Math.floor(32 * x)];
    expect([texel(0.25), texel(0.75)]).toEqual([9, 77]);
    const upon = await bring(other(0.2));
    expect(upon.report).toMatchObject({ tiles: [1002] });
    expect(String(upon.report.summary)).toMatch(/on tile 1002 now/);
    const { game, levels } = upon.asset.parts[1];
    expect(tilesUsed([game!])).toEqual([1]);
    expect(levels[0].uvs).toEqual(game!.uvs);
    expect(upon.asset.maps[0].pixels).toEqual(mine.maps[0].pixels);
    expect(upon.asset.maps[1]).toMatchObject({ kind: "ao", tile: 1 });
    expect(upon.asset.maps[1].pixels[32 * 24 + 12]).toBe(77);
    expect(upon.asset.maps[1].pixels[0]).toBe(255);
  });
});
