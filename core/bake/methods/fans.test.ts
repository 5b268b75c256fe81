import { describe, expect, it } from "vitest";
import type { Fan } from "./fans";
import { curveRays, evenFan, weightedFan } from "./fans";

const rows = (directions: Float32Array) =>
  Array.from({ length: directions.length / 3 }, (_, i) => [
    ...directions.subarray(3 * i, 3 * i + 3),
  ]);
const all = ({ first, rest }: Fan) => [...rows(first), ...rows(rest)];
const mean = (values: number[]) =>
  values.reduce((sum, value) => sum + value, 0) / values.length;

describe("a fan of rays", () => {
  it.each([1, 7, 16, 64, 200])("has %i unit directions above", (count) => {
    for (const fan of [weightedFan(count, Math.PI / 2), evenFan(count)]) {
      expect(all(fan)).toHaveLength(count);
      for (const d of all(fan)) {
        expect(Math.hypot(...d)).toBeCloseTo(1, 5);
        expect(d[2]).toBeGreaterThan(0);
      }
    }
  });

  it("has a first half that is spread like the whole", () => {
    const fan = weightedFan(64, Math.PI / 2);
    expect(fan.fair).toBe(true);
    expect(fan.first.length).toBe(fan.rest.length);
    for (const k of [0, 1, 2]) {
      const of = (directions: number[][]) => mean(directions.map((d) => d[k]));
      expect(Math.abs(of(rows(fan.first)) - of(all(fan)))).toBeLessThan(0.05);
    }
    // In every eighth of the heights and in every quarter around.
    const cells = new Set(
      rows(fan.first).map(
        ([x, y, z]) =>
          `${Math.floor(8 * (1 - z * z))} ${Math.sign(x)} ${Math.sign(y)}`,
      ),
    );
    expect(cells.size).toBeGreaterThanOrEqual(16);
  });

  it("of even rays begins with those that lie lowest", () => {
    const fan = evenFan(32);
    expect(fan.fair).toBe(false);
    const lowest = all(fan)
      .toSorted((a, b) => a[2] - b[2])
      .slice(0, 12);
    for (const d of lowest) expect(rows(fan.first)).toContainEqual(d);
    expect(rows(fan.first).some((d) => d[2] > 0.7)).toBe(true);
  });

  it("stays within its cone", () => {
    for (const d of all(weightedFan(64, Math.PI / 6)))
      expect(Math.acos(d[2])).toBeLessThanOrEqual(Math.PI / 6 + 1e-6);
  });

  it("takes fewer rays for the curvature, never less than asked for or 16", () => {
    expect([4, 16, 64, 256].map(curveRays)).toEqual([4, 16, 24, 96]);
  });
});
