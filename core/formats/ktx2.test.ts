import { read } from "ktx-parse";
import { describe, expect, it } from "vitest";
import { encodePicture } from "./encode-picture";
import type { PlainPicture } from "./encode-picture";
import { readKtx2 } from "./read-ktx2";
import type { PictureMeaning } from "./write-ktx2";

/** A bumpy sheet of normals, or of a mask over white. */
function picture(width: number, height: number, channels: 3 | 4) {
  const pixels = new Uint8Array(channels * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [a, b] = [Math.sin(x / 7) / 2, Math.cos(y / 9) / 2];
      const at = channels * (y * width + x);
      if (channels === 3)
        [a, b, Math.sqrt(1 - a * a - b * b)].forEach(
          (part, k) => (pixels[at + k] = Math.round(127.5 + 127.5 * part)),
        );
      else pixels.set([255, 255, 255, x < width / 2 ? 0 : 255], at);
    }
  return { width, height, channels, pixels } satisfies PlainPicture;
}

const packed = async (
  from: PlainPicture,
  meaning: PictureMeaning,
  quality = 90,
  step: (done: number) => void = () => {},
) => (await encodePicture(from, "ktx2", quality, meaning, step)).bytes;

/** Of the channels that a picture has, dB. */
function likeness(from: PlainPicture, back: Uint8Array): number {
  let sum = 0;
  const count = from.width * from.height;
  for (let i = 0; i < count; i++)
    for (let k = 0; k < from.channels; k++)
      sum += (from.pixels[from.channels * i + k] - back[4 * i + k]) ** 2;
  return 10 * Math.log10(255 ** 2 / (sum / count / from.channels));
}

describe("a picture as KTX2", () => {
  it("opens again by the library as it was, in strips and at any shape", async () => {
    for (const [width, height] of [
      [256, 1024],
      [1024, 256],
    ]) {
      const from = picture(width, height, 3);
      const back = await readKtx2("a.ktx2", await packed(from, "normal"));
      expect([back.width, back.height]).toEqual([width, height]);
      expect(likeness(from, back.pixels)).toBeGreaterThan(45);
    }
  });

  it("holds what glTF wants: all mips in blocks, its orientation, and what is colour as sRGB", async () => {
    const normals = read(await packed(picture(64, 16, 3), "normal"));
    expect(normals).toMatchObject({
      vkFormat: 0,
      pixelWidth: 64,
      pixelHeight: 16,
      levelCount: 7,
      supercompressionScheme: 2,
      keyValue: { KTXorientation: "rd" },
    });
    expect(
      normals.levels.map((level) => level.uncompressedByteLength / 16),
    ).toEqual([64, 16, 4, 2, 1, 1, 1]);
    const of = ({ dataFormatDescriptor: [descriptor] }: typeof normals) => [
      descriptor.colorModel,
      descriptor.transferFunction,
      descriptor.samples[0].channelType,
    ];
    expect(of(normals)).toEqual([166, 1, 0]);
    const mask = picture(32, 32, 4);
    const bytes = await packed(mask, "alpha");
    expect(of(read(bytes))).toEqual([166, 2, 3]);
    const back = await readKtx2("a.ktx2", bytes);
    expect(likeness(mask, back.pixels)).toBeGreaterThan(60);
  });

  it("loses less the longer it looks, and is the same bytes each time", async () => {
    const from = picture(128, 128, 3);
    const kinds = await Promise.all(
      [40, 90, 100].map((quality) => packed(from, "normal", quality)),
    );
    const likenesses: number[] = [];
    for (const bytes of kinds)
      likenesses.push(likeness(from, (await readKtx2("a.ktx2", bytes)).pixels));
    expect(likenesses).toEqual(likenesses.toSorted((a, b) => a - b));
    expect(new Set(likenesses).size).toBe(3);
    expect(await packed(from, "normal")).toEqual(kinds[1]);
  });

  it("tells how far it is strip by strip, and stops when it is told to", async () => {
    const told: number[] = [];
    const from = picture(1024, 512, 3);
    await packed(from, "normal", 40, (done) => void told.push(done));
    expect(told.slice(0, 6)).toEqual([0, 0.1875, 0.375, 0.5625, 0.75, 0.9375]);
    expect(told).toEqual(told.toSorted((a, b) => a - b));
    const stop = (done: number) => {
      if (done) throw new Error(`stopped at ${done}`);
    };
    await expect(packed(from, "normal", 40, stop)).rejects.toThrow("at 0.1875");
  });

  it("is a PNG where its sides are no multiples of four, which glTF wants", async () => {
    for (const [width, height] of [
      [30, 32],
      [32, 18],
    ]) {
      const { mimeType } = await encodePicture(
        ...([picture(width, height, 3), "ktx2", 40, "data"] as const),
        () => {},
      );
      expect(mimeType).toBe("image/png");
    }
  });

  it("that says it is larger than any that is held is refused before room is made for it", async () => {
    const bytes = await packed(picture(16, 16, 3), "data", 40);
    const header = new DataView(bytes.buffer, bytes.byteOffset);
    for (const [width, height, said] of [
      [65_536, 16, "65536 × 16 px"],
      [16_384, 16_384, "up to 134 million px"],
    ] as const) {
      header.setUint32(20, width, true);
      header.setUint32(24, height, true);
      await expect(readKtx2("a.ktx2", bytes)).rejects.toThrow(said);
    }
  });

  it("says so where it can't be opened", async () => {
    const bytes = await packed(picture(16, 16, 3), "data", 40);
    for (const bad of [new Uint8Array(80), bytes.slice(0, 100)])
      await expect(readKtx2("a.ktx2", bad)).rejects.toThrow(
        "a.ktx2: the KTX2 picture can't be opened",
      );
  });
});
