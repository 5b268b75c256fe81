import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cross } from "../space/vector";
import { createMesh } from "./change-faces";
import { triangulate } from "./triangulate";

type Triple = [number, number, number];

/** A simple polygon: corners at random distances round a middle, laid into a plane at random. */
const polygons = fc
  .record({
    radii: fc.array(fc.double({ min: 0.05, max: 1, noNaN: true }), {
      minLength: 3,
      maxLength: 24,
    }),
    turn: fc.double({ min: 0, max: 6, noNaN: true }),
    tilt: fc.double({ min: 0, max: 3, noNaN: true }),
    size: fc.constantFrom(1e-3, 1, 1e4),
  })
  .map(({ radii, turn, tilt, size }) => {
    const u: Triple = [Math.cos(turn), Math.sin(turn), 0];
    const v: Triple = [
      -Math.sin(turn) * Math.cos(tilt),
      Math.cos(turn) * Math.cos(tilt),
      Math.sin(tilt),
    ];
    const flat = radii.map((r, i) => {
      const angle = (2 * Math.PI * i) / radii.length;
      return [size * r * Math.cos(angle), size * r * Math.sin(angle)];
    });
    const positions = Float32Array.from(
      flat.flatMap(([x, y]) => [0, 1, 2].map((k) => x * u[k] + y * v[k])),
    );
    const area = flat.reduce((sum, [x, y], i) => {
      const [nx, ny] = flat[(i + 1) % flat.length];
      return sum + (x * ny - nx * y) / 2;
    }, 0);
    return { positions, area, size, normal: cross(u, v), count: radii.length };
  });

describe("triangles of a simple polygon", () => {
  it("have its area together, all face its way, and use each corner", () => {
    fc.assert(
      fc.property(polygons, ({ positions, area, size, normal, count }) => {
        const mesh = createMesh({
          positions,
          faceStarts: Uint32Array.from([0, count]),
          corners: Uint32Array.from({ length: count }, (_, i) => i),
        });
        const { vertices } = triangulate(mesh);
        expect(vertices).toHaveLength(3 * (count - 2));
        expect(new Set(vertices).size).toBe(count);
        let sum = 0;
        for (let t = 0; t < vertices.length; t += 3) {
          const [a, b, c] = [0, 1, 2].map((k) =>
            positions.subarray(3 * vertices[t + k], 3 * vertices[t + k] + 3),
          );
          const [e, f] = [b, c].map((p) => [0, 1, 2].map((k) => p[k] - a[k]));
          const n = cross(e as Triple, f as Triple);
          const facing = n.reduce((s, x, k) => s + x * normal[k], 0) / 2;
          expect(facing).toBeGreaterThan(-1e-6 * size * size);
          sum += facing;
        }
        expect(sum / (size * size)).toBeCloseTo(area / (size * size), 4);
      }),
      { seed: 5, numRuns: 300 },
    );
  });
});
