import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  cross,
  qualityOf,
  setNormal,
  triangleDistance2,
} from "./triangle-shape";

const number = fc.double({ min: -2, max: 2, noNaN: true });
const points = (count: number) =>
  fc.array(number, { minLength: 3 * count, maxLength: 3 * count });
const between = (p: readonly number[], u: number, v: number) =>
  [0, 1, 2].map((k) => p[k] + u * (p[3 + k] - p[k]) + v * (p[6 + k] - p[k]));

describe("how far a point is from a triangle", () => {
  it("is told with the place on it, and no other place is nearer", () => {
    fc.assert(
      fc.property(points(3), points(1), (p, x) => {
        fc.pre(Math.hypot(...cross(p, 0, 1, 2)) > 1e-3);
        const where = { u: 0, v: 0 };
        const far2 = triangleDistance2(p, 0, 1, 2, x, where);
        const { u, v } = where;
        expect(Math.min(u, v, 1 - u - v)).toBeGreaterThan(-1e-9);
        const off = (at: number[]) =>
          at.reduce((sum, y, k) => sum + (y - x[k]) ** 2, 0);
        expect(off(between(p, u, v))).toBeCloseTo(far2, 9);
        for (let i = 0; i <= 8; i++)
          for (let k = 0; k <= 8 - i; k++)
            expect(off(between(p, i / 8, k / 8))).toBeGreaterThan(far2 - 1e-9);
      }),
    );
  });

  it("is 0 on it, and as high as it stands over it", () => {
    const p = [0, 0, 0, 2, 0, 0, 0, 2, 0];
    expect(triangleDistance2(p, 0, 1, 2, [0.5, 0.5, 0])).toBeCloseTo(0);
    expect(triangleDistance2(p, 0, 1, 2, [0.5, 0.5, 3])).toBeCloseTo(9);
    expect(triangleDistance2(p, 0, 1, 2, [-3, -4, 0])).toBeCloseTo(25);
  });
});

it("the quality of a triangle is 1 where it is equilateral, 0 where it is flat, whatever its size", () => {
  const even = [0, 0, 0, 1, 0, 0, 0.5, Math.sqrt(3) / 2, 0];
  expect(qualityOf(even, [0, 1, 2], 0)).toBeCloseTo(1, 9);
  expect(qualityOf([0, 0, 0, 1, 0, 0, 2, 0, 0], [0, 1, 2], 0)).toBe(0);
  fc.assert(
    fc.property(points(3), fc.constantFrom(1e-3, 1, 1e4), (p, k) => {
      const q = qualityOf(p, [0, 1, 2], 0);
      expect(q).toBeGreaterThanOrEqual(0);
      expect(q).toBeLessThan(1 + 1e-9);
      const scaled = p.map((x) => k * x);
      expect(qualityOf(scaled, [0, 1, 2], 0)).toBeCloseTo(q, 6);
      expect(qualityOf(p, [1, 2, 0], 0)).toBeCloseTo(q, 9);
    }),
  );
});

it("the normal of a triangle points by its right hand, one long, or nowhere", () => {
  const out = new Float32Array(6);
  setNormal([0, 0, 0, 3, 0, 0, 0, 5, 0], 0, 1, 2, out, 3);
  expect([...out]).toEqual([0, 0, 0, 0, 0, 1]);
  setNormal([0, 0, 0, 1, 0, 0, 2, 0, 0], 0, 1, 2, out, 0);
  expect([...out.subarray(0, 3)]).toEqual([0, 0, 0]);
});
