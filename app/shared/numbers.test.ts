import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { numeral, readNumber } from "./numbers";

const whole = { integer: true, min: 4, max: 2_000_000 };
const any = { integer: false };

describe("a number that somebody types", () => {
  it.each([
    ["-5", "4 is the least"],
    ["0", "4 is the least"],
    ["99999999999", "2\u2009000\u2009000 is the most"],
    ["1.5", "a whole number is wanted"],
    ["1,5", "a whole number is wanted"],
    ["12 hulls", "a whole number is wanted"],
    ["--3", "a whole number is wanted"],
    ["1e999", "a whole number is wanted"],
    ["", "a whole number is wanted"],
  ])("%s is not taken, and says why", (text, wrong) => {
    expect(readNumber(text, whole)).toEqual({ wrong });
  });

  it.each([
    ["5000", 5000],
    ["5 000", 5000],
    ["5\u2009000", 5000],
    ["5,000", 5000],
    [" 12 ", 12],
    ["1e4", 10_000],
  ])("%s is a whole number", (text, value) => {
    expect(readNumber(text, whole)).toEqual({ value });
  });

  it.each([
    ["0,25", 0.25],
    [".5", 0.5],
    ["-1.75", -1.75],
    ["\u22123", -3],
    ["2.", 2],
  ])("%s is a number", (text, value) => {
    expect(readNumber(text, any)).toEqual({ value });
  });

  it("comes back as it was from how it is shown", () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.integer({ min: -9_999_999, max: 9_999_999 }),
          fc.double({ min: -1e6, max: 1e6, noNaN: true }),
        ),
        (value) => {
          const read = readNumber(numeral(value), any);
          expect("value" in read && read.value === value).toBe(true);
        },
      ),
    );
  });

  it("is never another one than was typed", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 12 }), (text) => {
        const read = readNumber(text, whole);
        if (!("value" in read)) return;
        expect(read.value).toBeGreaterThanOrEqual(whole.min);
        expect(read.value).toBeLessThanOrEqual(whole.max);
        expect(Number(text.replace(/[\s\u2009,]/g, ""))).toBe(read.value);
      }),
      { numRuns: 500 },
    );
  });
});
