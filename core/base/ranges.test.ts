import fc from "fast-check";
import { expect, it } from "vitest";
import { fromRanges, indicesOf, toRanges } from "./ranges";

it("indices travel in short form and come back, as short as they can be", () => {
  fc.assert(
    fc.property(
      fc.array(fc.boolean(), { minLength: 1, maxLength: 60 }),
      (marks) => {
        const indices = indicesOf(marks.map(Number));
        expect(indices).toEqual(marks.flatMap((on, i) => (on ? [i] : [])));
        const text = toRanges(indices);
        expect(indicesOf(fromRanges(text, marks.length))).toEqual(indices);
        const runs = marks.filter((on, i) => on && !marks[i - 1]).length;
        expect(text.split(",").filter(Boolean)).toHaveLength(runs);
      },
    ),
  );
  expect(toRanges([0, 1, 2, 7, 9, 10])).toBe("0-2,7,9-10");
  expect(fromRanges("", 4)).toEqual(new Uint8Array(4));
});

it.each(["4", "0-4", "3-2", "a", "1,", "-1", "1-", " 1", "1.5", "0-2-3"])(
  "%s is no range of four, and that is said",
  (text) => {
    expect(() => fromRanges(text, 4)).toThrow("is no range of 0 to 3");
  },
);
