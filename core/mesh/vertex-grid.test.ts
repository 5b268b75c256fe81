import fc from "fast-check";
import { expect, it } from "vitest";
import { VertexGrid } from "./vertex-grid";

const number = fc.double({ min: -5, max: 5, noNaN: true });
const point = fc.tuple(number, number, number);

it("the nearest point is found as by asking all of them, near and far, or none within a limit", () => {
  fc.assert(
    fc.property(
      fc.array(point, { minLength: 1, maxLength: 40 }),
      fc.tuple(number, number, number).map((p) => p.map((x) => 2 * x)),
      fc.double({ min: 0.1, max: 4, noNaN: true }),
      (points, [x, y, z], within) => {
        const p = Float32Array.from(points.flat());
        const far2 = (v: number) =>
          (p[3 * v] - x) ** 2 +
          (p[3 * v + 1] - y) ** 2 +
          (p[3 * v + 2] - z) ** 2;
        const least = Math.min(...points.map((_, v) => far2(v)));
        const grid = new VertexGrid(p);
        expect(far2(grid.nearest(x, y, z))).toBe(least);
        const found = grid.nearest(x, y, z, within);
        if (least > within * within) expect(found).toBe(-1);
        else expect(far2(found)).toBe(least);
      },
    ),
  );
});

it("of points in one place the first is found", () => {
  const grid = new VertexGrid(Float32Array.from([1, 1, 1, 2, 2, 2, 1, 1, 1]));
  expect(grid.nearest(1, 1, 1.2)).toBe(0);
});
