import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, strewn } from "../../../tests/shapes";
import { extruded } from "../../../tests/solids";
import type { Hull } from "../../mesh/hull";
import { convexHull, volumeOf } from "./convex-hull";
import { dropTest } from "./drop-test";
import { octantsOf } from "./octants";

const volume = (points: ArrayLike<number>) => {
  const hull = convexHull(points);
  return hull ? volumeOf(hull.positions, hull.triangles) : 0;
};

describe("octants", () => {
  it("are the solid together, and a box stays as it is", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 9, max: 60 }),
        (seed, count) => {
          const { positions } = strewn(count, seed);
          const pieces = octantsOf(positions);
          expect(pieces.length).toBeLessThanOrEqual(8);
          const sum = pieces.reduce((all, piece) => all + volume(piece), 0);
          expect(sum / volume(positions)).toBeCloseTo(1, 3);
        },
      ),
      { numRuns: 30 },
    );
    expect(octantsOf(cube().positions)).toHaveLength(1);
  });

  it("let a foot with many corners stand", async () => {
    for (const sides of [5, 11, 24]) {
      const drum = extruded(
        Array.from({ length: sides }, (_, i) => {
          const turn = (2 * Math.PI * i) / sides;
          return [Math.cos(turn), Math.sin(turn)] as const;
        }),
        2,
      );
      // Upright: what was its depth is its height.
      const upright = drum.positions.map(
        (_, i, p) => p[i - (i % 3) + [1, 2, 0][i % 3]],
      );
      const hull: Hull = {
        name: "drum",
        kind: "convex",
        ...convexHull(upright)!,
      };
      const found = await dropTest(
        [hull],
        { slope: 10, friction: 0.6 },
        () => {},
      );
      expect(found.stands).toBe(true);
      const [placed] = found.trials;
      expect(placed.tilt).toBeLessThan(0.5);
      expect(placed.restSeconds).toBeLessThan(1);
      expect(found.penetrationMetres).toBeLessThan(0.002);
    }
  });
});
