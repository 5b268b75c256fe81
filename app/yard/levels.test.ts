import fc from "fast-check";
import { expect, it } from "vitest";
import { levelFor, rowsOf, shareOf, sharesOf } from "./levels";

it("draws the level that the shares of the parts ask for, none coarser than one of them does", () => {
  const parts = [
    { nodes: [0, 1, 2], coverage: [0.3, 0.05, 0] },
    { nodes: [3, 4], coverage: [0.4, 0] },
    { nodes: [5], coverage: null },
  ];
  const shares = sharesOf(parts, [5000, 2000, 600]);
  expect(shares).toEqual([0.4, 0.05, 0]);
  for (const [share, level] of [
    [1, 0],
    [0.4, 0],
    [0.39, 1],
    [0.05, 1],
    [0.01, 2],
    [0, 2],
  ])
    expect(levelFor(shares, share)).toBe(level);
});

it("goes by triangles where nothing says from where levels set in", () => {
  const parts = [{ nodes: [0, 1], coverage: null }];
  expect(sharesOf(parts, [4000, 1000])).toEqual([0.125, 0]);
  expect(sharesOf(parts, [4000])).toEqual([0]);
  expect(levelFor([0], 0.5)).toBe(0);
  expect(levelFor([], 0.5)).toBe(0);
});

it("never goes to a nearer level as a thing goes farther away", () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 9000 }), {
        minLength: 1,
        maxLength: 5,
      }),
      fc.array(fc.double({ min: 0.01, max: 500, noNaN: true }), {
        minLength: 2,
      }),
      (triangles, distances) => {
        const falling = triangles.toSorted((a, b) => b - a);
        const shares = sharesOf([], falling);
        const levels = distances
          .toSorted((a, b) => a - b)
          .map((distance) => levelFor(shares, shareOf(0.3, distance, 0.3)));
        expect(levels).toEqual(levels.toSorted((a, b) => a - b));
      },
    ),
  );
});

it("puts copies in rows behind the first, none on another", () => {
  for (const copies of [1, 9, 25, 100]) {
    const places = rowsOf(copies, 2);
    expect(places).toHaveLength(copies);
    expect(places[0]).toEqual([0, 0]);
    expect(new Set(places.map(String)).size).toBe(copies);
    expect(Math.max(...places.map(([, z]) => z))).toBe(0);
  }
  const wide = rowsOf(100, 2).map(([x]) => x);
  expect(Math.max(...wide) - Math.min(...wide)).toBe(18);
});
