import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { moved, sphere, sheetMesh } from "../../tests/shapes";
import { ClosestPoint } from "../space/closest-point";
import { buildBvh } from "../space/bvh";
import type { ClingOptions } from "./cling-troubles";
import { cling, ClingTarget } from "./cling";
import { mendCling } from "./mend-cling";
import type { Mesh } from "../mesh/mesh";
import { vertexCount } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";

const surface = (mesh: Mesh) => ({
  positions: mesh.positions,
  triangles: triangulate(mesh).vertices,
});
const OPTIONS: ClingOptions = {
  way: "nearest",
  offset: 0,
  reach: Infinity,
  relax: 0,
  held: null,
};
const scaled = (mesh: Mesh, by: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x) => by * x),
});
function farthest(mesh: Mesh, target: Mesh): number {
  const { positions, triangles } = surface(target);
  const closest = new ClosestPoint(buildBvh(positions, triangles));
  let most = 0;
  for (let i = 0; i < mesh.positions.length; i += 3) {
    closest.find(
      ...([0, 1, 2].map((k) => mesh.positions[i + k]) as [
        number,
        number,
        number,
      ]),
    );
    most = Math.max(most, Math.sqrt(closest.distance2));
  }
  return most;
}

describe("clinging to a surface", () => {
  const ball = sphere(24, 40);
  const target = new ClingTarget(surface(ball));

  it("lands every point on the surface, by every way, or as far off it as wanted", () => {
    fc.assert(
      fc.property(
        fc.constantFrom("nearest" as const, "normals" as const),
        fc.double({ min: 0.6, max: 1.6, noNaN: true }),
        fc.double({ min: -0.2, max: 0.2, noNaN: true }),
        fc.integer({ min: 0, max: 4 }),
        (way, scale, offset, relax) => {
          const { mesh, trouble } = cling(
            scaled(sphere(10, 14), scale),
            target,
            {
              ...OPTIONS,
              way,
              offset,
              relax,
            },
          );
          expect(trouble.missed).toEqual([]);
          expect(
            Math.abs(farthest(mesh, ball) - Math.abs(offset)),
          ).toBeLessThan(0.01);
          const shell = cling(scaled(sphere(8, 12), scale), target, {
            ...OPTIONS,
            way,
          });
          expect(farthest(shell.mesh, ball)).toBeLessThan(1e-4);
          expect(shell.trouble).toEqual({
            wrong: [],
            folded: [],
            stretched: [],
            missed: [],
          });
        },
      ),
      { numRuns: 12, seed: 5 },
    );
  });

  it("goes along an axis, says what it missed, and leaves that and what is held where it was", () => {
    const plain = sheetMesh(8);
    const sheet = moved(
      { ...plain, positions: plain.positions.map((x) => 2.2 * x) },
      -1.1,
      3,
      -1.1,
    );
    const held = new Uint8Array(vertexCount(sheet));
    const middle = 40;
    held[middle] = 1;
    const { mesh, trouble } = cling(sheet, target, {
      ...OPTIONS,
      way: "y",
      held,
    });
    for (let v = 0; v < vertexCount(sheet); v++) {
      const [x, y, z] = mesh.positions.subarray(3 * v, 3 * v + 3);
      expect([x, z]).toEqual([
        sheet.positions[3 * v],
        sheet.positions[3 * v + 2],
      ]);
      const away = Math.hypot(x, z);
      if (v === middle || away > 1) expect(y).toBe(sheet.positions[3 * v + 1]);
      else if (away < 0.98) expect(Math.hypot(x, y, z)).toBeCloseTo(1, 1);
      if (away > 1) expect(trouble.missed).toContain(v);
    }
    const near = cling(sheet, target, { ...OPTIONS, way: "y", reach: 0.5 });
    expect(near.trouble.missed).toHaveLength(vertexCount(sheet));
    expect(near.mesh.positions).toEqual(sheet.positions);
  });

  it("leaves alone what lies on the surface already, knife rims too", () => {
    const blade = {
      ...sphere(12, 16),
      positions: sphere(12, 16).positions.map((x, i) =>
        i % 3 === 1 ? 0.001 * x : x,
      ),
    };
    const {
      mesh,
      moved: by,
      trouble,
    } = cling(blade, new ClingTarget(surface(blade)), OPTIONS);
    expect(by).toBeLessThan(1e-6);
    expect(farthest(mesh, blade)).toBeLessThan(1e-6);
    expect(trouble).toEqual({
      wrong: [],
      folded: [],
      stretched: [],
      missed: [],
    });
  });

  it("evens points out where it relaxes", () => {
    const skewed = {
      ...sphere(12, 16),
      positions: sphere(12, 16).positions.map(
        (x, i) => x + 0.09 * Math.sin(7 * i),
      ),
    };
    const spread = (mesh: Mesh) => {
      const { vertices } = triangulate(mesh);
      const lengths: number[] = [];
      for (let c = 0; c < vertices.length; c += 3) {
        const [a, b] = [3 * vertices[c], 3 * vertices[c + 1]];
        lengths.push(
          Math.hypot(
            ...[0, 1, 2].map(
              (k) => mesh.positions[a + k] - mesh.positions[b + k],
            ),
          ),
        );
      }
      const mean = lengths.reduce((s, x) => s + x, 0) / lengths.length;
      return (
        Math.sqrt(
          lengths.reduce((s, x) => s + (x - mean) ** 2, 0) / lengths.length,
        ) / mean
      );
    };
    const rough = cling(skewed, target, OPTIONS).mesh;
    const even = cling(skewed, target, { ...OPTIONS, relax: 20 }).mesh;
    expect(spread(even)).toBeLessThan(0.95 * spread(rough));
    expect(farthest(even, ball)).toBeLessThan(1e-4);
  });

  it("finds points that landed on the wrong limb and mends them each way", () => {
    // A sleeve round one of two rods; one of its points lies nearer to the other rod.
    const rod = (x: number) =>
      moved(scaledAcross(sphere(24, 32), 0.3, 2), x, 0, 0);
    const rods = {
      positions: Float32Array.from([
        ...rod(-0.5).positions,
        ...rod(0.5).positions,
      ]),
      triangles: Uint32Array.from([
        ...surface(rod(-0.5)).triangles,
        ...surface(rod(0.5)).triangles.map((v) => v + vertexCount(rod(0))),
      ]),
    };
    const sleeve = moved(scaledAcross(sphere(16, 20), 0.36, 1.8), -0.5, 0, 0);
    const astray: number[] = [];
    for (let v = 0; v < vertexCount(sleeve); v++)
      if (
        sleeve.positions[3 * v] > -0.19 &&
        Math.abs(sleeve.positions[3 * v + 1]) < 0.3 &&
        Math.abs(sleeve.positions[3 * v + 2]) < 0.15
      ) {
        sleeve.positions[3 * v] = 0.15;
        astray.push(v);
      }
    expect(astray.length).toBeGreaterThan(0);
    const two = new ClingTarget(rods);
    const { mesh, trouble } = cling(sleeve, two, OPTIONS);
    for (const v of astray) expect(trouble.wrong).toContain(v);
    expect(trouble.stretched.length).toBeGreaterThan(0);
    const marks = new Uint8Array(vertexCount(sleeve));
    for (const v of [...trouble.wrong, ...astray]) marks[v] = 1;
    for (const how of ["hold", "limit", "normals"] as const) {
      const mended = mendCling(mesh, two, marks, how, {
        offset: 0,
        reach: 0.2,
      });
      for (const v of astray)
        expect(mended.positions[3 * v]).toBeLessThan(-0.1);
      if (how !== "hold") {
        const own = cling(mended, two, OPTIONS);
        expect(own.trouble.wrong).toEqual([]);
      }
    }
  });
});

function scaledAcross(mesh: Mesh, across: number, along: number): Mesh {
  return {
    ...mesh,
    positions: mesh.positions.map((x, i) => x * (i % 3 === 1 ? along : across)),
  };
}
