import { describe, expect, it } from "vitest";
import fc from "fast-check";
import { moved, sheetMesh, sphere } from "../../tests/shapes";
import { areaOf } from "./area";
import { clipMesh } from "./clip";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";

/** The mesh with UVs that are x and z of each corner, a normal of its own and a colour that grows with x. */
function inked(mesh: Mesh): Mesh {
  const uvs = new Float32Array(2 * mesh.corners.length);
  const colours = new Uint8Array(3 * mesh.corners.length);
  const normals = new Float32Array(3 * mesh.corners.length);
  mesh.corners.forEach((v, c) => {
    const [x, y, z] = mesh.positions.subarray(3 * v, 3 * v + 3);
    uvs.set([x, z], 2 * c);
    colours.set([200 * x, 100 + 100 * z, 7], 3 * c);
    const length = Math.hypot(x, y + 2, z);
    normals.set([x / length, (y + 2) / length, z / length], 3 * c);
  });
  return { ...mesh, uvs, colours, normals };
}

describe("a mesh cut off at a plane", () => {
  it("keeps of a square what lies before the plane, to the last corner", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 0.95, noNaN: true }),
        fc.integer({ min: 1, max: 7 }),
        (at, n) => {
          const left = clipMesh(inked(sheetMesh(n)), {
            normal: [-1, 0, 0],
            offset: -at,
          });
          expect(areaOf(left)).toBeCloseTo(at, 5);
          const [xs, zs] = [0, 2].map((k) =>
            left.positions.filter((_, i) => i % 3 === k),
          );
          expect(Math.max(...xs)).toBeCloseTo(at, 5);
          expect(Math.min(...xs)).toBe(0);
          expect([Math.min(...zs), Math.max(...zs)]).toEqual([0, 1]);
        },
      ),
    );
  });

  it("has UVs, colours and normals where they were, also at new corners", () => {
    const whole = inked(sheetMesh(3));
    const cut = clipMesh(whole, {
      normal: [0.6, 0, 0.8],
      offset: 0.37,
    });
    let fresh = 0;
    cut.corners.forEach((v, c) => {
      const [x, y, z] = cut.positions.subarray(3 * v, 3 * v + 3);
      expect(0.6 * x + 0.8 * z).toBeGreaterThan(0.37 - 1e-6);
      if (Math.abs(0.6 * x + 0.8 * z - 0.37) < 1e-6) fresh++;
      expect(cut.uvs![2 * c]).toBeCloseTo(x, 6);
      expect(cut.uvs![2 * c + 1]).toBeCloseTo(z, 6);
      expect(Math.abs(cut.colours![3 * c] - 200 * x)).toBeLessThanOrEqual(2);
      expect(
        Math.abs(cut.colours![3 * c + 1] - 100 - 100 * z),
      ).toBeLessThanOrEqual(2);
      expect(cut.colours![3 * c + 2]).toBe(7);
      const normal = cut.normals!.subarray(3 * c, 3 * c + 3);
      expect(Math.hypot(...normal)).toBeCloseTo(1, 6);
      const length = Math.hypot(x, y + 2, z);
      expect(normal[0]).toBeCloseTo(x / length, 2);
      expect(normal[2]).toBeCloseTo(z / length, 2);
    });
    expect(fresh).toBeGreaterThan(5);
  });

  it("shares a new vertex between the faces at an edge: only the cut is open", () => {
    const ball = clipMesh(moved(sphere(9, 12), 0.1, 0.2, 0.3), {
      normal: [0, 1, 0],
      offset: 0.11,
    });
    const sides = new Map<string, number>();
    for (let f = 0; f < faceCount(ball); f++)
      for (let c = ball.faceStarts[f]; c < ball.faceStarts[f + 1]; c++) {
        const d = c + 1 < ball.faceStarts[f + 1] ? c + 1 : ball.faceStarts[f];
        const key = [ball.corners[c], ball.corners[d]]
          .sort((a, b) => a - b)
          .join(" ");
        sides.set(key, (sides.get(key) ?? 0) + 1);
      }
    const open = [...sides].filter(([, uses]) => uses === 1);
    expect(open.length).toBeGreaterThanOrEqual(12);
    for (const [key] of open)
      for (const v of key.split(" "))
        expect(ball.positions[3 * Number(v) + 1]).toBeCloseTo(0.11, 6);
  });
});
