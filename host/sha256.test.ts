import fc from "fast-check";
import { expect, it } from "vitest";
import { sha256 as inPage } from "../core/base/sha256";
import { sha256 } from "./sha256";

it("is the same hash as in a page, also of a view into a longer buffer", () => {
  // The example of FIPS 180-2, appendix B.1.
  expect(sha256(new TextEncoder().encode("abc"))).toBe(
    "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad",
  );
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 300 }), fc.nat(20), (all, from) => {
      const bytes = all.subarray(Math.min(from, all.length));
      expect(sha256(bytes)).toBe(inPage(bytes));
    }),
  );
});
