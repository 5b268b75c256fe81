import { describe, expect, it } from "vitest";
import { cube, moved, scaled, torus } from "../../../tests/shapes";
import type { Hull } from "../../mesh/hull";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { plainContext } from "../../base/context";
import { convexHull } from "./convex-hull";
import { fireBalls } from "./fired-balls";
import { hullsOf } from "./solids";

const surface = (mesh: Mesh) => ({
  positions: mesh.positions,
  triangles: triangulate(mesh).vertices,
});
const wrapped = (mesh: Mesh): Hull => ({
  ...{ name: "a", kind: "convex" as const },
  ...convexHull(mesh.positions)!,
});
const fire = (mesh: Mesh, hulls: readonly Hull[], diameter: number) =>
  fireBalls([surface(mesh)], hulls, diameter, () => {});

/** A ring with an opening 1.2 wide, and hulls that leave it open. */
const ring = torus(40, 16, 1, 0.4);
const open = () =>
  hullsOf([ring], { most: 16, tolerance: 0, vertices: 32 }, plainContext()).map(
    ({ hull }, i): Hull => ({
      ...{ name: `a_hull_${i}`, kind: "convex" },
      ...hull,
    }),
  );

describe("a ball fired through an asset", () => {
  it("flies through the opening of a ring where hulls leave it open, and is stopped where one fills it", async () => {
    const through = await fire(ring, open(), 0.6);
    expect(through.gaps).toBeGreaterThan(20);
    expect(through.stopped).toBe(0);
    const filled = await fire(ring, [wrapped(ring)], 0.6);
    expect(filled.gaps).toBe(through.gaps);
    expect(filled.stopped).toBe(filled.gaps);
    expect(filled.places.length).toBeGreaterThan(10);
    expect(filled.places.length).toBeLessThanOrEqual(40);
    // Where it was stopped is in the opening, on the hull.
    for (const [x, y, z] of filled.places)
      expect(Math.hypot(x, y, z)).toBeLessThan(1.5);
  });

  it("is stopped by the mesh itself where it is larger than the opening", async () => {
    const large = await fire(ring, [wrapped(ring)], 1.4);
    expect(large.gaps).toBe(0);
    expect(large.stopped).toBe(0);
    expect(large.solid).toBeGreaterThan(0);
  });

  it("tells where hulls miss the mesh, at any size and place", async () => {
    for (const size of [0.01, 1, 500]) {
      const box = moved(scaled(cube(), size), 3 * size, 0, size);
      const whole = await fire(box, [wrapped(box)], 0.1 * size);
      expect(whole).toMatchObject({ gaps: 0, stopped: 0, missed: 0 });
      const half = wrapped(box);
      const cut = half.positions.map((x, i) =>
        i % 3 === 0 ? Math.min(x, 3 * size) : x,
      );
      const missed = await fire(box, [{ ...half, positions: cut }], 0.1 * size);
      // From two of three sides half of it is not there.
      expect(missed.missed / missed.solid).toBeGreaterThan(0.2);
      expect(missed.missed / missed.solid).toBeLessThan(0.4);
    }
  });

  it("stops when it is cancelled", async () => {
    let rows = 0;
    await expect(
      fireBalls([surface(ring)], [wrapped(ring)], 0.1, () => {
        if (++rows === 5) throw new Error("cancelled");
      }),
    ).rejects.toThrow("cancelled");
  });
});
