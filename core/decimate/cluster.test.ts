import { describe, expect, it } from "vitest";
import { joined, sphere } from "../../tests/shapes";
import { meshFromTriangles } from "../mesh/change-faces";
import { buildEdges } from "../mesh/edges";
import { faceCount } from "../mesh/mesh";
import { clusterMesh } from "./cluster";

describe("a light look-alike by cells", () => {
  it("keeps every triangle of a mesh whose vertices all lie in cells of their own", () => {
    // Kites of two triangles over one edge: their triangles differ by their last vertex alone.
    const side = 100;
    const positions: number[] = [];
    const triangles: number[] = [];
    for (let row = 0; row < side; row++)
      for (let k = 0; k < side; k++) {
        const first = positions.length / 3;
        for (const [x, y] of [
          [0, 0],
          [0.5, 0],
          [0.25, 0.5],
          [0.25, -0.4],
        ])
          positions.push(k + x, row + y, 0);
        triangles.push(first, first + 1, first + 2);
        triangles.push(first + 1, first, first + 3);
      }
    const mesh = meshFromTriangles(
      Float32Array.from(positions),
      Uint32Array.from(triangles),
    );
    const light = clusterMesh(mesh, Infinity);
    expect(faceCount(light)).toBe(2 * side * side);
    expect([...light.corners]).toEqual(triangles);
  });

  it("is as light as asked for, closed where all was, each triangle once and none flat", () => {
    const ball = sphere(200, 300, 1);
    const light = clusterMesh(joined(ball, ball), 9000);
    const faces = faceCount(light);
    expect(faces).toBeLessThanOrEqual(9000);
    expect(faces).toBeGreaterThan(4500);
    const keys = new Set<string>();
    for (let f = 0; f < faces; f++) {
      const corners = [...light.corners.subarray(3 * f, 3 * f + 3)].sort(
        (a, b) => a - b,
      );
      expect(new Set(corners).size).toBe(3);
      keys.add(corners.join());
    }
    expect(keys.size).toBe(faces);
    const { count, uses } = buildEdges(light);
    for (let e = 0; e < count; e++) expect(uses[e]).toBeGreaterThan(1);
    for (let v = 0; v < light.positions.length; v += 3)
      expect(Math.hypot(...light.positions.subarray(v, v + 3))).toBeCloseTo(
        1,
        1,
      );
  });
});
