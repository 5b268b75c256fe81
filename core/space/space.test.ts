import { describe, expect, it } from "vitest";
import fc from "fast-check";
import { compileKernel } from "../../scripts/kernel.mjs";
import { readFileSync } from "node:fs";
import { sphere, strewn, torus } from "../../tests/shapes";
import { boundsOf, diagonalOf } from "./bounds";
import { buildBvh } from "./bvh";
import { ClosestPoint } from "./closest-point";
import { measureDeviation } from "./deviation";
import { portrait } from "../asset/portrait";
import { seededRandom } from "../base/random";
import { rasterizeTriangle } from "./raster";
import { RayScene, widen } from "./ray-scene";
import { dot, unit } from "./vector";
import { sampleSurface, triangleArea } from "./sample";
import { createAsset, createPart } from "../asset/asset";

/** Distance along a ray to the nearest triangle, tested one by one in double precision. */
function bruteRay(
  p: Float32Array,
  tri: Uint32Array,
  o: number[],
  d: number[],
): number {
  let best = Infinity;
  for (let t = 0; t < tri.length; t += 3) {
    const a = [...p.subarray(3 * tri[t], 3 * tri[t] + 3)];
    const e1 = [0, 1, 2].map((k) => p[3 * tri[t + 1] + k] - a[k]);
    const e2 = [0, 1, 2].map((k) => p[3 * tri[t + 2] + k] - a[k]);
    const cross = (x: number[], y: number[]) => [
      x[1] * y[2] - x[2] * y[1],
      x[2] * y[0] - x[0] * y[2],
      x[0] * y[1] - x[1] * y[0],
    ];
    const dot = (x: number[], y: number[]) =>
      x[0] * y[0] + x[1] * y[1] + x[2] * y[2];
    const q = cross(d, e2);
    const det = dot(e1, q);
    if (Math.abs(det) < 1e-12) continue;
    const s = o.map((x, k) => x - a[k]);
    const u = dot(s, q) / det;
    const r = cross(s, e1);
    const v = dot(d, r) / det;
    const hit = dot(e2, r) / det;
    if (u >= 0 && v >= 0 && u + v <= 1 && hit >= 0 && hit < best) best = hit;
  }
  return best;
}

describe("rays", () => {
  it("hit what a test of every triangle hits, first and at all", () => {
    const mesh = strewn(700, 11);
    const scene = new RayScene([widen(buildBvh(mesh.positions, mesh.corners))]);
    const random = seededRandom(2);
    let hits = 0;
    for (let i = 0; i < 600; i++) {
      const o = [0, 1, 2].map(() => random() * 6 - 3);
      const d = [0, 1, 2].map((_, k) => random() * 2 - 1 - o[k]);
      const truth = bruteRay(mesh.positions, mesh.corners, o, d);
      const found = scene.first(0, o[0], o[1], o[2], d[0], d[1], d[2], 0, 1e9);
      expect(scene.any(0, o[0], o[1], o[2], d[0], d[1], d[2], 0, 1e9)).toBe(
        found >= 0,
      );
      if (found >= 0) hits++;
      if (truth === Infinity) continue;
      expect(found).toBeGreaterThanOrEqual(0);
      expect(scene.distance).toBeCloseTo(truth, 4);
    }
    expect(hits).toBeGreaterThan(300);
  });

  it("keep to the two distances and know front from back", () => {
    const mesh = sphere(16, 20);
    const scene = new RayScene([widen(buildBvh(mesh.positions, mesh.corners))]);
    expect(scene.first(0, 3, 0.1, 0.05, -1, 0, 0, 0, 1.5)).toBe(-1);
    expect(
      scene.first(0, 3, 0.1, 0.05, -1, 0, 0, 0, 10),
    ).toBeGreaterThanOrEqual(0);
    expect(scene.facing).toBeLessThan(0);
    expect(
      scene.first(0, 0, 0.1, 0.05, -1, 0, 0, 0, 10),
    ).toBeGreaterThanOrEqual(0);
    expect(scene.facing).toBeGreaterThan(0);
  });

  it("never slip between the triangles of a closed body", () => {
    const mesh = sphere(40, 60);
    const scene = new RayScene([widen(buildBvh(mesh.positions, mesh.corners))]);
    const p = mesh.positions;
    for (let v = 0; v < p.length; v += 3)
      expect(scene.any(0, 0, 0, 0, p[v], p[v + 1], p[v + 2], 0, 2)).toBe(true);
  });

  it("work on no triangle and on one", () => {
    const none = new RayScene([widen(buildBvh(new Float32Array(0), []))]);
    expect(none.first(0, 0, 0, 0, 1, 0, 0, 0, 10)).toBe(-1);
    const one = new RayScene([
      widen(
        buildBvh(new Float32Array([1, -1, -1, 1, 2, -1, 1, -1, 2]), [0, 1, 2]),
      ),
    ]);
    expect(one.first(0, 0, 0, 0, 1, 0, 0, 0, 10)).toBe(0);
    expect(one.distance).toBeCloseTo(1, 6);
  });

  it("look round as ray by ray, from surfaces, from inside layers, and where nothing is", () => {
    const random = seededRandom(5);
    const count = 48;
    const bumps = sphere(60, 80, 1, (a, t) => 0.1 * Math.sin(9 * a + 7 * t));
    // Sheets that all cross the middle: more boxes round it than a look begins with.
    const sheets = Float32Array.from(
      { length: 9 * 3000 },
      () => random() - 0.5,
    );
    for (const [positions, corners] of [
      [bumps.positions, bumps.corners],
      [sheets, Uint32Array.from({ length: 9000 }, (_, i) => i)],
      [new Float32Array(0), new Uint32Array(0)],
    ] as const) {
      const tree = widen(buildBvh(positions, corners));
      const scene = new RayScene([tree], count);
      let open = 0;
      for (let look = 0; look < 120; look++) {
        const normal = unit([0, 1, 2].map(() => random() - 0.5));
        const at = normal.map((x) => x * (look % 3 ? 1.02 : 0.1) * random());
        const far = look % 2 ? 3 : 0.3;
        let single = 0;
        for (let i = 0; i < count; i++) {
          const off = [0, 1, 2].map(() => random() - 0.5);
          const side = dot(off, normal) < 0 ? -1 : 1;
          const way = unit(off).map((x) => side * x);
          way.forEach((x, k) => (scene.directions[k * count + i] = x));
          const [x, y, z] = way.map(Math.fround);
          if (!scene.any(0, at[0], at[1], at[2], x, y, z, 0, far)) single++;
        }
        const found = scene.sky(
          0,
          at[0],
          at[1],
          at[2],
          normal[0],
          normal[1],
          normal[2],
          far,
        );
        expect(found).toBe(single);
        open += found;
      }
      expect(open).toBeGreaterThan(0);
      expect(open === 120 * count).toBe(positions.length === 0);
    }
  });

  it("run on the kernel that its source compiles to", () => {
    expect(readFileSync("core/space/ray-kernel.ts", "utf8")).toBe(
      compileKernel(),
    );
  });
});

describe("closest points", () => {
  it("are no farther than any vertex and lie on the surface", () => {
    const mesh = torus();
    const closest = new ClosestPoint(buildBvh(mesh.positions, mesh.corners));
    fc.assert(
      fc.property(
        fc.tuple(
          ...[0, 1, 2].map(() => fc.double({ min: -3, max: 3, noNaN: true })),
        ),
        ([x, y, z]) => {
          closest.find(x, y, z);
          const found = closest.distance2;
          let vertex = Infinity;
          for (let v = 0; v < mesh.positions.length; v += 3)
            vertex = Math.min(
              vertex,
              (mesh.positions[v] - x) ** 2 +
                (mesh.positions[v + 1] - y) ** 2 +
                (mesh.positions[v + 2] - z) ** 2,
            );
          expect(found).toBeLessThanOrEqual(vertex + 1e-6);
          // Facets sag inwards by up to 0.7 × (1 − cos 7.5°).
          const ring = Math.hypot(closest.x, closest.z) - 1;
          expect(Math.hypot(ring, closest.y)).toBeLessThan(0.31);
        },
      ),
      { numRuns: 200 },
    );
  });

  it("leave an owner out, whole subtrees at a time", () => {
    const near = sphere(8, 10);
    const indices = [
      ...near.corners,
      ...[...near.corners].map((v) => v + near.positions.length / 3),
    ];
    const positions = new Float32Array([
      ...near.positions,
      ...[...near.positions].map((x, i) => (i % 3 === 0 ? x + 5 : x)),
    ]);
    const owner = Uint32Array.from({ length: indices.length / 3 }, (_, t) =>
      t < near.corners.length / 3 ? 0 : 1,
    );
    const closest = new ClosestPoint(buildBvh(positions, indices), owner);
    closest.find(1.2, 0, 0);
    expect(Math.sqrt(closest.distance2)).toBeCloseTo(0.2, 2);
    closest.find(1.2, 0, 0, Infinity, 0);
    expect(Math.sqrt(closest.distance2)).toBeCloseTo(2.8, 1);
  });
});

describe("samples", () => {
  it("spread by area and stay on their triangles", () => {
    const positions = new Float32Array([
      0, 0, 0, 1, 0, 0, 0, 1, 0, 5, 0, 0, 8, 0, 0, 5, 3, 0,
    ]);
    const { triangles, area } = sampleSurface(
      positions,
      [0, 1, 2, 3, 4, 5],
      1000,
    );
    expect(area).toBeCloseTo(5, 6);
    expect([...triangles].filter((t) => t === 1).length / 1000).toBeCloseTo(
      0.9,
      1,
    );
    expect(triangleArea(positions, [0, 1, 2], 0)).toBeCloseTo(0.5, 6);
  });
});

describe("deviation", () => {
  it("is nothing against itself and the shift against a moved sheet", () => {
    const mesh = sphere(30, 40);
    const surface = { positions: mesh.positions, triangles: mesh.corners };
    expect(measureDeviation(surface, surface, 2000).rms).toBeLessThan(1e-6);
    const larger = {
      positions: mesh.positions.map((x) => x * 1.01),
      triangles: mesh.corners,
    };
    const { rms, max } = measureDeviation(surface, larger, 4000);
    expect(rms * diagonalOf(boundsOf(mesh.positions))).toBeCloseTo(0.01, 3);
    expect(max).toBeGreaterThanOrEqual(rms);
  });
});

describe("raster", () => {
  it("covers every centre of a fan exactly once", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 9 }),
        fc.double({ min: 4, max: 28, noNaN: true }),
        fc.double({ min: 4, max: 28, noNaN: true }),
        (spokes, cx, cy) => {
          const cover = new Uint8Array(32 * 32);
          const rim = Array.from({ length: spokes }, (_, i) => {
            const a = (2 * Math.PI * i) / spokes + 0.1;
            return [16 + 60 * Math.cos(a), 16 + 60 * Math.sin(a)];
          });
          rim.forEach(([x, y], i) => {
            const [nx, ny] = rim[(i + 1) % spokes];
            rasterizeTriangle(cx, cy, x, y, nx, ny, 32, 32, (row, from, to) => {
              for (let k = from; k < to; k++) cover[row * 32 + k]++;
            });
          });
          // A triangle of 60 pixels reach is large enough only from four spokes on.
          if (spokes >= 4)
            expect([...cover].every((count) => count === 1)).toBe(true);
          else expect([...cover].every((count) => count <= 1)).toBe(true);
        },
      ),
      { numRuns: 80 },
    );
  });
});

describe("portrait", () => {
  it("shows the asset on its ground, and nothing for an empty asset", () => {
    expect(portrait(createAsset("empty"), 8, 8)).toBeNull();
    const pixels = portrait(
      createAsset("ball", [createPart("ball", 0, { source: sphere() })]),
      32,
      24,
    )!;
    expect(pixels.length).toBe(3 * 32 * 24);
    const middle = 3 * (12 * 32 + 16);
    expect(pixels[middle]).toBeGreaterThan(pixels[middle + 2]);
    expect(pixels[2]).toBeGreaterThan(pixels[0]);
  });
});
