import fc from "fast-check";
import { expect, test } from "vitest";
import { cheapest } from "./cheapest";

test("gives at least as many as are wanted, none dearer by half than one left out, in rising order", () => {
  const cost = fc.float({
    min: Math.fround(1e-6),
    max: Math.fround(1e6),
    noNaN: true,
  });
  fc.assert(
    fc.property(
      fc.array(cost, { minLength: 1, maxLength: 200 }),
      fc.nat(200),
      (list, wish) => {
        const wanted = Math.min(list.length, wish);
        const costs = Float32Array.from(list);
        const order = [...cheapest(costs, costs.length, wanted)];
        expect(order.length).toBeGreaterThanOrEqual(wanted);
        expect(new Set(order).size).toBe(order.length);
        const taken = new Set(order);
        const left = [...costs].filter((_, e) => !taken.has(e));
        const dearest = Math.max(0, ...order.map((e) => costs[e]));
        for (const each of left) expect(dearest).toBeLessThanOrEqual(each);
        for (let k = 1; k < order.length; k++)
          expect(costs[order[k]] * 1.5).toBeGreaterThanOrEqual(
            costs[order[k - 1]],
          );
      },
    ),
    { seed: 11 },
  );
});

test("keeps the order of memory among costs that are alike", () => {
  const costs = Float32Array.from({ length: 50 }, (_, e) => 1 + e * 1e-4);
  expect([...cheapest(costs, 50, 20)]).toEqual([...costs.keys()]);
});
