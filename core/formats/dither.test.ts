import { expect, it } from "vitest";
import type { BakedMap } from "../base/pictures";
import { ditherAt, inEightBits, stepOf } from "./dither";

/** 64 × 64, one channel: each pixel a share of full white. */
const grey = (share: (x: number, y: number) => number): BakedMap => ({
  ...{ kind: "height", width: 64, height: 64, channels: 1, depth: 16 },
  pixels: Uint16Array.from({ length: 64 * 64 }, (_, i) =>
    Math.round(65535 * share(i % 64, i >> 6)),
  ),
});

const mean = (of: ArrayLike<number>) =>
  Array.from(of).reduce((sum, x) => sum + x, 0) / of.length;

it("a tone between two steps of 8 bits comes out as that tone in the mean, and no step is farther than the next", () => {
  for (const tone of [100.2, 100.5, 201.75]) {
    const { pixels, depth } = inEightBits(grey(() => tone / 255));
    expect(depth).toBe(8);
    expect(Math.abs(mean(pixels) - tone)).toBeLessThan(0.02);
    for (const pixel of pixels)
      expect([Math.floor(tone), Math.ceil(tone)]).toContain(pixel);
  }
});

it("a slow gradient has no bands: rows of 16 pixels follow it where steps alone would not", () => {
  const share = (x: number) => (80 + x / 64) / 255;
  const { pixels } = inEightBits(grey(share));
  for (let x = 0; x < 64; x += 16) {
    const columns = Array.from({ length: 64 * 16 }, (_, i) =>
      Number(pixels[64 * (i >> 4) + x + (i & 15)]),
    );
    const wanted = 80 + (x + 7.5) / 64;
    expect(Math.abs(mean(columns) - wanted)).toBeLessThan(0.06);
  }
});

it("a surface at rest, whole steps and maps of 8 bits stay as they are", () => {
  expect(new Set(inEightBits(grey(() => 0.5)).pixels)).toEqual(new Set([128]));
  for (const step of [0, 1, 77, 255])
    for (let i = 0; i < 50; i++)
      expect(stepOf(step / 255, 255, ditherAt(i, 3 * i, i % 3))).toBe(step);
  const map = inEightBits(grey(() => 0.3));
  expect(inEightBits(map)).toBe(map);
});
