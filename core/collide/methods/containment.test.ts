import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { sphere, torus } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";
import { seededRandom } from "../../base/random";
import { farthestOutside, planesOf } from "./containment";
import { convexHull } from "./convex-hull";
import { fitBox, fitCapsule, fitSphere } from "./fitted-shapes";

/** Points in a box of any size and place, drawn out one way. */
function cloud(seed: number, size: number, away: number): Float32Array {
  const random = seededRandom(seed);
  const sizes = [random(), 0.2 + random(), 3 * random()];
  return Float32Array.from(
    { length: 3 * 40 },
    (_, i) => size * (away + sizes[i % 3] * (random() - 0.5)),
  );
}

const clouds = fc.record({
  seed: fc.integer({ min: 1, max: 1e6 }),
  size: fc.constantFrom(0.01, 1, 60),
  away: fc.constantFrom(0, 2),
});

describe("shapes for collision", () => {
  it.each([
    ["spheres", fitSphere],
    ["capsules", fitCapsule],
    ["boxes", fitBox],
    ["convex hulls", (points: Float32Array) => convexHull(points)!],
  ] as const)("%s hold all the points they are made for", (_, fit) => {
    fc.assert(
      fc.property(clouds, ({ seed, size, away }) => {
        const points = cloud(seed, size, away);
        // Places are kept in single precision.
        const rounding = 4e-7 * size * (1 + away);
        expect(farthestOutside([fit(points)], points)).toBeLessThan(
          4 * rounding,
        );
      }),
      { numRuns: 60 },
    );
  });

  it("stand off by no more than flat faces need", () => {
    const ball = sphere(24, 32).positions;
    const round = fitSphere(ball);
    let most = 0;
    for (let i = 0; i < round.positions.length; i += 3)
      most = Math.max(most, Math.hypot(...round.positions.subarray(i, i + 3)));
    expect(most).toBeLessThan(1.04);
  });

  it("tell how far points stand out of all of them", () => {
    fc.assert(
      fc.property(clouds, ({ seed, size, away }) => {
        const hulls = [1, 2, 3].map((k) =>
          convexHull(cloud(seed + k, size, away), 10)!,
        );
        const points = cloud(seed, 1.4 * size, away);
        let expected = 0;
        for (let i = 0; i < points.length; i += 3) {
          const outs = hulls.map((hull) => {
            const planes = planesOf(hull);
            let out = 0;
            for (let k = 0; k < planes.length; k += 4)
              out = Math.max(
                out,
                planes[k] * points[i] +
                  planes[k + 1] * points[i + 1] +
                  planes[k + 2] * points[i + 2] -
                  planes[k + 3],
              );
            return out;
          });
          expected = Math.max(expected, Math.min(...outs));
        }
        expect(farthestOutside(hulls, points)).toBe(expected);
      }),
      { numRuns: 40 },
    );
    expect(farthestOutside([], cloud(1, 1, 0))).toBe(0);
  });

  it("of few vertices cut into what they stand for, which the report says", async () => {
    const asset = createAsset("ring", [
      createPart("ring", 0, { game: torus(24, 12) }),
    ]);
    const made = async (vertices: number) =>
      Number(
        (
          await runOperation(
            findOperation("collide/hulls"),
            asset,
            { kind: "hull", vertices },
            plainContext(),
          )
        ).report.outside,
      );
    expect(await made(6)).toBeGreaterThan(0.05);
    expect(await made(255)).toBeLessThan(1e-5);
  });
});
