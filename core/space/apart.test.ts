import { expect, it } from "vitest";
import { seededRandom } from "../base/random";
import { movedApart } from "./apart";
import type { Bounds } from "./bounds";

const box = (x: number, y: number, z: number, size: number): Bounds => ({
  min: [x - size, y - size, z - size],
  max: [x + size, y + size, z + size],
});
const meet = (a: Bounds, b: Bounds) =>
  [0, 1, 2].every((k) => a.min[k] < b.max[k] && b.min[k] < a.max[k]);

it("moves boxes that lie in each other until none reaches another, and the largest stays", () => {
  const random = seededRandom(9);
  for (let round = 0; round < 20; round++) {
    const boxes = Array.from({ length: 12 }, () =>
      box(
        random() - 0.5,
        random() - 0.5,
        random() - 0.5,
        0.05 + 0.4 * random(),
      ),
    );
    boxes.push(box(0, 0, 0, 2), box(0, 0, 0, 0.01));
    const ways = movedApart(boxes);
    expect(ways[12]).toEqual([0, 0, 0]);
    const moved = boxes.map(({ min, max }, i) => ({
      min: min.map((x, k) => x + ways[i][k]) as Bounds["min"],
      max: max.map((x, k) => x + ways[i][k]) as Bounds["max"],
    }));
    for (const [i, a] of moved.entries())
      for (const b of moved.slice(i + 1)) expect(meet(a, b)).toBe(false);
    expect(movedApart(boxes)).toEqual(ways);
  }
});

it("leaves what lies far apart, what is alone, and what is empty", () => {
  const far = [box(0, 0, 0, 1), box(5, 0, 0, 1)];
  expect(movedApart(far)).toEqual([
    [0, 0, 0],
    [0, 0, 0],
  ]);
  const empty: Bounds = {
    min: [Infinity, Infinity, Infinity],
    max: [-Infinity, -Infinity, -Infinity],
  };
  expect(movedApart([box(0, 0, 0, 1), empty])).toEqual([
    [0, 0, 0],
    [0, 0, 0],
  ]);
  expect(movedApart([])).toEqual([]);
});
