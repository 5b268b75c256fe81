import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, sphere } from "../../../tests/shapes";
import { lSolid } from "../../../tests/solids";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { unit } from "../../space/vector";
import { convexHull, volumeOf } from "./convex-hull";
import type { Plane, Surface } from "./half-space";
import { SideRoom, flipped, joinSurfaces, sidesOf } from "./half-space";
import { partBelow } from "./part-below";

const surfaceOf = (mesh: Mesh): Surface => ({
  positions: Float64Array.from(mesh.positions),
  triangles: triangulate(mesh).vertices,
  outlines: new Uint32Array(0),
});

const hullVolume = (points: ArrayLike<number>) => {
  const hull = convexHull(points);
  return hull ? volumeOf(hull.positions, hull.triangles) : 0;
};

const plane = fc
  .tuple(
    fc.double({ min: -1, max: 1, noNaN: true }),
    fc.double({ min: -1, max: 1, noNaN: true }),
    fc.double({ min: -1, max: 1, noNaN: true }),
    fc.double({ min: -0.8, max: 0.8, noNaN: true }),
  )
  .filter(([x, y, z]) => Math.hypot(x, y, z) > 0.1)
  .map(([x, y, z, d]): Plane => [...unit([x, y, z]), d]);

describe("cuts by planes", () => {
  it("leave a convex solid whole, however often it is cut, corners inside it included", () => {
    fc.assert(
      fc.property(fc.array(plane, { minLength: 1, maxLength: 4 }), (planes) => {
        for (const mesh of [cube(), sphere(12, 16)]) {
          let pieces = [surfaceOf(mesh)];
          for (const each of planes)
            pieces = pieces.flatMap((piece) => [
              partBelow(piece, each, 1e-9),
              partBelow(piece, flipped(each), 1e-9),
            ]);
          const volume = pieces.reduce(
            (sum, { positions }) => sum + hullVolume(positions),
            0,
          );
          expect(volume / hullVolume(mesh.positions)).toBeCloseTo(1, 3);
        }
      }),
      // This seed cuts twice in one place, and then through what that left.
      { numRuns: 60, seed: 1532028366 },
    );
  });

  it("are told without being made: the same points lie on each side", () => {
    const room = new SideRoom();
    fc.assert(
      fc.property(plane, (each) => {
        const surface = surfaceOf(sphere(8, 10));
        const [below, above] = sidesOf(surface, each, 1e-9, room);
        const sides: [ArrayLike<number>, Plane][] = [
          [below, each],
          [above, flipped(each)],
        ];
        for (const [points, way] of sides)
          expect(hullVolume(points)).toBeCloseTo(
            hullVolume(partBelow(surface, way, 1e-9).positions),
            6,
          );
      }),
      { numRuns: 40 },
    );
  });

  it("give a face in the plane to the solid that is behind it", () => {
    const surface = surfaceOf(lSolid());
    const across: Plane = [0, 1, 0, 1];
    expect(hullVolume(partBelow(surface, across, 1e-9).positions)).toBeCloseTo(
      3 * 1 * 1.3,
      5,
    );
    expect(
      hullVolume(partBelow(surface, flipped(across), 1e-9).positions),
    ).toBeCloseTo(1 * 1.5 * 1.3, 5);
  });

  it("can be made of two pieces together as of each", () => {
    const [one, other] = [surfaceOf(cube()), surfaceOf(sphere(8, 10))];
    const cut: Plane = [1, 0, 0, 0.2];
    const both = joinSurfaces(
      partBelow(one, cut, 1e-9),
      partBelow(other, cut, 1e-9),
    );
    const again: Plane = [0, 1, 0, 0.1];
    expect(hullVolume(partBelow(both, again, 1e-9).positions)).toBeCloseTo(
      hullVolume([
        ...partBelow(partBelow(one, cut, 1e-9), again, 1e-9).positions,
        ...partBelow(partBelow(other, cut, 1e-9), again, 1e-9).positions,
      ]),
      6,
    );
    expect(new Set(both.outlines.filter((_, i) => i % 3 === 0)).size).toBe(2);
  });
});
