import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { moved, sphere, torus } from "../../tests/shapes";
import { recordTogether, seekMeshes } from "../asset/reduce-meshes";
import { plainContext } from "../operation";
import { baseCounts, dealOut, errorCurves, seek } from "./collapse-record";
import { buildEdges } from "./edges";
import { triangleCount } from "./mesh";

const meshes = [
  sphere(40, 60, 1, (a) => 0.05 * Math.sin(6 * a)),
  moved(torus(50, 24), 3, 0, 0),
];
const { record } = recordTogether(meshes, 600, {}, plainContext());
const materials = meshes.map((mesh) => mesh.materials);

describe("a record of collapses", () => {
  it("gives any budget by a seek, never above it", () => {
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 7000 }), (budget) => {
        const found = seekMeshes(record, materials, { budget });
        const count = found.reduce(
          (sum, mesh) => sum + (mesh ? triangleCount(mesh) : 0),
          0,
        );
        expect(count).toBeLessThanOrEqual(budget);
        const all = baseCounts(record).reduce((sum, n) => sum + n, 0);
        expect(count).toBeGreaterThanOrEqual(
          Math.min(all, Math.floor(0.99 * budget) - 2),
        );
      }),
      { numRuns: 40 },
    );
  });

  it("keeps closed bodies closed at every state", () => {
    for (const budget of [3000, 700, 150])
      for (const mesh of seekMeshes(record, materials, { budget }))
        expect([...buildEdges(mesh!).uses].every((uses) => uses === 2)).toBe(
          true,
        );
  });

  it("lets a mesh keep to its own number and the others share the rest", () => {
    const { triangles } = dealOut(record, { budget: 1000, own: [200, 0] });
    expect(triangles[0]).toBeLessThanOrEqual(200);
    expect(triangles[0]).toBeGreaterThan(195);
    expect(triangles[0] + triangles[1]).toBeLessThanOrEqual(1000);
    expect(triangles[1]).toBeGreaterThan(780);
  });

  it("caps a mesh without fixing it", () => {
    const free = dealOut(record, { budget: 1000 }).triangles;
    const capped = dealOut(record, { budget: 1000, cap: [free[0] - 60, 0] });
    expect(capped.triangles[0]).toBeLessThanOrEqual(free[0] - 60);
    expect(capped.triangles[1]).toBeGreaterThan(free[1]);
    expect(dealOut(record, { budget: 1000, cap: [5000, 0] }).triangles).toEqual(
      free,
    );
  });

  it("counts what is placed several times as often", () => {
    const { triangles } = dealOut(record, { budget: 1000, times: [3, 1] });
    expect(3 * triangles[0] + triangles[1]).toBeLessThanOrEqual(1000);
    expect(3 * triangles[0] + triangles[1]).toBeGreaterThan(985);
  });

  it("has an error that only grows as triangles go", () => {
    const { all, meshes: each } = errorCurves(record);
    for (const curve of [all, ...each]) {
      expect(curve.triangles.length).toBeGreaterThan(10);
      for (let i = 1; i < curve.rms.length; i++) {
        expect(curve.triangles[i]).toBeGreaterThan(curve.triangles[i - 1]);
        expect(curve.rms[i]).toBeLessThanOrEqual(curve.rms[i - 1]);
      }
    }
  });

  it("begins where nothing is taken", () => {
    const none = seek(record, new Uint8Array(record.gone.length));
    expect([...none.triangles]).toEqual([...record.triangles]);
  });
});
