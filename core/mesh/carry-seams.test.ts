import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { sphere, torus, tubeMesh } from "../../tests/shapes";
import { seededRandom } from "../base/random";
import { carrySeams } from "./carry-seams";
import { buildEdges } from "./edges";
import { unit } from "../space/vector";

/** Marks of single edges and of runs of them, on both corners that leave along an edge. */
function marked(mesh: ReturnType<typeof sphere>, share: number, seed: number) {
  const random = seededRandom(seed);
  const edges = buildEdges(mesh);
  const marks = new Uint8Array(mesh.corners.length);
  for (let e = 0; e < edges.count; e++) {
    if (random() > share) continue;
    const value = random() < 0.5 ? 1 : 2;
    marks[edges.first[e]] = value;
    if (edges.second[e] >= 0) marks[edges.second[e]] = value;
  }
  return marks;
}

describe("lines of edges", () => {
  it("carried onto the same mesh stay what they are, few or nearly all", () => {
    const bodies = fc.constantFrom(
      sphere(8, 10),
      torus(10, 7),
      tubeMesh(9, 12),
    );
    fc.assert(
      fc.property(
        bodies,
        fc.constantFrom(0.01, 0.1, 0.4),
        fc.integer({ min: 1, max: 999 }),
        (mesh, share, seed) => {
          const marks = marked(mesh, share, seed);
          expect(carrySeams(mesh, marks, mesh)).toEqual(marks);
        },
      ),
      { seed: 4, numRuns: 60 },
    );
  });

  it("come to lie along the same line on a finer mesh", () => {
    const coarse = sphere(12, 16);
    const fine = sphere(24, 32);
    const { first, second, vertices, count } = buildEdges(coarse);
    const marks = new Uint8Array(coarse.corners.length);
    // The equator.
    for (let e = 0; e < count; e++) {
      const level = [0, 1].every(
        (k) => Math.abs(coarse.positions[3 * vertices[2 * e + k] + 1]) < 1e-6,
      );
      if (level) marks[first[e]] = marks[second[e]] = 1;
    }
    expect(marks.some(Boolean)).toBe(true);
    const carried = carrySeams(coarse, marks, fine);
    const found = buildEdges(fine);
    let length = 0;
    for (let e = 0; e < found.count; e++) {
      if (!carried[found.first[e]]) continue;
      const [a, b] = [0, 1].map((k) => {
        const v = 3 * found.vertices[2 * e + k];
        return [...fine.positions.subarray(v, v + 3)];
      });
      expect(Math.abs(unit(a)[1])).toBeLessThan(0.15);
      length += Math.hypot(...a.map((x, k) => x - b[k]));
    }
    expect(length).toBeGreaterThan(0.95 * 2 * Math.PI);
    expect(length).toBeLessThan(1.1 * 2 * Math.PI);
  });
});
