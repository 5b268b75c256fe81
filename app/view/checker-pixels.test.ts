import { describe, expect, it } from "vitest";
import { checkerPixels } from "./checker-pixels";

/** One field's pixels, px from its lower left. */
const fieldOf = (
  { data, width }: ReturnType<typeof checkerPixels>,
  column: number,
  row: number,
) => {
  const at = (x: number, y: number) => {
    const i = 4 * ((64 * row + y) * width + 64 * column + x);
    return `${data[i]},${data[i + 1]},${data[i + 2]}`;
  };
  return Array.from({ length: 64 * 64 }, (_, i) => at(i % 64, i >> 6));
};

describe("the checker", () => {
  const square = checkerPixels(2048, 2048);

  it("has fields that look otherwise however they are turned or mirrored", () => {
    for (const [column, row] of [
      [0, 0],
      [7, 3],
      [15, 15],
    ]) {
      const field = fieldOf(square, column, row);
      const seen = new Set<string>();
      for (const flip of [false, true])
        for (let turn = 0; turn < 4; turn++)
          seen.add(
            field
              .map((_, i) => {
                let [x, y] = [i % 64, i >> 6];
                if (flip) x = 63 - x;
                for (let k = 0; k < turn; k++) [x, y] = [y, 63 - x];
                return field[64 * y + x];
              })
              .join(" "),
          );
      expect(seen.size).toBe(8);
    }
  });

  it("tells every field from every other one", () => {
    const fields = new Set<string>();
    for (let row = 0; row < 16; row++)
      for (let column = 0; column < 16; column++)
        fields.add(fieldOf(square, column, row).join(" "));
    expect(fields.size).toBe(256);
  });

  it("keeps its fields square on sheets that are not", () => {
    const { width, height } = checkerPixels(2048, 512);
    expect([width, height]).toEqual([1024, 256]);
    expect(checkerPixels(256, 4096).height).toBe(16 * 1024);
  });

  it("flies its pennants to the right of their poles, above the number", () => {
    const field = fieldOf(square, 4, 9);
    const ground = field[0];
    const inked = (x0: number, x1: number, y0: number, y1: number) =>
      field.filter(
        (colour, i) =>
          colour !== ground &&
          i % 64 >= x0 &&
          i % 64 < x1 &&
          i >> 6 >= y0 &&
          i >> 6 < y1,
      ).length;
    expect(inked(13, 33, 30, 60)).toBeGreaterThan(1.5 * inked(33, 64, 30, 60));
    expect(inked(0, 9, 0, 64)).toBe(0);
  });
});
