import { decode, encode } from "fast-png";
import { describe, expect, it } from "vitest";
import { seededRandom } from "../base/random";
import { writePng } from "./png";

const kind = "colour";
const pixelsOf = (count: number, depth: 8 | 16, value: (i: number) => number) =>
  new (depth === 16 ? Uint16Array : Uint8Array)(count).map((_, i) => value(i));
const bytesOf = (pixels: ArrayBufferView) =>
  Buffer.from(pixels.buffer, pixels.byteOffset, pixels.byteLength);

describe("a PNG", () => {
  const random = seededRandom(5);
  const cases = ([1, 3, 4] as const).flatMap((channels) =>
    ([8, 16] as const).flatMap((depth) =>
      [
        [1, 1],
        [7, 5],
        [5, 1],
        // More than is compressed at a time, and an odd number of rows over.
        [700, 601],
      ].map(([width, height]) => ({ channels, depth, width, height })),
    ),
  );
  it.each(cases)("of %o holds its pixels", (size) => {
    const { channels, depth, width, height } = size;
    const pixels = pixelsOf(channels * width * height, depth, (i) =>
      i % 3 ? 2 ** depth * random() : i,
    );
    const png = writePng({ kind, ...size, pixels });
    const read = decode(png, { checkCrc: true });
    expect(read).toMatchObject({ width, height, channels, depth });
    expect(Buffer.compare(bytesOf(read.data), bytesOf(pixels))).toBe(0);
    expect(Buffer.compare(writePng({ kind, ...size, pixels }), png)).toBe(0);
  });

  it("of a smooth surface is far smaller than told as it is", () => {
    const size = { width: 256, height: 256, channels: 3, depth: 8 } as const;
    const pixels = pixelsOf(3 * 256 * 256, 8, (i) => {
      const [x, y] = [Math.floor(i / 3) % 256, Math.floor(i / 768)];
      return 128 + 90 * Math.sin(x / 31 + (i % 3)) * Math.cos(y / 47);
    });
    const plain = encode({ ...size, data: pixels });
    expect(writePng({ kind, ...size, pixels }).length).toBeLessThan(
      0.7 * plain.length,
    );
  });
});
