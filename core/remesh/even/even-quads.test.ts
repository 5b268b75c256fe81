import { describe, expect, it } from "vitest";
import { cube, sphere, torus, tubeMesh } from "../../../tests/shapes";
import { measureDeviation } from "../../space/deviation";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { quadShare } from "../pair-quads";
import { triangulate } from "../../mesh/triangulate";
import { evenQuads } from "./even-quads";

const lay = (mesh: Mesh, triangles: number, pure = false, grading = 1) =>
  evenQuads(
    mesh,
    { triangles, pure, grading, sizeAt: null, guides: null },
    () => {},
  );
const surface = (mesh: Mesh) => ({
  positions: mesh.positions,
  triangles: triangulate(mesh).vertices,
});

/** Mean difference of the corners of quads from right angles, degrees. */
function angleError(mesh: Mesh): number {
  let sum = 0;
  let count = 0;
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    if (mesh.faceStarts[f + 1] - s !== 4) continue;
    for (let i = 0; i < 4; i++) {
      const at = (j: number) => 3 * mesh.corners[s + ((i + j) % 4)];
      const d = (j: number) =>
        [0, 1, 2].map(
          (k) => mesh.positions[at(j) + k] - mesh.positions[at(0) + k],
        );
      const [u, v] = [d(1), d(3)];
      const cos =
        (u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) /
        (Math.hypot(...u) * Math.hypot(...v) || 1);
      sum += Math.abs((Math.acos(cos) * 180) / Math.PI - 90);
      count++;
    }
  }
  return sum / count;
}

describe("even quads", () => {
  const bodies: [string, Mesh][] = [
    [
      "a bumpy ball",
      sphere(40, 60, 1, (a, t) => 0.08 * Math.sin(3 * a) * Math.cos(t)),
    ],
    ["a ring", torus(60, 30)],
    ["a cube", cube()],
  ];
  for (const [name, body] of bodies)
    it(`of ${name}: mostly quads, square, closed, within the count`, () => {
      const made = lay(body, 1200);
      expect(triangleCount(made)).toBeLessThanOrEqual(1200);
      expect(triangleCount(made)).toBeGreaterThan(1050);
      expect(quadShare(made)).toBeGreaterThanOrEqual(0.95);
      expect(angleError(made)).toBeLessThan(15);
      expect([...buildEdges(made).uses].every((uses) => uses === 2)).toBe(true);
      expect(
        measureDeviation(surface(body), surface(made), 4000).rms,
      ).toBeLessThan(0.003);
    });

  it("leaves no triangle where only quads are wanted", () => {
    const made = lay(sphere(40, 60), 1000, true);
    expect(quadShare(made)).toBe(1);
    expect([...buildEdges(made).uses].every((uses) => uses === 2)).toBe(true);
  });

  it("keeps an open border open, and one piece", () => {
    const made = lay(tubeMesh(32, 16), 800);
    const uses = [...buildEdges(made).uses];
    expect(uses.filter((n) => n === 1).length).toBeGreaterThan(8);
    expect(uses.every((n) => n <= 2)).toBe(true);
  });

  it("is finer where it is wanted finer", () => {
    const made = evenQuads(
      sphere(60, 80),
      {
        triangles: 1600,
        pure: false,
        grading: 1,
        sizeAt: (_, y) => (y > 0 ? 0.6 : 1.4),
        guides: null,
      },
      () => {},
    );
    let above = 0;
    for (let f = 0; f < faceCount(made); f++)
      if (made.positions[3 * made.corners[made.faceStarts[f]] + 1] > 0) above++;
    expect(above).toBeGreaterThan(1.8 * (faceCount(made) - above));
  });

  it("is nearer to the source where bends may ask for smaller, oblong quads", () => {
    // A ball that ends in a thin horn.
    const body = sphere(
      60,
      60,
      1,
      (_, t) => 2.2 * Math.exp(-((t / 0.22) ** 2)),
    );
    const [even, graded] = [1, 2].map((grading) =>
      measureDeviation(
        surface(body),
        surface(lay(body, 900, false, grading)),
        8000,
      ),
    );
    expect(graded.rms).toBeLessThan(0.85 * even.rms);
    expect(graded.max).toBeLessThan(0.85 * even.max);
    const made = lay(torus(90, 40, 1, 0.3), 1600, false, 2);
    expect(quadShare(made)).toBeGreaterThanOrEqual(0.95);
    expect(angleError(made)).toBeLessThan(15);
    expect([...buildEdges(made).uses].every((uses) => uses === 2)).toBe(true);
  });

  it("gives the same bytes each time", () => {
    const body = sphere(30, 40);
    expect([...lay(body, 500).positions]).toEqual([
      ...lay(body, 500).positions,
    ]);
  });
});
