import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { joined, moved, sheetMesh, sphere, torus } from "../../tests/shapes";
import { recordTogether, seekMeshes } from "./reduce-together";
import { plainContext } from "../base/context";
import { Collapser } from "./collapse";
import {
  baseCounts,
  allocateBudget,
  errorCurves,
  seek,
} from "./collapse-record";
import { buildEdges } from "../mesh/edges";
import { triangleCount } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { seededRandom } from "../base/random";
import type { Soup } from "./soup";
import { gatherSoup } from "./soup";

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
    const { triangles } = allocateBudget(record, {
      budget: 1000,
      own: [200, 0],
    });
    expect(triangles[0]).toBeLessThanOrEqual(200);
    expect(triangles[0]).toBeGreaterThan(195);
    expect(triangles[0] + triangles[1]).toBeLessThanOrEqual(1000);
    expect(triangles[1]).toBeGreaterThan(780);
  });

  it("caps a mesh without fixing it", () => {
    const free = allocateBudget(record, { budget: 1000 }).triangles;
    const capped = allocateBudget(record, {
      budget: 1000,
      cap: [free[0] - 60, 0],
    });
    expect(capped.triangles[0]).toBeLessThanOrEqual(free[0] - 60);
    expect(capped.triangles[1]).toBeGreaterThan(free[1]);
    expect(
      allocateBudget(record, { budget: 1000, cap: [5000, 0] }).triangles,
    ).toEqual(free);
  });

  it("counts what is placed several times as often", () => {
    const { triangles } = allocateBudget(record, {
      budget: 1000,
      times: [3, 1],
    });
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
    const none = seek(record, new Uint8Array(record.removedCount.length));
    expect([...none.triangles]).toEqual([...record.triangles]);
  });

  it("holds where hardly an edge can go before it begins", () => {
    const tetrahedron = meshFromTriangles(
      Float32Array.of(0, 0, 0, 0.1, 0, 0, 0, 0.1, 0, 0, 0, 0.1),
      Uint32Array.of(0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3),
    );
    const many = Array.from({ length: 1500 }, (_, i) =>
      moved(tetrahedron, i % 40, Math.floor(i / 40), 0),
    );
    const soup = gatherSoup([
      joined(moved(sphere(6, 8, 0.02), 0, 0, 9), ...many),
    ]);
    const stalled = new Collapser(soup, 1).record(50, 40, {
      check() {},
      progress() {},
    });
    expect(stalled.owner.length).toBe(baseCounts(stalled)[0]);
    const { taken } = allocateBudget(stalled, { budget: 6020 });
    const { triangles } = seek(stalled, taken);
    expect(triangles.length / 3).toBeLessThanOrEqual(6020);
    for (let c = 0; c < triangles.length; c += 3)
      expect(new Set(triangles.subarray(c, c + 3)).size).toBe(3);
    const faceStarts = Uint32Array.from(
      { length: triangles.length / 3 + 1 },
      (_, t) => 3 * t,
    );
    const { uses } = buildEdges({ corners: triangles, faceStarts });
    expect([...uses].every((count) => count === 2)).toBe(true);
  });

  it("begins where it is meant to although the cheapest edges of a rough, thin-rowed sheet are refused", () => {
    const random = seededRandom(3);
    const n = 450;
    const sheet = sheetMesh(n, () => 0.0002 * random());
    // Every other row lies hardly off the one before it.
    const positions = sheet.positions.map((x, i) =>
      i % 3 === 2 && Math.floor(i / 3 / (n + 1)) % 2 ? x - 0.94 / n : x,
    );
    const from = 30_000;
    const soup = gatherSoup([{ ...sheet, positions }]);
    const { owner } = new Collapser(soup, 1).record(from, 500, {
      check() {},
      progress() {},
    });
    expect(owner.length).toBeLessThanOrEqual(1.02 * from);
  });

  it("holds at every count what collapsing to it leaves", () => {
    const body = () =>
      gatherSoup([sphere(24, 30, 1, (a, h) => 0.1 * Math.sin(5 * a + 3 * h))]);
    const hooks = { check() {}, progress() {} };
    const whole = new Collapser(body(), 1).record(1e6, 200, hooks);
    /** Triangles by the places of their corners, in no order. */
    const places = ({
      triangles,
      positions,
    }: Pick<Soup, "triangles"> & { positions: ArrayLike<number> }) =>
      Array.from({ length: triangles.length / 3 }, (_, t) => {
        const at = [0, 1, 2].map((k) => {
          const v = 3 * triangles[3 * t + k];
          return [0, 1, 2].map((i) => Math.fround(positions[v + i])).join(" ");
        });
        const first = at.indexOf(at.toSorted()[0]);
        return [...at.slice(first), ...at.slice(0, first)].join(", ");
      }).sort();
    fc.assert(
      fc.property(fc.integer({ min: 8, max: 1400 }), (count) => {
        const soup = body();
        new Collapser(soup, 1).run(count, hooks);
        const { taken } = allocateBudget(whole, { budget: count });
        expect(places(seek(whole, taken))).toEqual(places(soup));
      }),
      { numRuns: 25 },
    );
  });

  it("stays manifold from first to last where the source is", () => {
    const soup = gatherSoup([
      sheetMesh(18, (x, z) => 0.1 * Math.sin(7 * x) * z),
      moved(torus(30, 16), 4, 0, 0),
    ]);
    const all = new Collapser(soup, 2).record(1e6, 100, {
      check() {},
      progress() {},
    });
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 1500 }), (budget) => {
        const { triangles } = seek(all, allocateBudget(all, { budget }).taken);
        const faceStarts = Uint32Array.from(
          { length: triangles.length / 3 + 1 },
          (_, t) => 3 * t,
        );
        const { uses } = buildEdges({ corners: triangles, faceStarts });
        expect(Math.max(...uses)).toBeLessThanOrEqual(2);
      }),
      { numRuns: 40 },
    );
  });
});
