import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import {
  cube,
  joined,
  moved,
  roughScan,
  sheetMesh,
  sphere,
  torus,
  tubeMesh,
} from "../../../tests/shapes";
import { hardAbove } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import { keepFaces } from "../../mesh/change-faces";
import { plainContext } from "../../base/context";
import { reduceTogether } from "../../decimate/reduce-together";
import { seededRandom } from "../../base/random";
import { buildChart, prepareUnwrap } from "../methods/chart";
import { cutToDisc } from "../methods/cut";
import { crossesItself } from "../methods/flat/crosses-itself";
import { flatten } from "../methods/flatten";
import { measureUnwrap } from "../methods/measure";
import { islandsOf } from "../methods/connected-islands";
import { SparseSolver, dissectionOrder } from "../methods/sparse";

const unwrap = (mesh: Mesh, size = 512, padding = 4) =>
  laidOn([mesh], squareSheet(size, padding));
const chartOf = (mesh: Mesh) => {
  const m = prepareUnwrap(mesh);
  const faces = [...m.areas.keys()];
  return cutToDisc(m, faces, new Int32Array(faces.length), 0)!;
};
/** A flat sheet without every so manieth triangle. */
function pierced(n: number, every: number): Mesh {
  const sheet = sheetMesh(n);
  const keep = Uint8Array.from(sheet.corners.subarray(0, 2 * n * n), (_, t) =>
    t % every ? 1 : 0,
  );
  return keepFaces(sheet, keep);
}

describe("sparse solver", () => {
  it("solves a grid's Laplacian", () => {
    const n = 12;
    const at = (x: number, y: number) => y * n + x;
    const starts = [0];
    const rows: number[] = [];
    const entries: number[] = [];
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        if (y > 0) {
          rows.push(at(x, y - 1));
          entries.push(-1);
        }
        if (x > 0) {
          rows.push(at(x - 1, y));
          entries.push(-1);
        }
        rows.push(at(x, y));
        entries.push(4.5);
        starts.push(rows.length);
      }
    const solver = new SparseSolver(
      n * n,
      new Int32Array(starts),
      new Int32Array(rows),
    );
    expect(solver.factor(new Float64Array(entries))).toBe(true);
    const wanted = Float64Array.from({ length: n * n }, (_, i) => Math.sin(i));
    const right = new Float64Array(n * n);
    for (let k = 0; k < n * n; k++)
      for (let p = starts[k]; p < starts[k + 1]; p++) {
        right[rows[p]] += entries[p] * wanted[k];
        if (rows[p] !== k) right[k] += entries[p] * wanted[rows[p]];
      }
    solver.solve(right);
    right.forEach((x, i) => expect(x).toBeCloseTo(wanted[i], 8));
    expect(solver.factor(new Float64Array(entries.map((e) => -e)))).toBe(false);
  });

  it("orders every vertex once", () => {
    const n = 100;
    const places = Float64Array.from({ length: 3 * n }, (_, i) => Math.sin(i));
    const starts = Int32Array.from({ length: n + 1 }, (_, i) =>
      Math.max(0, 2 * i - 1 - (i === n ? 1 : 0)),
    );
    const list = Array.from({ length: n }, (_, i) =>
      [i - 1, i + 1].filter((v) => v >= 0 && v < n),
    ).flat();
    expect(
      [...dissectionOrder(places, starts, new Int32Array(list))].sort(
        (a, b) => a - b,
      ),
    ).toEqual([...Array(n).keys()]);
  });
});

describe("charts", () => {
  it("count as discs, rings and closed bodies", () => {
    const count = (mesh: Mesh) => {
      const m = prepareUnwrap(mesh);
      const faces = [...m.areas.keys()];
      const chart = buildChart(
        m,
        faces,
        new Int32Array(faces.length),
        0,
        () => false,
      );
      return [chart.euler, chart.loops.length];
    };
    expect(count(sheetMesh(5))).toEqual([1, 1]);
    expect(count(tubeMesh())).toEqual([0, 2]);
    expect(count(sphere())).toEqual([2, 0]);
  });

  it("are cut to discs: a tube by one lengthwise cut, a sphere by a slit, a torus not at all", () => {
    const tube = cutToDisc(
      prepareUnwrap(tubeMesh(24, 12)),
      [...Array(288).keys()],
      new Int32Array(288),
      0,
    )!;
    expect(tube.chart.euler).toBe(1);
    expect(tube.cuts.size).toBe(12);
    expect(chartOf(sphere()).chart.loops).toHaveLength(1);
    expect(chartOf(torus())).toBeNull();
  });
  it("keep small holes as holes, and are cut from one wide hole to the next", () => {
    const sheet = pierced(24, 37);
    const { chart, cuts } = chartOf(sheet);
    expect(chart.loops).toHaveLength(27);
    expect(chart.euler).toBe(2 - 27);
    expect(cuts.size).toBe(0);
    const [flat] = unwrap(sheet);
    expect(islandsOf(flat).count).toBe(1);
    expect(flat.seams!.some(Boolean)).toBe(false);
    // Rows of wide windows, a strip of four triangles between them.
    const windows = keepFaces(
      sheetMesh(32),
      Uint8Array.from({ length: 2048 }, (_, t) => {
        const [x, y] = [Math.floor(t / 2) % 32, Math.floor(t / 64)];
        return x % 8 < 2 || y % 8 < 2 ? 1 : 0;
      }),
    );
    const opened = chartOf(windows);
    expect([opened.chart.euler, opened.chart.loops.length]).toEqual([1, 1]);
    expect(opened.chart.faces).toHaveLength(windows.corners.length / 3);
  });
});

describe("flattening", () => {
  it("tells a hole that is turned over from one that is not", () => {
    const { chart } = chartOf(pierced(20, 301));
    expect(chart.loops).toHaveLength(3);
    const uv = new Float64Array(2 * chart.vertexCount);
    for (let v = 0; v < chart.vertexCount; v++)
      uv.set([chart.places[3 * v], -chart.places[3 * v + 2]], 2 * v);
    expect(crossesItself(chart, uv)).toBe(false);
    const [a, b] = chart.loops[1];
    const [at, to] = [a, b].map((v) => uv.slice(2 * v, 2 * v + 2));
    uv.set(to, 2 * a);
    uv.set(at, 2 * b);
    expect(crossesItself(chart, uv)).toBe(true);
  });

  it("lays developable shapes out without stretch", () => {
    for (const mesh of [
      sheetMesh(12),
      sheetMesh(16, (x) => 0.3 * Math.sin(3 * x)),
      tubeMesh(48, 10),
    ]) {
      const flat = flatten(chartOf(mesh).chart);
      expect(flat.flipped).toBe(0);
      expect(flat.stretch).toBeLessThan(1.002);
      expect(flat.spread).toBeLessThan(0.01);
      expect(flat.overlaps).toBe(false);
    }
  });

  it("never turns a triangle, however rough the surface", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.double({ min: 0, max: 0.5, noNaN: true }),
        (seed, rough) => {
          const random = seededRandom(seed);
          const flat = flatten(
            chartOf(sheetMesh(8, () => rough * random())).chart,
          );
          expect(flat.flipped).toBe(0);
          expect(Number.isFinite(flat.stretch)).toBe(true);
        },
      ),
      { numRuns: 25 },
    );
  });

  it("holds at 20 000 triangles", () => {
    const flat = flatten(
      chartOf(
        sheetMesh(100, (x, z) => 0.08 * Math.sin(8 * x) * Math.cos(6 * z)),
      ).chart,
      { rounds: 6 },
    );
    expect(flat.flipped).toBe(0);
    expect(flat.stretch).toBeLessThan(1.1);
  });
});

describe("unwrapping", () => {
  const bodies: [string, Mesh][] = [
    ["a cube", cube()],
    ["a sphere", sphere(20, 28)],
    ["a torus", torus(30, 14)],
    ["a tube", tubeMesh()],
    [
      "pieces",
      joined(
        cube(),
        moved(sphere(10, 14), 3, 0, 0),
        moved(tubeMesh(12, 4), 6, 0, 0),
      ),
    ],
    ["a reduced scan", reduceTogether([roughScan()], 700, plainContext())[0]!],
  ];
  for (const [name, mesh] of bodies)
    it(`of ${name}: no overlap, no flip, little stretch, even density`, () => {
      const done = unwrap(mesh);
      const figures = measureUnwrap(done, squareSheet(512));
      expect(figures.overlap).toBe(0);
      expect(figures.flipped).toBe(0);
      expect(figures.stretch).toBeLessThan(1.15);
      expect(figures.densitySpread).toBeLessThan(0.1);
      expect(Math.min(...done[0].uvs!)).toBeGreaterThanOrEqual(0);
      expect(Math.max(...done[0].uvs!)).toBeLessThanOrEqual(1);
    });

  it("keeps the padding between islands", () => {
    const padding = 8;
    const size = 256;
    const [mesh] = unwrap(
      joined(cube(), moved(cube(), 4, 0, 0), moved(sphere(8, 10), 8, 0, 0)),
      size,
      padding,
    );
    const { ofFace } = islandsOf(mesh);
    const points: { island: number; x: number; y: number }[] = [];
    for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
      for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
        points.push({
          island: ofFace[f],
          x: size * mesh.uvs![2 * c],
          y: size * mesh.uvs![2 * c + 1],
        });
    for (const a of points)
      for (const b of points)
        if (a.island !== b.island)
          expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThanOrEqual(
            padding - 1,
          );
  });

  it("makes hard edges seams", () => {
    const mesh = { ...cube(), hard: hardAbove(cube(), 60).hard };
    const [done] = unwrap(mesh);
    expect([...done.seams!].every((mark) => mark === 1)).toBe(true);
    expect(islandsOf(done).count).toBe(6);
  });

  it("gives the same bytes each time", () => {
    expect([...unwrap(torus())[0].uvs!]).toEqual([...unwrap(torus())[0].uvs!]);
  });
});
