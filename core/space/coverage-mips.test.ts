import { expect, test } from "vitest";
import { coverageMips } from "./coverage-mips";

const SIZE = 512;
const share = (values: Uint8Array) =>
  values.filter((x) => x >= 128).length / values.length;

/** A net: strands of so many pixels, aslant both ways and not in step with the pixels, with soft borders. */
function net(wide: number): Uint8Array {
  const mask = new Uint8Array(SIZE * SIZE);
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const near = Math.min(
        Math.abs(((0.97 * x + 1.09 * y) % 13.37) - 6.685),
        Math.abs(((1.03 * x - 0.91 * y + 1000) % 13.37) - 6.685),
      );
      mask[y * SIZE + x] = Math.round(
        255 * Math.max(0, Math.min(1, wide / 2 + 0.5 - near)),
      );
    }
  return mask;
}

test("a net keeps its coverage within 3 % down to the fifth level", () => {
  for (const wide of [2, 3, 5]) {
    const levels = coverageMips(net(wide), SIZE, SIZE, 128);
    const whole = share(levels[0].values);
    for (const { values } of levels.slice(1, 6))
      expect(Math.abs(share(values) - whole)).toBeLessThan(0.03);
  }
});

test("levels halve down to one pixel, also where sizes are odd or not square", () => {
  const levels = coverageMips(new Uint8Array(24 * 7).fill(200), 24, 7, 128);
  expect(levels.map(({ width, height }) => [width, height])).toEqual([
    [24, 7],
    [12, 3],
    [6, 1],
    [3, 1],
    [1, 1],
  ]);
  for (const { values, width, height } of levels) {
    expect(values.length).toBe(width * height);
    expect([...values].every((x) => x === 200)).toBe(true);
  }
});

test("noise of any density keeps its coverage at every level with pixels enough", () => {
  let seed = 1;
  const random = () => (seed = (seed * 48271) % 2147483647) / 2147483647;
  for (const density of [0.1, 0.4, 0.7]) {
    const mask = Uint8Array.from({ length: SIZE * SIZE }, () =>
      random() < density ? 255 : 0,
    );
    const smooth = coverageMips(mask, SIZE, SIZE, 128).slice(3, 6);
    for (const { values } of smooth)
      expect(Math.abs(share(values) - share(mask))).toBeLessThan(0.05);
  }
});
