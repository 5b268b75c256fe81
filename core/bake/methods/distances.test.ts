import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readDistances, withDistance } from "./distances";

describe("ray distances of parts", () => {
  it("are read as they are written, whatever the parts are called", () => {
    expect(readDistances(" lid = 4.2;body=1 ;")).toEqual(
      new Map([
        ["lid", 4.2],
        ["body", 1],
      ]),
    );
    const name = fc
      .stringMatching(/^[a-z;=_ ]{1,12}$/)
      .map((text) => `a${text.trim()}z`);
    fc.assert(
      fc.property(name, fc.integer({ min: 1, max: 9999 }), (part, mm) => {
        const text = withDistance("constructor = 2", part, mm);
        expect([...readDistances(text)]).toEqual([
          ["constructor", 2],
          [part, mm],
        ]);
      }),
    );
  });

  it("replace the one that a part had", () => {
    expect(withDistance("cap = 2; glass = 3; lid=1 ", "glass", 4.4)).toBe(
      "cap = 2; lid = 1; glass = 4.4",
    );
  });

  it.each([
    ["left", "left"],
    ["lid = 0", "lid = 0"],
    ["lid = 3 mm", "lid = 3 mm"],
    ["lid = 2; = 4", "= 4"],
    ["lid = 20000; a = 1", "lid = 20000;"],
  ])("%s is none: %s", (text, wrong) =>
    expect(readDistances(text)).toBe(wrong),
  );
});
