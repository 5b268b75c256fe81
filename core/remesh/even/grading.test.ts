import { describe, expect, it } from "vitest";
import { sphere, tubeMesh } from "../../../tests/shapes";
import { gradeByBends, lengthAlong } from "./grading";
import { evenMetric } from "./work-mesh";
import { workMesh } from "./work-mesh";

describe("wanted lengths of edges", () => {
  it("are read back in any direction", () => {
    const metric = evenMetric([2, 0.5]);
    for (const [x, y, z] of [
      [1, 0, 0],
      [0, 0.6, 0.8],
    ]) {
      expect(lengthAlong(metric, 0, x, y, z)).toBeCloseTo(2, 9);
      expect(lengthAlong(metric, 1, x, y, z)).toBeCloseTo(0.5, 9);
    }
  });

  for (const grading of [1.5, 2, 3])
    it(`are up to ${grading} times longer along a tube than round it, and drawn to its bend`, () => {
      const work = workMesh(tubeMesh(60, 60), 0.2, 4000, () => {});
      gradeByBends(work, grading);
      let seen = 0;
      for (let v = 0; v < work.bound.length; v++) {
        const [x, y, z] = work.positions.slice(3 * v, 3 * v + 3);
        if (Math.abs(y) > 1) continue;
        seen++;
        const along = lengthAlong(work.metric, v, 0, 1, 0);
        const round = lengthAlong(work.metric, v, -z, 0, x);
        expect(along / round).toBeGreaterThan(Math.min(0.9 * grading, 1.45));
        expect(along / round).toBeLessThan(1.05 * grading);
        const [px, py, pz] = work.pull.slice(3 * v, 3 * v + 3);
        expect(Math.abs(px * -z + pz * x)).toBeGreaterThan(4 * Math.abs(py));
      }
      expect(seen).toBeGreaterThan(200);
    });

  it("are alike all over a ball, and differ by no more than said elsewhere", () => {
    const ball = workMesh(sphere(40, 60), 0.1, 3000, () => {});
    gradeByBends(ball, 3);
    const lumpy = workMesh(
      sphere(60, 80, 1, (a, t) => 0.15 * Math.sin(5 * a) * Math.cos(3 * t)),
      0.1,
      3000,
      () => {},
    );
    gradeByBends(lumpy, 3);
    const spread = (metric: Float64Array) => {
      const lengths = Array.from({ length: metric.length / 6 }, (_, v) =>
        [
          [1, 0, 0],
          [0, 1, 0],
          [0, 0, 1],
        ].map(([x, y, z]) => lengthAlong(metric, v, x, y, z)),
      ).flat();
      lengths.sort((a, b) => a - b);
      return lengths.at(-1)! / lengths[0];
    };
    expect(spread(ball.metric)).toBeLessThan(1.4);
    expect(spread(lumpy.metric)).toBeGreaterThan(1.5);
    expect(spread(lumpy.metric)).toBeLessThan(9.1);
  });
});
