import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  cube,
  joined,
  moved,
  roughScan,
  sheetMesh,
  sphere,
  strewn,
  torus,
} from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { faceComponents } from "../mesh/components";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import { measureDeviation } from "../space/deviation";
import { BucketQueue } from "../base/bucket-queue";
import { Quadrics } from "../decimate/quadrics";
import { Collapser } from "../decimate/collapse";
import { gatherSoup } from "../decimate/soup";
import { reduceTogether } from "../decimate/reduce-together";

const reduce = (mesh: Mesh, budget: number) =>
  reduceTogether([mesh], budget, plainContext())[0]!;
const surface = (mesh: Mesh) => ({
  positions: mesh.positions,
  triangles: mesh.corners,
});

describe("bucket queue", () => {
  it("gives costs in order, to half a percent", () => {
    const queue = new BucketQueue(4);
    const costs = Array.from(
      { length: 500 },
      (_, i) => Math.abs(Math.sin(i * 12.9898)) ** 7,
    );
    costs.forEach((cost, i) => queue.push(cost, i, i + 1, i));
    let last = 0;
    for (let i = 0; i < 500; i++) {
      expect(queue.pop()).toBe(true);
      expect(queue.cost).toBeGreaterThanOrEqual(last * 0.995);
      expect(queue.stamp).toBe(queue.a);
      last = queue.cost;
    }
    expect(queue.pop()).toBe(false);
    queue.push(1, 1, 2, 3);
    queue.clear();
    expect(queue.pop()).toBe(false);
  });
});

describe("quadrics", () => {
  it("find the corner where three planes meet", () => {
    const quadrics = new Quadrics(
      2,
      new Float64Array([0.9, 1.1, 1, 1.1, 0.9, 1]),
    );
    for (const v of [0, 1])
      [0, 1, 2].forEach((axis) =>
        quadrics.addPlane(
          v,
          axis === 0 ? 1 : 0,
          axis === 1 ? 1 : 0,
          axis === 2 ? 1 : 0,
          -1,
          1,
        ),
      );
    expect(quadrics.place(0, 1)).toBeCloseTo(0, 5);
    expect(
      [quadrics.x, quadrics.y, quadrics.z].map((x) => Math.round(x * 1000)),
    ).toEqual([1000, 1000, 1000]);
  });
});

describe("reduction", () => {
  it("never exceeds its budget and stays within a percent of it", () => {
    fc.assert(
      fc.property(
        fc.constantFrom(
          sphere(30, 40),
          torus(40, 20),
          sheetMesh(30, (x, z) => 0.2 * Math.sin(9 * x) * z),
        ),
        fc.integer({ min: 60, max: 1500 }),
        (mesh, budget) => {
          const count = triangleCount(reduce(mesh, budget));
          expect(count).toBeLessThanOrEqual(budget);
          if (budget <= triangleCount(mesh))
            expect(count).toBeGreaterThanOrEqual(Math.floor(budget * 0.99) - 1);
        },
      ),
      { numRuns: 7 },
    );
  });

  it("spends what it keeps back even where it is worst at vertices", () => {
    for (const budget of [372, 438, 502])
      expect(triangleCount(reduce(sphere(30, 40), budget))).toBe(budget);
  });

  it("keeps closed bodies closed and manifold, and their handles", () => {
    for (const [body, euler] of [
      [
        sphere(40, 60, 1, (a, t) => 0.05 * Math.sin(8 * a) * Math.cos(6 * t)),
        2,
      ],
      [torus(60, 30), 0],
    ] as const) {
      const small = reduce(body, 300);
      const edges = buildEdges(small);
      expect([...edges.uses].every((uses) => uses === 2)).toBe(true);
      expect(
        small.positions.length / 3 - edges.count + triangleCount(small),
      ).toBe(euler);
    }
  });

  it("lies near its source, nearer with more triangles", () => {
    const body = sphere(60, 80, 1, (a) => 0.04 * Math.sin(11 * a));
    const rms = [200, 800, 3000].map(
      (budget) =>
        measureDeviation(surface(body), surface(reduce(body, budget)), 4000)
          .rms,
    );
    expect(rms[0]).toBeLessThan(0.01);
    expect(rms[1]).toBeLessThan(rms[0] / 2);
    expect(rms[2]).toBeLessThan(rms[1] / 2);
  });

  it("keeps a flat sheet's border exactly", () => {
    const small = reduce(sheetMesh(40), 2);
    expect(triangleCount(small)).toBe(2);
    expect(
      [...small.positions].map((x) => Math.round(x * 1e4) / 1e4).sort(),
    ).toEqual([0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1]);
  });

  it("keeps the line between two materials", () => {
    const mesh = sheetMesh(24);
    const faceMaterials = Uint16Array.from(
      { length: triangleCount(mesh) },
      (_, f) => (f % 48 < 24 ? 0 : 1),
    );
    const small = reduceTogether(
      [{ ...mesh, faceMaterials, materials: ["a", "b"] }],
      40,
      plainContext(),
    )[0]!;
    const area = [0, 0];
    for (let t = 0; t < triangleCount(small); t++) {
      const [a, b, c] = [0, 1, 2].map((k) => 3 * small.corners[3 * t + k]);
      const p = small.positions;
      area[small.faceMaterials![t]] +=
        Math.abs(
          (p[b] - p[a]) * (p[c + 2] - p[a + 2]) -
            (p[c] - p[a]) * (p[b + 2] - p[a + 2]),
        ) / 2;
    }
    expect(area[0]).toBeCloseTo(0.5, 2);
    expect(area[1]).toBeCloseTo(0.5, 2);
  });

  it("turns no face inside out", () => {
    const small = reduce(sphere(50, 70), 400);
    const p = small.positions;
    for (let t = 0; t < small.corners.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => [
        ...p.subarray(3 * small.corners[t + k], 3 * small.corners[t + k] + 3),
      ]);
      const det =
        a[0] * (b[1] * c[2] - b[2] * c[1]) -
        a[1] * (b[0] * c[2] - b[2] * c[0]) +
        a[2] * (b[0] * c[1] - b[1] * c[0]);
      expect(det).toBeGreaterThan(0);
    }
  });

  it("gives up specks before it spoils what is seen", () => {
    const specks = Array.from({ length: 120 }, (_, i) => {
      const tiny = sphere(4, 5, 0.004);
      return moved(
        tiny,
        Math.cos(i) * 1.02,
        Math.sin(i * 3) * 0.2,
        Math.sin(i) * 1.02,
      );
    });
    const small = reduce(joined(sphere(40, 60), ...specks), 400);
    expect(triangleCount(small)).toBeLessThanOrEqual(400);
    expect(faceComponents(small).count).toBeLessThan(20);
    expect(
      measureDeviation(surface(sphere(40, 60)), surface(small), 3000).rms,
    ).toBeLessThan(0.01);
  });

  it("holds budget and quality on a rough scan with specks, holes, fins and doubles", () => {
    const scan = roughScan();
    for (const budget of [2000, 300]) {
      const small = reduce(scan, budget);
      const count = triangleCount(small);
      expect(count).toBeLessThanOrEqual(budget);
      expect(count).toBeGreaterThanOrEqual(budget * 0.99 - 1);
      const { rms } = measureDeviation(
        surface(sphere(90, 120)),
        surface(small),
        4000,
      );
      expect(rms).toBeLessThan(budget > 1000 ? 0.04 : 0.06);
    }
  });

  it("reaches any budget on triangles strewn at random", () => {
    for (const budget of [160, 30, 4])
      expect(triangleCount(reduce(strewn(400, 4), budget))).toBeLessThanOrEqual(
        budget,
      );
  });

  it("leaves a mesh under its budget alone but for its faces' order", () => {
    expect(triangleCount(reduce(cube(), 5000))).toBe(12);
  });

  it("gives the same bytes each time", () => {
    const body = sphere(40, 50, 1, (a) => 0.03 * Math.sin(5 * a));
    expect([...reduce(body, 300).positions]).toEqual([
      ...reduce(body, 300).positions,
    ]);
  });
});

describe("a budget over the whole asset", () => {
  const asset = createAsset("pair", [
    createPart("large", 0, { source: sphere(60, 80, 1) }),
    createPart("small", 1, { source: moved(sphere(60, 80, 0.1), 3, 0, 0) }),
  ]);
  const run = (raw: typeof asset, triangles: number) =>
    runOperation(
      findOperation("reduce/to-budget"),
      raw,
      { triangles },
      plainContext(),
    );
  const counts = (done: typeof asset) =>
    done.parts.map((part) => (part.game ? triangleCount(part.game) : 0));

  it("goes where it is seen", async () => {
    const { asset: done, report } = await run(asset, 1000);
    const [large, small] = counts(done);
    expect(large).toBeGreaterThan(3 * small);
    expect(report.triangles).toBe(large + small);
  });

  it("leaves parts their own budget and locked parts as they are", async () => {
    const { asset: first } = await run(asset, 1000);
    const rules = {
      ...first,
      parts: [
        { ...first.parts[0], locked: true },
        { ...first.parts[1], budget: 50 },
      ],
    };
    const { asset: done } = await run(rules, 1000);
    expect(counts(done)).toEqual([counts(first)[0], 50]);
    await expect(
      run(
        {
          ...rules,
          parts: [...rules.parts, createPart("more", 2, { source: sphere() })],
        },
        60,
      ),
    ).rejects.toThrow(/leave/);
  });

  it("says what is missing", async () => {
    await expect(run(createAsset("none"), 100)).rejects.toThrow(
      /no source mesh/,
    );
  });
});

it("says where budgets that parts have of their own are more than the asset's", async () => {
  const asset = createAsset("set", [
    createPart("ball", 0, { source: sphere(20, 28), budget: 100 }),
  ]);
  const run = (triangles: number) =>
    runOperation(
      findOperation("reduce/to-budget"),
      asset,
      { triangles },
      plainContext(),
    );
  const { report } = await run(60);
  expect(report.triangles).toBe(100);
  expect(report.failed).toContain(
    "parts have 100 triangles by budgets of their own, and 60 are allowed",
  );
  expect((await run(100)).report.failed).toBeUndefined();
});

it("comes to an end where nothing is left to collapse", () => {
  const pair = meshFromTriangles(
    new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
    new Uint32Array([0, 1, 2, 0, 2, 3]),
  );
  const collapser = new Collapser(gatherSoup([pair]), 1, { keepsPieces: true });
  collapser.run(-1, { progress() {}, check() {} });
  expect(collapser.live).toBe(0);
});
