import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { buildBvh } from "./bvh";
import { ClosestPoint } from "./closest-point";
import { RayScene, widen } from "./ray-scene";
import { cross, dot } from "./vector";

/** Trees against a look at every triangle, on soups small and bad enough to be drawn at random. */

type Triple = [number, number, number];
const number = fc
  .integer({ min: -2000, max: 2000 })
  .map((n) => Math.fround(n / 1000));
/** Corners on a coarse grid now and then: coincident ones, slivers, faces of no area, boxes that are flat. */
const corner = fc.oneof(
  fc.tuple(number, number, number),
  fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: -2, max: 2 }))),
) as fc.Arbitrary<Triple>;
const soups = fc
  .array(fc.tuple(corner, corner, corner), { minLength: 1, maxLength: 40 })
  .map((list) => ({
    positions: Float32Array.from(list.flat(2)),
    triangles: Uint32Array.from({ length: 3 * list.length }, (_, i) => i),
  }));
const minus = (a: ArrayLike<number>, b: ArrayLike<number>): Triple => [
  a[0] - b[0],
  a[1] - b[1],
  a[2] - b[2],
];
const cornersOf = (p: Float32Array, t: number) =>
  [0, 1, 2].map((k) => [...p.subarray(9 * t + 3 * k, 9 * t + 3 * k + 3)]);

/** Where a ray meets a triangle, or Infinity. @param slack by how much the triangle is wider or narrower */
function meets(
  p: Float32Array,
  t: number,
  o: Triple,
  d: Triple,
  slack: number,
) {
  const [a, b, c] = cornersOf(p, t);
  const e = minus(b, a);
  const f = minus(c, a);
  const q = cross(d, f);
  const det = dot(e, q);
  const size = Math.sqrt(dot(e, e) * dot(f, f) * dot(d, d));
  if (slack < 0 ? Math.abs(det) <= 1e-6 * size : det === 0) return Infinity;
  const s = minus(o, a);
  const u = dot(s, q) / det;
  const r = cross(s, e);
  const v = dot(d, r) / det;
  const at = dot(f, r) / det;
  return u >= -slack && v >= -slack && u + v <= 1 + slack && at >= 0
    ? at
    : Infinity;
}

/** Distance of a point to a segment, squared. */
function toSegment(p: Triple, a: number[], b: number[]): number {
  const e = minus(b, a);
  const length = dot(e, e);
  const s = length ? Math.min(1, Math.max(0, dot(minus(p, a), e) / length)) : 0;
  const off = minus(
    p,
    [0, 1, 2].map((k) => a[k] + s * e[k]),
  );
  return dot(off, off);
}

function toTriangle(p: Triple, [a, b, c]: number[][]): number {
  const sides = [toSegment(p, a, b), toSegment(p, b, c), toSegment(p, c, a)];
  const n = cross(minus(b, a), minus(c, a));
  const inside = (
    [
      [a, b],
      [b, c],
      [c, a],
    ] as const
  ).every(([x, y]) => dot(cross(minus(y, x), minus(p, x)), n) >= 0);
  const size = dot(n, n);
  return inside && size > 0
    ? dot(minus(p, a), n) ** 2 / size
    : Math.min(...sides);
}

describe("rays", () => {
  const ways = fc.oneof(
    fc.tuple(number, number, number),
    // Along an axis: the slabs of the other two have no way in and no way out.
    fc.constantFrom<Triple>([1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, 0, -1]),
  ) as fc.Arbitrary<Triple>;

  it("meet what a look at every triangle meets, first and at all, and miss what it misses", () => {
    fc.assert(
      fc.property(
        soups,
        fc.array(fc.tuple(corner, ways), { minLength: 20, maxLength: 20 }),
        ({ positions, triangles }, rays) => {
          const scene = new RayScene([widen(buildBvh(positions, triangles))]);
          const all = Array.from({ length: triangles.length / 3 }, (_, t) => t);
          for (const [o, way] of rays) {
            if (dot(way, way) < 1e-4) continue;
            const d = way.map(Math.fround) as Triple;
            const first = (slack: number) =>
              Math.min(...all.map((t) => meets(positions, t, o, d, slack)));
            // Between a little narrower and a little wider it may go either way.
            const [surely, perhaps] = [first(-1e-3), first(1e-3)];
            const found = scene.first(0, ...o, ...d, 0, 1e6);
            const { distance } = scene;
            if (surely < Infinity) expect(found).toBeGreaterThanOrEqual(0);
            if (perhaps === Infinity) expect(found).toBe(-1);
            expect(scene.any(0, ...o, ...d, 0, 1e6)).toBe(found >= 0);
            if (found < 0) continue;
            expect(distance).toBeLessThanOrEqual(surely + 1e-3 + 1e-3 * surely);
            expect(distance).toBeGreaterThanOrEqual(
              perhaps - 1e-3 - 1e-3 * perhaps,
            );
          }
        },
      ),
      { seed: 7, numRuns: 150 },
    );
  });
});

describe("closest points", () => {
  it("are as near as a look at every triangle finds", () => {
    fc.assert(
      fc.property(
        soups,
        fc.array(corner, { minLength: 10, maxLength: 10 }),
        ({ positions, triangles }, points) => {
          const closest = new ClosestPoint(buildBvh(positions, triangles));
          for (const p of points) {
            const found = closest.find(...p);
            expect(found).toBeGreaterThanOrEqual(0);
            const all = Array.from({ length: triangles.length / 3 }, (_, t) =>
              toTriangle(p, cornersOf(positions, t)),
            );
            const least = Math.sqrt(Math.min(...all));
            expect(Math.sqrt(closest.distance2)).toBeCloseTo(least, 4);
            expect(Math.sqrt(all[found])).toBeCloseTo(least, 4);
            const at: Triple = [closest.x, closest.y, closest.z];
            expect(Math.hypot(...minus(p, at))).toBeCloseTo(least, 4);
          }
        },
      ),
      { seed: 9, numRuns: 150 },
    );
  });

  it("find nothing beyond the distance they are given", () => {
    const triangle = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]);
    const closest = new ClosestPoint(buildBvh(triangle, [0, 1, 2]));
    expect(closest.find(0.2, 0.2, 1, 0.99)).toBe(-1);
    expect(closest.find(0.2, 0.2, 1, 1.01)).toBe(0);
  });
});
