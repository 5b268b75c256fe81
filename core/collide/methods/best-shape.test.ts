import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, sphere, strewn, tubeMesh } from "../../../tests/shapes";
import { extruded } from "../../../tests/solids";
import type { Mesh } from "../../mesh/mesh";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { bestShape } from "./best-shape";
import { farthestOutside } from "./containment";
import { bulgeOf, convexHull, volumeOf } from "./convex-hull";
import { fitCapsule } from "./fitted-shapes";
import { fitPrism } from "./prism";
import { StandOff } from "./stand-off";

const gon = (sides: number, radius = 1) =>
  extruded(
    Array.from({ length: sides }, (_, i) => {
      const turn = (2 * Math.PI * i) / sides;
      return [radius * Math.cos(turn), radius * Math.sin(turn)] as const;
    }),
    3,
  );

describe("a prism", () => {
  it("is the solid itself where that is one", () => {
    for (const sides of [3, 6, 11]) {
      const mesh = gon(sides);
      const prism = fitPrism(mesh.positions, 12);
      expect(prism.positions).toHaveLength(6 * sides);
      const area = (sides / 2) * Math.sin((2 * Math.PI) / sides);
      expect(volumeOf(prism.positions, prism.triangles)).toBeCloseTo(
        3 * area,
        3,
      );
    }
  });

  it("holds all points with as many sides as it may have, and is convex", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 4, max: 60 }),
        fc.integer({ min: 3, max: 16 }),
        (seed, count, sides) => {
          const { positions } = strewn(count, seed);
          if (!convexHull(positions, 4)) return;
          const prism = fitPrism(positions, sides);
          const size = diagonalOf(boundsOf(prism.positions));
          // Three sides can always be had only of what has few enough turns.
          expect(prism.positions.length / 6).toBeLessThanOrEqual(
            Math.max(4, sides),
          );
          expect(farthestOutside([prism], positions)).toBeLessThan(1e-5 * size);
          expect(volumeOf(prism.positions, prism.triangles)).toBeGreaterThan(0);
          expect(bulgeOf(prism, size)).toBeLessThan(1e-5 * size);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe("the cheapest shape", () => {
  const kindOf = ({ positions }: Mesh, error: number) =>
    bestShape(positions, convexHull(positions, 64)!, error).kind;

  it("is the one that a thing looks like", () => {
    expect(kindOf(sphere(24, 32), 0.15)).toBe("sphere");
    expect(kindOf(cube(), 0.01)).toBe("box");
    expect(kindOf(gon(6), 0.01)).toBe("prism");
    expect(kindOf(tubeMesh(8, 4, 0.5, 4), 0.06)).toBe("prism");
    const capsule = fitCapsule(
      Float32Array.from([0, 0, 0, 0, 3, 0, 0.5, 1, 0, -0.5, 2, 0, 0, 1, 0.5]),
    );
    expect(
      bestShape(capsule.positions, convexHull(capsule.positions, 200)!, 0.1)
        .kind,
    ).toBe("capsule");
  });

  it("is the hull where nothing simpler stays within the error, and stays within it", () => {
    const wedge = extruded(
      [
        [0, 0],
        [3, 0],
        [3, 0.2],
        [0.4, 2],
      ],
      1,
    );
    const tip = {
      ...wedge,
      positions: wedge.positions.map((x, i) =>
        i % 3 === 0 && wedge.positions[i + 2] > 0 ? 0.5 * x : x,
      ),
    };
    expect(kindOf(tip, 0.01)).toBe("convex");
    for (const error of [0.05, 0.2, 1, 5]) {
      const hull = convexHull(tip.positions, 64)!;
      const { mesh } = bestShape(tip.positions, hull, error);
      const stand = new StandOff(hull.positions, hull.triangles);
      expect(stand.of(mesh, 500)).toBeLessThanOrEqual(error * 1.001);
      expect(farthestOutside([mesh], tip.positions)).toBeLessThan(1e-4);
    }
  });
});
