import { encode as encodePng } from "fast-png";
import { encode as encodeJpeg } from "jpeg-js";
import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { sheetMesh } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import type { SurfacePicture } from "../../base/pictures";
import { toSrgb } from "../../formats/colours";
import { picturePixels } from "../../formats/picture-pixels";
import type { Mesh } from "../../mesh/mesh";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import type { BakeFinding } from "./findings";
import { colourAt } from "./source-pictures";

const SIZE = 64;
/** Left half red, right half green, with blue rising from the bottom to the top. */
const pixels = (channels: 3 | 4) =>
  Uint8Array.from({ length: channels * 32 * 32 }, (_, i) => {
    const [at, k] = [Math.floor(i / channels), i % channels];
    const [x, y] = [at % 32, at >> 5];
    if (k === 0) return x < 16 ? 200 : 0;
    if (k === 1) return x < 16 ? 0 : 200;
    return k === 2 ? 8 * (31 - y) : 255;
  });
const picture = (
  kind: "png" | "jpeg",
  placing?: readonly number[],
): SurfacePicture => ({
  ...{ name: `paint.${kind}`, kind, width: 32, height: 32 },
  ...(placing && { placing }),
  bytes:
    kind === "png"
      ? encodePng({
          ...{ width: 32, height: 32 },
          data: pixels(3),
          channels: 3,
        })
      : new Uint8Array(
          encodeJpeg({ ...{ width: 32, height: 32 }, data: pixels(4) }, 98)
            .data,
        ),
});

/** A flat source whose UVs are its x and z, and a game mesh of the same shape. */
function sheetAsset(
  paint: SurfacePicture | null,
  change: Partial<Mesh> = {},
  colour = "#ffffff",
): Asset {
  const flat = sheetMesh(8);
  const uvs = new Float32Array(2 * flat.corners.length);
  flat.corners.forEach((v, c) =>
    uvs.set([flat.positions[3 * v], flat.positions[3 * v + 2]], 2 * c),
  );
  const [game] = laidOn([sheetMesh(1)], squareSheet(SIZE));
  const asset = createAsset("sheet", [
    createPart("sheet", 0, {
      source: { ...flat, uvs, materials: ["paint"], ...change },
      game,
    }),
  ]);
  return {
    ...asset,
    brief: { ...asset.brief, sheetSize: SIZE },
    looks: [
      {
        ...{ material: "paint", colour, roughness: 1, metalness: 0 },
        ...(paint && { pictures: { colour: paint } }),
      },
    ],
  };
}
const bake = (asset: Asset, also: string[] = ["colour", "position"]) =>
  runOperation(
    findOperation("bake/maps"),
    asset,
    { ...{ normal: false, ao: false, also, samples: 2, distance: 10 } },
    plainContext(KERNELS),
  );
/** The baked colour where the source has a place: x and z, 0 … 1. */
async function at(asset: Asset, x: number, z: number): Promise<number[]> {
  const { maps } = (await bake(asset)).asset;
  const [colour, position] = ["colour", "position"].map((kind) =>
    maps.find((map) => map.kind === kind)!,
  );
  let best = Infinity;
  let found: number[] = [];
  for (let i = 0; i < SIZE * SIZE; i++) {
    const [px, , pz] = position.pixels.slice(3 * i, 3 * i + 3);
    const far = Math.hypot(px / 65535 - x, pz / 65535 - z);
    if (far >= best) continue;
    best = far;
    found = [...colour.pixels.slice(3 * i, 3 * i + 3)];
  }
  return found;
}
const near = (have: number[], want: number[], by: number) =>
  have.forEach((value, k) =>
    expect(Math.abs(value - want[k])).toBeLessThan(by),
  );

describe("the colour map", () => {
  it.each(["png", "jpeg"] as const)(
    "carries the %s on the source's material, by the source's own UVs",
    async (kind) => {
      const asset = sheetAsset(picture(kind));
      near(await at(asset, 0.25, 0.5), [200, 0, 124], 12);
      near(await at(asset, 0.75, 0.25), [0, 200, 62], 12);
      near(await at(asset, 0.75, 0.75), [0, 200, 186], 12);
    },
  );

  it("has the picture where it is placed, tinted, and times the vertex colours", async () => {
    // Turned about: u' = 1 − u.
    const turned = picture("png", [-1, 0, 1, 0, 1, 0]);
    near(await at(sheetAsset(turned), 0.25, 0.5), [0, 200, 124], 12);
    const colours = new Uint8Array(3 * sheetMesh(8).corners.length).fill(188);
    const half = await at(sheetAsset(picture("png"), { colours }), 0.25, 0.5);
    // 188 is half the light.
    expect(half[0]).toBeLessThan(200 * 0.8);
    near(half, [146, 0, 90], 12);
    const tinted = await at(
      sheetAsset(picture("png"), {}, "#bcbcbc"),
      0.25,
      0.5,
    );
    near(tinted, half, 3);
  });

  it("is stale where the picture is another, and says so where there is none", async () => {
    const first = await bake(sheetAsset(picture("png")), ["colour"]);
    expect(first.report.findings).toEqual([]);
    const again = await bake(
      { ...first.asset, looks: sheetAsset(picture("jpeg")).looks },
      ["colour"],
    );
    expect(again.report.bakedMaps).toEqual(["colour"]);
    const none = await bake(sheetAsset(null), ["colour"]);
    expect((none.report.findings as BakeFinding[])[0].reason).toContain(
      "no source has vertex colours or pictures",
    );
  });

  it("names the picture that can't be opened", async () => {
    const bytes = picture("png").bytes.slice();
    bytes.fill(9, 60, 90);
    await expect(
      bake(sheetAsset({ ...picture("png"), bytes }), ["colour"]),
    ).rejects.toThrow(/paint\.png.*can't be opened/);
  });
});

describe("pixels of a picture", () => {
  it("are read from grey, see-through, deep and indexed PNG alike", () => {
    const grey = encodePng({
      ...{ width: 2, height: 1, channels: 1, depth: 8 },
      data: Uint8Array.from([10, 250]),
    });
    expect([...picturePixels("g.png", grey).pixels]).toEqual([
      10, 10, 10, 250, 250, 250,
    ]);
    const clear = encodePng({
      ...{ width: 1, height: 1, channels: 4, depth: 8 },
      data: Uint8Array.from([1, 2, 3, 0]),
    });
    expect([...picturePixels("c.png", clear).pixels]).toEqual([1, 2, 3]);
    const deep = encodePng({
      ...{ width: 1, height: 1, channels: 3, depth: 16 },
      data: Uint16Array.from([256, 65535, 0]),
    });
    expect([...picturePixels("d.png", deep).pixels]).toEqual([1, 255, 0]);
    const indexed = encodePng({
      ...{ width: 3, height: 1, channels: 1, depth: 2 },
      data: Uint8Array.from([0b00011000]),
      palette: [
        [9, 8, 7],
        [1, 2, 3],
        [200, 100, 50],
      ],
    });
    expect([...picturePixels("i.png", indexed).pixels]).toEqual([
      9, 8, 7, 1, 2, 3, 200, 100, 50,
    ]);
  });

  it("run on beyond the edges, and are mixed as light", () => {
    const two = {
      ...{ width: 2, height: 1, material: "m", tint: [1, 1, 1] },
      placing: [1, 0, 0, 0, 1, 0],
      pixels: Uint8Array.from([255, 0, 0, 0, 255, 0]),
    };
    const into = new Float64Array(3);
    colourAt(two, 0.5, 0.5, into);
    near(
      [...into].map((x) => 255 * toSrgb(x)),
      [188, 188, 0],
      1,
    );
    colourAt(two, 1.25, -3.5, into);
    expect([...into]).toEqual([1, 0, 0]);
  });
});
