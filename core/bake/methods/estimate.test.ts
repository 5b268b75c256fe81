import { describe, expect, it } from "vitest";
import type { BakedKind } from "../../base/pictures";
import type { BakeSize } from "./estimate";
import { estimateBake, paceOf } from "./estimate";

const size: BakeSize = {
  ...{ sourceTriangles: 435_600, width: 2048, height: 2048, sheets: 1 },
  ...{ covered: 0.71, maps: ["normal"], depth: "map" },
  ...{ rays: 64, grid: 2, threads: 2 },
};
const of = (more: Partial<BakeSize>) => estimateBake({ ...size, ...more });
const withMaps = (...also: BakedKind[]) => of({ maps: ["normal", ...also] });

describe("what a bake will take", () => {
  /** Seconds and bytes as they were measured: maps, edge, rays, triangles, share of the sheet. */
  it.each([
    [["normal"], 2048, 64, 435_600, 0.71, 10.9, 6.7e8],
    [["normal"], 4096, 64, 435_600, 0.71, 35.7, 9.9e8],
    [["normal", "ao"], 2048, 64, 435_600, 0.71, 51.4, 6.7e8],
    [["normal", "ao"], 2048, 16, 435_600, 0.71, 25.6, 6.3e8],
    [["normal", "ao"], 2048, 32, 154_700, 0.81, 25.3, 4.8e8],
  ] as const)(
    "is about what %s at %i px took",
    (maps, edge, rays, sourceTriangles, covered, seconds, bytes) => {
      const made = of({
        ...{ maps: [...maps, "status"], rays, sourceTriangles, covered },
        ...{ width: edge, height: edge },
      });
      expect(made.seconds / seconds).toBeGreaterThan(0.65);
      expect(made.seconds / seconds).toBeLessThan(1.5);
      expect(made.bytes / bytes).toBeGreaterThan(0.75);
      expect(made.bytes / bytes).toBeLessThan(1.33);
    },
  );

  it("grows with texels, samples, rays and maps, and falls with threads", () => {
    const { seconds, bytes } = of({});
    for (const more of [
      { width: 4096 },
      { covered: 0.9 },
      { grid: 3 },
      { sourceTriangles: 1e6 },
      { sheets: 3 },
      { maps: ["normal", "ao"] },
      { maps: ["normal", "height"] },
      { threads: 1 },
    ] satisfies Partial<BakeSize>[])
      expect(of(more).seconds).toBeGreaterThan(seconds);
    expect(of({ rays: 512 }).seconds).toBe(seconds);
    for (const more of [{ width: 4096 }, { sheets: 2 }, { depth: 16 as const }])
      expect(of(more).bytes).toBeGreaterThanOrEqual(bytes);
    expect(of({ depth: 8 }).bytes).toBeLessThan(bytes);
  });

  it("knows which maps share their rays", () => {
    const { seconds } = withMaps("ao");
    const bent = withMaps("ao", "bent").seconds - seconds;
    const seen = withMaps("ao", "visibility").seconds - seconds;
    expect(bent).toBeLessThan(0.3 * seen);
  });

  it("goes by the pace of the bake before, within reason", () => {
    const { seconds } = of({});
    expect(paceOf(size, 2 * seconds)).toBeCloseTo(2);
    expect(paceOf(size, 1000 * seconds)).toBe(5);
    expect(paceOf(size, 0)).toBe(0.2);
    expect(estimateBake(size, 2).seconds).toBeCloseTo(2 * seconds);
    expect(estimateBake(size, 2).bytes).toBe(estimateBake(size).bytes);
  });
});
