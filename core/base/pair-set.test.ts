import fc from "fast-check";
import { expect, it } from "vitest";
import { PairSet } from "./pair-set";

it("holds the ordered pairs that were added, and no others", () => {
  const index = fc.oneof(fc.nat(6), fc.constantFrom(0xfffffffe, 0x7fffffff));
  fc.assert(
    fc.property(
      fc.array(fc.tuple(index, index), { maxLength: 40 }),
      fc.array(fc.tuple(index, index), { maxLength: 40 }),
      (added, asked) => {
        const set = new PairSet(added.length);
        const plain = new Set<string>();
        for (const [a, b] of added) {
          set.add(a, b);
          plain.add(`${a} ${b}`);
        }
        for (const [a, b] of [...added, ...asked])
          expect(set.has(a, b)).toBe(plain.has(`${a} ${b}`));
      },
    ),
  );
});
