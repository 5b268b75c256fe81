import { expect, test } from "vitest";
import { borderOf } from "./border";
import { PlacedBorders } from "./placed-borders";

/** Two squares of 20 px on a sheet of 100 px, at places of their middles. */
function squares(places: [number, number][], turn = 0): PlacedBorders {
  const square = Float64Array.from([0, 0, 20, 0, 20, 20, 0, 0, 20, 20, 0, 20]);
  const borders = places.map(() => borderOf(square, 1, 1, 10));
  const placed = new PlacedBorders(borders, {
    width: 100,
    height: 100,
    padding: 4,
    margin: 2,
  });
  placed.padding = 4;
  placed.margin = 2;
  places.forEach(([x, y], i) => {
    placed.x[i] = x;
    placed.y[i] = y;
    placed.angle[i] = i ? turn : 0;
    placed.place(i);
  });
  return placed;
}

/** How deep one lies in the other, and the push on the first. */
function met(placed: PlacedBorders): { deep: number; push: number[] } {
  placed.sums.fill(0);
  const deep = Math.max(placed.meet(0, 1, 0, 1), placed.meet(1, 0, 0, 1));
  return { deep, push: [placed.sums[1], placed.sums[2]] };
}

test("islands nearer than the padding lie as deep in each other as they are too near, and push apart", () => {
  const { deep, push } = met(
    squares([
      [40, 50],
      [61, 50],
    ]),
  );
  expect(deep).toBeCloseTo(3, 1);
  expect(push[0]).toBeLessThan(0);
  expect(Math.abs(push[1])).toBeLessThan(Math.abs(push[0]) / 10);
});

test("islands as far apart as the padding leave each other alone", () => {
  const placed = squares([
    [40, 50],
    [65, 50],
  ]);
  expect(placed.near(0, 1)).toBe(false);
  expect(met(placed).deep).toBe(0);
});

test("an island turned towards the other meets it with its corner", () => {
  const places: [number, number][] = [
    [40, 50],
    [65, 50],
  ];
  const { deep } = met(squares(places, Math.PI / 4));
  expect(deep).toBeCloseTo(4 - (25 - 10 - 10 * Math.SQRT2), 0);
});

test("what lies outside the sheet's margin is pushed back in", () => {
  const placed = squares([[9, 50]]);
  placed.sums.fill(0);
  expect(placed.meetBorder(0, 1)).toBeCloseTo(3, 9);
  expect(placed.sums[1]).toBeGreaterThan(0);
  expect(placed.sums[2]).toBeCloseTo(0, 9);
  expect(squares([[12, 12]]).meetBorder(0, 1)).toBe(0);
});
