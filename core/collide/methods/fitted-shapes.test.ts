import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { runOperation } from "../../route";
import { KERNELS, findOperation } from "../../operations";
import { plainContext } from "../../base/context";
import { createAsset, createPart } from "../../asset/asset";
import { boundsOf } from "../../space/bounds";
import { moved, sphere } from "../../../tests/shapes";
import { farthestOutside } from "./containment";
import type { ConvexMesh } from "../../mesh/hull";
import { convexHull, volumeOf } from "./convex-hull";
import { fitBox, fitCapsule, fitSphere } from "./fitted-shapes";

/** Clouds of any size and proportion, some flat, some on a line. */
const clouds = fc
  .record({
    points: fc.array(
      fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: -1000, max: 1000 }))),
      { minLength: 4, maxLength: 60 },
    ),
    size: fc.constantFrom(1e-4, 1, 1e4),
    flat: fc.tuple(...[0, 1, 2].map(() => fc.constantFrom(1, 1, 1, 1e-2))),
  })
  .map(({ points, size, flat }) =>
    Float32Array.from(
      points.flatMap((point) =>
        point.map((x, k) => (x / 1000) * size * flat[k]),
      ),
    ),
  );

const sizeOf = (points: Float32Array) => {
  const { min, max } = boundsOf(points);
  return Math.hypot(...max.map((high, k) => high - min[k]));
};

/** How far the farthest point stands out of a convex shape, as a share of the cloud. */
const out = (shape: ConvexMesh, points: Float32Array) =>
  farthestOutside([shape], points) / (sizeOf(points) || 1);

describe("shapes round points", () => {
  it.each([
    ["a box", fitBox],
    ["a sphere", fitSphere],
    ["a capsule", fitCapsule],
  ] as const)("%s holds them all", (_, fit) => {
    fc.assert(
      fc.property(clouds, (points) => {
        if (!(sizeOf(points) > 0)) return;
        expect(out(fit(points), points)).toBeLessThan(1e-4);
      }),
      { seed: 21, numRuns: 120 },
    );
  });

  it("a convex hull holds them all, and is no larger than their box", () => {
    fc.assert(
      fc.property(clouds, (points) => {
        const hull = convexHull(points);
        if (!hull) return;
        const box = fitBox(points);
        expect(out(hull, points)).toBeLessThan(1e-4);
        expect(volumeOf(hull.positions, hull.triangles)).toBeLessThanOrEqual(
          volumeOf(box.positions, box.triangles) * 1.001 +
            1e-9 * sizeOf(points) ** 3,
        );
      }),
      { seed: 22, numRuns: 120 },
    );
  });
});

describe("hulls of an asset", () => {
  it.each(["box", "sphere", "capsule", "hull", "hulls"])(
    "belong to the part that they hold: %s",
    async (kind) => {
      const parts = [0, 5, 10].map((x, i) =>
        createPart(`ball ${i}`, i, { game: moved(sphere(10, 14), x, 0, 0) }),
      );
      const { asset } = await runOperation(
        findOperation("collide/hulls"),
        createAsset("three", parts),
        { kind },
        plainContext(KERNELS),
      );
      asset.parts.forEach(({ hulls, game }, i) => {
        expect(hulls.length).toBeGreaterThan(0);
        for (const { positions } of hulls) {
          const { min, max } = boundsOf(positions);
          expect((min[0] + max[0]) / 2).toBeCloseTo(5 * i, 0);
        }
        // Hulls of few vertices cut into what they stand for; the others hold it.
        if (!kind.startsWith("hull"))
          expect(out(hulls[0], game!.positions)).toBeLessThan(0.02);
      });
    },
  );
});
