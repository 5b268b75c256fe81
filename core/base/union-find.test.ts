import fc from "fast-check";
import { expect, it } from "vitest";
import { UnionFind } from "./union-find";

it("names sets alike where a chain of joins leads, and only there", () => {
  const pair = fc.tuple(fc.nat(19), fc.nat(19));
  fc.assert(
    fc.property(fc.array(pair, { maxLength: 30 }), (pairs) => {
      const sets = new UnionFind(20);
      // The same by painting over.
      const paint = Array.from({ length: 20 }, (_, i) => i);
      for (const [a, b] of pairs) {
        sets.join(a, b);
        const from = paint[a];
        paint.forEach((p, i) => p === from && (paint[i] = paint[b]));
      }
      for (let i = 0; i < 20; i++)
        for (let j = 0; j < 20; j++)
          expect(sets.find(i) === sets.find(j)).toBe(paint[i] === paint[j]);
    }),
  );
});

it("keeps the name of the set that is joined to", () => {
  const sets = new UnionFind(5);
  sets.join(0, 3);
  sets.join(3, 4);
  expect([0, 3, 4].map((i) => sets.find(i))).toEqual([4, 4, 4]);
});
