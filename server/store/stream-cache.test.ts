import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { StreamCache } from "./stream-cache";

describe("streams kept in memory", () => {
  it("are those used last, never more than the limit and what is wanted now", () => {
    const revision = fc.uniqueArray(fc.nat(20), { maxLength: 6 });
    fc.assert(
      fc.property(fc.array(revision, { maxLength: 12 }), (revisions) => {
        const cache = new StreamCache(50);
        for (const streams of revisions) {
          const wanted = new Set(streams.map(String));
          for (const hash of wanted)
            if (!cache.get(hash)) cache.set(hash, new Uint8Array(10));
          cache.trim(wanted);
          for (const hash of wanted) expect(cache.get(hash)).toHaveLength(10);
          const held = Array.from({ length: 21 }, (_, n) => String(n)).filter(
            (hash) => cache.get(hash),
          );
          expect(held.length).toBeLessThanOrEqual(Math.max(5, wanted.size));
        }
      }),
    );
  });

  it("forget what was used longest ago first", () => {
    const cache = new StreamCache(30);
    for (const hash of ["a", "b", "c"]) cache.set(hash, new Uint8Array(10));
    cache.get("a");
    cache.set("d", new Uint8Array(10));
    cache.trim(new Set(["d"]));
    expect(cache.get("b")).toBeUndefined();
    expect(cache.get("a")).toBeDefined();
  });
});
