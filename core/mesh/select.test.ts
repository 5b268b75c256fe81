import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, joined, moved, sphere, tubeMesh } from "../../tests/shapes";
import { faceCount } from "./mesh";
import { fromRanges, indicesOf, toRanges } from "../base/ranges";
import {
  componentOf,
  edgeLoop,
  edgeRing,
  facesAlong,
  facesNear,
  flood,
  grow,
  invert,
  materialOf,
  neighboursOf,
  shrink,
} from "./select";

const count = (marks: ArrayLike<number>) => indicesOf(marks).length;

describe("ranges", () => {
  it("read back what was written", () =>
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(400)), (list) => {
        const rising = [...list].sort((a, b) => a - b);
        expect(indicesOf(fromRanges(toRanges(rising), 401))).toEqual(rising);
      }),
    ));
  it("are short", () => expect(toRanges([0, 1, 2, 5, 7, 8])).toBe("0-2,5,7-8"));
  it.each(["x", "3-1", "9", "-1", "1,,2", "1e3"])("refuse %s", (text) =>
    expect(() => fromRanges(text, 9)).toThrow(/is no range/),
  );
});

describe("choosing faces", () => {
  const ball = sphere(12, 16);
  const tube = tubeMesh(16, 6);

  it("by component and by material", () => {
    const two = joined(cube(), moved(cube(), 5, 0, 0));
    expect(indicesOf(componentOf(two, 7))).toEqual([6, 7, 8, 9, 10, 11]);
    const painted = {
      ...two,
      materials: ["a", "b"],
      faceMaterials: Uint16Array.from({ length: 12 }, (_, f) => f % 2),
    };
    expect(indicesOf(materialOf(painted, 3))).toEqual([1, 3, 5, 7, 9, 11]);
  });

  it("floods over gentle edges and stops at sharp ones", () => {
    expect(count(flood(neighboursOf(cube()), 0, 40))).toBe(1);
    expect(count(flood(neighboursOf(cube()), 0, 91))).toBe(6);
    expect(count(flood(neighboursOf(ball), 5, 40))).toBe(faceCount(ball));
  });

  it("grows and shrinks; shrinking undoes growing on the inside", () => {
    const one = new Uint8Array(faceCount(ball));
    one[100] = 1;
    const grown = grow(ball, one);
    expect(count(grown)).toBeGreaterThan(8);
    expect(shrink(ball, grown)[100]).toBe(1);
    expect(count(shrink(ball, one))).toBe(0);
    expect(count(invert(one))).toBe(faceCount(ball) - 1);
  });

  it("growing never loses and shrinking never gains", () =>
    fc.assert(
      fc.property(fc.array(fc.nat(faceCount(ball) - 1)), (list) => {
        const marks = new Uint8Array(faceCount(ball));
        for (const f of list) marks[f] = 1;
        const more = grow(ball, marks);
        const less = shrink(ball, marks);
        for (let f = 0; f < marks.length; f++) {
          expect(more[f]).toBeGreaterThanOrEqual(marks[f]);
          expect(less[f]).toBeLessThanOrEqual(marks[f]);
        }
      }),
      { numRuns: 40 },
    ));

  it("walks loops round a tube and rings along it, and the other way", () => {
    const near = neighboursOf(tube);
    // A quad's first edge runs round the tube, its second along it.
    const inner = 4 * (16 * 2 + 3);
    expect(edgeLoop(near, inner).length).toBe(16);
    expect(edgeRing(near, inner).length).toBe(7);
    expect(edgeLoop(near, inner + 1).length).toBe(6);
    expect(edgeRing(near, inner + 1).length).toBe(16);
    expect(count(facesAlong(near, edgeRing(near, inner + 1)))).toBe(16);
  });

  it("follows a border along the border", () => {
    expect(edgeLoop(neighboursOf(tube), 0).length).toBe(16);
  });

  it("paints round, adding and taking away", () => {
    const marks = new Uint8Array(faceCount(ball));
    facesNear(ball, 0, 1, 0, 0.5, marks);
    const cap = count(marks);
    expect(cap).toBeGreaterThan(10);
    facesNear(ball, 0, 1, 0, 0.25, marks, 0);
    expect(count(marks)).toBeLessThan(cap);
  });
});
