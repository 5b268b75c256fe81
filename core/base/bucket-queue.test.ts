import fc from "fast-check";
import { expect, it } from "vitest";
import { BucketQueue } from "./bucket-queue";

/** Costs are told apart to eight bits of mantissa. */
const COARSE = 1 + 1 / 128;

it("gives entries by rising cost, as far as it tells costs apart, and each once", () => {
  const costs = fc.array(fc.double({ min: 0, max: 1e12, noNaN: true }), {
    maxLength: 300,
  });
  fc.assert(
    fc.property(costs, (list) => {
      const queue = new BucketQueue(4);
      list.forEach((cost, i) => queue.push(cost, i, -1, 7));
      const found: number[] = [];
      while (queue.pop()) {
        expect(queue.stamp).toBe(7);
        expect(queue.cost).toBe(Math.fround(list[queue.a]));
        found.push(queue.a);
      }
      expect(found.slice().sort((a, b) => a - b)).toEqual([...list.keys()]);
      for (let i = 1; i < found.length; i++)
        expect(list[found[i - 1]]).toBeLessThanOrEqual(
          list[found[i]] * COARSE + 1e-37,
        );
    }),
    { seed: 3 },
  );
});

it("takes entries cheaper than the last one it gave", () => {
  const queue = new BucketQueue(1);
  queue.push(5, 1, 2, 0);
  queue.push(9, 3, 4, 0);
  expect(queue.pop() && queue.a).toBe(1);
  queue.push(2, 5, 6, 0);
  queue.push(-1, 7, 8, 0);
  expect(queue.pop() && queue.a).toBe(7);
  expect(queue.pop() && queue.a).toBe(5);
  expect(queue.pop() && queue.b).toBe(4);
  expect(queue.pop()).toBe(false);
});
