import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { DEMO_ASSETS } from "../../demo/index";
import { cadPart } from "../../tests/cad-like";
import { DIRTY, scanLike } from "../../tests/scan-like";
import { cube, sphere, strewn } from "../../tests/shapes";
import { measureDeviation } from "../space/deviation";
import { transformMesh } from "../mesh/transform";
import { faceComponents } from "../mesh/components";
import { MeshAnalysis } from "../mesh/mesh-analysis";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import {
  createMesh,
  joinMeshes,
  keepFaces,
  meshFromTriangles,
} from "../mesh/change-faces";
import { triangulate } from "../mesh/triangulate";
import type { SettleRule } from "./settle";
import { SETTLE_RULES, settleMesh } from "./settle";
import { findNonManifoldEdges, findNonManifoldVertices } from "./sheets";

const bordersOf = (mesh: Mesh) =>
  new MeshAnalysis(mesh, 0).edges.uses.filter((uses) => uses === 1).length;

function expectManifold(mesh: Mesh): void {
  const look = new MeshAnalysis(mesh, 0);
  expect(findNonManifoldEdges(look).count).toBe(0);
  expect(findNonManifoldVertices(look).count).toBe(0);
}

/** Height over longest edge of the thinnest triangle. */
function thinnest({ positions: p, corners }: Mesh): number {
  let least = Infinity;
  for (let t = 0; t < corners.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => {
      const v = 3 * corners[t + k];
      return [p[v], p[v + 1], p[v + 2]];
    });
    const minus = (x: number[], y: number[]) => x.map((_, k) => x[k] - y[k]);
    const [u, v, w] = [minus(b, a), minus(c, a), minus(c, b)];
    const area = Math.hypot(
      u[1] * v[2] - u[2] * v[1],
      u[2] * v[0] - u[0] * v[2],
      u[0] * v[1] - u[1] * v[0],
    );
    const longest = Math.max(
      Math.hypot(...u),
      Math.hypot(...v),
      Math.hypot(...w),
    );
    least = Math.min(least, area / longest ** 2);
  }
  return least;
}

/** Two balls that hang together by a tube of three edges, each so many metres long. */
function necked(size: number): Mesh {
  const ball = sphere(16, 24);
  const points = [...ball.positions];
  const other = points.length / 3;
  ball.positions.forEach((x, i) => points.push(i % 3 ? x : x + 2.5));
  const neck = points.length / 3;
  for (let k = 0; k < 3; k++) {
    const a = (2 * Math.PI * k) / 3;
    points.push(1.25, size * Math.cos(a), size * Math.sin(a));
  }
  const corners: number[] = [];
  const nearest = (at: number, x: number) =>
    [0, 1].reduce((sum, k) => sum + points[3 * at + 1 + k] ** 2, 0) +
    (points[3 * at] - x) ** 2;
  for (const [base, x] of [
    [0, 1],
    [other, 1.5],
  ]) {
    const faces = Array.from({ length: ball.corners.length / 3 }, (_, f) =>
      [...ball.corners.subarray(3 * f, 3 * f + 3)].map((v) => v + base),
    );
    const far = (face: number[]) =>
      face.reduce((sum, v) => sum + nearest(v, x), 0);
    const open = faces.reduce((best, face) =>
      far(face) < far(best) ? face : best,
    );
    for (const face of faces) if (face !== open) corners.push(...face);
    // The rim runs against the neck's corners on one side and along them on the other.
    const round = base ? [0, 1, 2] : [0, 2, 1];
    for (let k = 0; k < 3; k++) {
      const [a, b] = [open[k], open[(k + 1) % 3]];
      const [m, n] = [neck + round[k], neck + round[(k + 1) % 3]];
      corners.push(a, b, m, b, n, m);
    }
  }
  return meshFromTriangles(
    Float32Array.from(points),
    Uint32Array.from(corners),
  );
}

const countOf = (mesh: Mesh, rule: SettleRule, without: SettleRule[] = []) =>
  settleMesh(mesh, new Set(without)).done.find((done) => done.rule === rule)
    ?.count ?? 0;

/** A square in the plane of n × n quads, split into triangles. */
function sheet(n: number): Mesh {
  const points: number[] = [];
  const corners: number[] = [];
  for (let y = 0; y <= n; y++)
    for (let x = 0; x <= n; x++) points.push(x / n, y / n, 0);
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const a = x + y * (n + 1);
      corners.push(a, a + 1, a + n + 2, a, a + n + 2, a + n + 1);
    }
  return meshFromTriangles(
    Float32Array.from(points),
    Uint32Array.from(corners),
  );
}

const withTriangles = (mesh: Mesh, points: number[], triangles: number[]) => {
  const split = triangulate(mesh);
  return meshFromTriangles(
    Float32Array.from([...mesh.positions, ...points]),
    Uint32Array.from([...split.vertices, ...triangles]),
  );
};

describe("settling", () => {
  it("takes no surface for a fin, however few faces it has", () => {
    // Patches that nobody stitched hang by an edge at faces that reach across the part.
    const others = SETTLE_RULES.map(({ value }) => value).filter(
      (rule) => rule !== "sheets" && rule !== "coincident",
    );
    const surface = (of: Mesh) => ({
      positions: of.positions,
      triangles: triangulate(of).vertices,
    });
    for (const seed of [6, 7, 10]) {
      const mesh = cadPart(seed, 12_000, { strays: 0.5 });
      const settled = settleMesh(mesh, new Set(others)).mesh;
      const off = measureDeviation(surface(mesh), surface(settled));
      expect(off.rms).toBeLessThan(1e-3);
    }
  });

  it("leaves a clean mesh as it is, polygons and all", () => {
    for (const mesh of [cube(), sphere(20, 30)]) {
      const settled = settleMesh(mesh);
      expect(settled.mesh).toBe(mesh);
      expect(settled.done).toEqual([]);
    }
  });

  it("finds nothing to settle in the demo", () => {
    for (const make of Object.values(DEMO_ASSETS))
      for (const { source } of make().parts)
        if (source) expect(settleMesh(source).done).toEqual([]);
  });

  it("makes every scan manifold and leaves closed ones closed", () => {
    for (const seed of [1, 2, 3, 4]) {
      const scan = scanLike(seed, 20_000, seed % 2 ? {} : DIRTY);
      const { mesh } = settleMesh(scan);
      expectManifold(mesh);
      expect(thinnest(mesh)).toBeGreaterThan(1e-6);
      if (seed % 2) expect(bordersOf(mesh)).toBe(0);
      expect(faceCount(mesh)).toBeGreaterThan(0.95 * faceCount(scan));
    }
  });

  it("stitches nearly all borders of CAD patches that were tessellated apart", () => {
    for (const seed of [1, 2, 3, 4, 5, 6]) {
      const part = cadPart(seed, 3000, { open: 0 });
      const { mesh } = settleMesh(part);
      expectManifold(mesh);
      expect(bordersOf(mesh)).toBeLessThan(0.06 * bordersOf(part));
    }
  });

  it("closes them fully where the patches have the same vertices", () => {
    for (const seed of [1, 2, 3]) {
      const part = cadPart(seed, 3000, { open: 0, apart: 0 });
      expect(bordersOf(settleMesh(part).mesh)).toBe(0);
    }
  });

  it("gives the same bytes each time, and names the source's face of each of its own", () => {
    const scan = scanLike(2, 10_000, DIRTY);
    const [one, two] = [settleMesh(scan), settleMesh(scan)];
    expect(one.mesh.corners).toEqual(two.mesh.corners);
    expect(one.mesh.positions).toEqual(two.mesh.positions);
    expect(one.faces).toHaveLength(faceCount(one.mesh));
    expect(Math.max(...one.faces!)).toBeLessThan(faceCount(scan));
  });
});

describe("a rule of settling", () => {
  it("joins what the numbers can't tell apart, also far from the origin", () => {
    const soup = (mesh: Mesh) => {
      const { vertices } = triangulate(mesh);
      const points = Float32Array.from(
        { length: 3 * vertices.length },
        (_, i) => mesh.positions[3 * vertices[(i / 3) | 0] + (i % 3)],
      );
      return meshFromTriangles(
        points,
        vertices.map((_, i) => i),
      );
    };
    for (const at of [0, 1000, 1e6])
      for (const size of [1, 1e3]) {
        const move = [
          size,
          0,
          0,
          0,
          0,
          size,
          0,
          0,
          0,
          0,
          size,
          0,
          at,
          at,
          0,
          1,
        ];
        const apart = soup(transformMesh(cube(), move));
        const { mesh } = settleMesh(apart);
        expect(bordersOf(mesh)).toBe(0);
        expect(mesh.positions).toHaveLength(24);
      }
  });

  it("joins border vertices by the length of the edges there, and no others", () => {
    const two = joinMeshes([
      sheet(4),
      transformMesh(sheet(4), [
        1,
        0,
        0,
        0,
        0,
        1,
        0,
        0,
        0,
        0,
        1,
        0,
        1 + 4e-6,
        0,
        0,
        1,
      ]),
    ]);
    expect(countOf(two, "stitch")).toBe(5);
    expect(bordersOf(settleMesh(two).mesh)).toBe(24);
    const apart = joinMeshes([
      sheet(4),
      transformMesh(
        sheet(4),
        [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 1.1, 0, 0, 1],
      ),
    ]);
    expect(settleMesh(apart).mesh).toBe(apart);
  });

  it("does not zip a thin strip shut whose sides have other vertices", () => {
    // Three vertices on the lower side for each one on the upper.
    const [n, wide] = [8, 0.08];
    const points: number[] = [];
    const corners: number[] = [];
    for (let i = 0; i <= 3 * n; i++) points.push(i / 3, 0, 0);
    for (let i = 0; i <= n; i++) points.push(i, wide, 0);
    const upper = 3 * n + 1;
    for (let i = 0; i < n; i++) {
      for (let k = 0; k < 3; k++)
        corners.push(3 * i + k, 3 * i + k + 1, upper + i);
      corners.push(3 * i + 3, upper + i + 1, upper + i);
    }
    const strip = meshFromTriangles(
      Float32Array.from(points),
      Uint32Array.from(corners),
    );
    expect(settleMesh(strip).mesh).toBe(strip);
  });

  it("does not stitch the two sides of a narrow strip", () => {
    for (const rows of [1, 2, 4])
      for (const height of [0.02, 0.1, 0.5]) {
        const strip = sheet(rows);
        const positions = strip.positions.map((x, i) =>
          i % 3 === 0 ? 40 * x : i % 3 === 1 ? height * x : x,
        );
        for (const by of [1, 6]) {
          // The same, with vertices of one side between those of the other.
          const bent = positions.map((x, i) =>
            i % 3 === 0 && positions[i + 1] > 0.9 * height && x > 0 && x < 40
              ? x + by
              : x,
          );
          const mesh = { ...strip, positions: bent };
          expect(settleMesh(mesh).done).toEqual([]);
        }
      }
  });

  it("does not stitch what only crosses by chance", () => {
    for (const seed of [4, 5])
      expect(countOf(strewn(900, seed), "stitch")).toBeLessThan(0.02 * 2700);
  });

  it("collapses edges too short to mean anything without opening anything", () => {
    const mesh = sphere(20, 30);
    const v = 200;
    const positions = mesh.positions.slice();
    const w = mesh.corners[mesh.corners.indexOf(v) + 1];
    for (let k = 0; k < 3; k++)
      positions[3 * w + k] = positions[3 * v + k] * (1 + 1e-6);
    const near = { ...mesh, positions };
    expect(countOf(near, "shortEdges")).toBe(1);
    expect(bordersOf(settleMesh(near).mesh)).toBe(0);
    expect(countOf(near, "shortEdges", ["shortEdges"])).toBe(0);
  });

  it("takes faces without area out where they fill a T-junction", () => {
    // The middle of the first edge belongs to a face without area; below it two triangles use it.
    const mesh = meshFromTriangles(
      Float32Array.from([0, 0, 0, 1, 0, 0, 0.5, 1, 0, 0.5, 0, 0, 0.5, -1, 0]),
      Uint32Array.from([0, 1, 2, 0, 3, 1, 4, 3, 0, 4, 1, 3]),
    );
    const settled = settleMesh(mesh);
    expect(countOf(mesh, "noArea")).toBe(1);
    expect(faceCount(settled.mesh)).toBe(4);
    expect(thinnest(settled.mesh)).toBeGreaterThan(0.1);
    expect(bordersOf(settled.mesh)).toBe(4);
  });

  it("keeps one of several faces that lie on each other, the one that goes on from its neighbours", () => {
    const mesh = sphere(12, 16);
    const { vertices } = triangulate(mesh);
    const [a, b, c] = vertices.subarray(300, 303);
    for (const twin of [
      [a, b, c],
      [a, c, b],
    ]) {
      const double = withTriangles(mesh, [], twin);
      expect(countOf(double, "layers")).toBe(1);
      expect(bordersOf(settleMesh(double).mesh)).toBe(0);
    }
  });

  it("drops a patch that lies a little beside what it doubles, and no other open piece", () => {
    const ball = sphere(24, 32);
    const { vertices } = triangulate(ball);
    const patch = (off: number) => {
      const list = vertices.subarray(600, 660);
      const points = Array.from(
        { length: 3 * list.length },
        (_, i) => ball.positions[3 * list[(i / 3) | 0] + (i % 3)] * (1 + off),
      );
      const base = ball.positions.length / 3;
      return withTriangles(
        ball,
        points,
        [...list].map((_, i) => base + i),
      );
    };
    expect(faceCount(settleMesh(patch(0.004)).mesh)).toBe(vertices.length / 3);
    expect(faceCount(settleMesh(patch(0.2)).mesh)).toBe(
      vertices.length / 3 + 20,
    );
  });

  it("keeps both sides of a sheet that has two", () => {
    const one = sheet(5);
    const back = one.corners.slice();
    for (let t = 0; t < back.length; t += 3)
      [back[t + 1], back[t + 2]] = [back[t + 2], back[t + 1]];
    const both = withTriangles(one, [], [...back]);
    const { mesh } = settleMesh(both);
    expect(faceCount(mesh)).toBe(100);
    expectManifold(mesh);
    expect(bordersOf(mesh)).toBe(40);
  });

  it("drops a fin, and keeps what it stands on closed", () => {
    const mesh = sphere(12, 16);
    const { vertices } = triangulate(mesh);
    const [a, b] = vertices.subarray(300, 302);
    const n = mesh.positions.length / 3;
    for (const fin of [
      [a, b, n],
      [b, a, n],
    ]) {
      const finned = withTriangles(mesh, [2, 2, 2], fin);
      const settled = settleMesh(finned).mesh;
      expectManifold(settled);
      expect(bordersOf(settled)).toBe(0);
      expect(faceCount(settled)).toBe(vertices.length / 3);
    }
  });

  it("parts two bodies that share an edge, both closed", () => {
    const one = triangulate(cube());
    const p = cube().positions;
    const [a, b] = one.vertices;
    const far = [0, 1, 2].map((k) => p[3 * a + k] * 4);
    const more = [far, far.map((x, k) => (k ? x : x + 1))].flat();
    const [c, d] = [p.length / 3, p.length / 3 + 1];
    const both = withTriangles(cube(), more, [
      ...[a, b, c],
      ...[b, a, d],
      ...[a, c, d],
      ...[c, b, d],
    ]);
    const { mesh } = settleMesh(both);
    expectManifold(mesh);
    expect(bordersOf(mesh)).toBe(0);
  });

  it("keeps materials, IDs, hard edges and UVs, mixed where a vertex is put into an edge", () => {
    const big = createMesh({
      ...sheet(1),
      uvs: Float32Array.from([0, 0, 1, 0, 1, 1, 0, 0, 1, 1, 0, 1]),
      hard: Uint8Array.from([1, 0, 0, 0, 0, 0]),
      ids: Uint16Array.from([3, 3]),
    });
    const small = transformMesh(
      sheet(2),
      [-1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1, 0, 1, 0, 0, 1],
    );
    const joined = joinMeshes([big, small]);
    const { mesh, done } = settleMesh(joined);
    expect(done.map(({ rule, count }) => [rule, count])).toEqual([
      ["coincident", 2],
      ["stitch", 1],
    ]);
    expect(bordersOf(mesh)).toBe(3 + 6);
    const at = mesh.corners.findIndex(
      (v, c) =>
        mesh.ids![Math.floor(c / 3)] === 3 && mesh.positions[3 * v] === 0.5,
    );
    expect([...mesh.uvs!.subarray(2 * at, 2 * at + 2)]).toEqual([0.5, 0]);
    expect(mesh.hard!.reduce((sum, x) => sum + x, 0)).toBe(2);
    expect(mesh.ids!.filter((id) => id === 3)).toHaveLength(3);
  });

  it("can be turned off, each by itself", () => {
    const scan = scanLike(2, 8000, DIRTY);
    const all = settleMesh(scan).done.map(({ rule }) => rule);
    expect(all.length).toBeGreaterThan(4);
    for (const { value } of SETTLE_RULES)
      expect(
        settleMesh(scan, new Set([value])).done.map(({ rule }) => rule),
      ).not.toContain(value);
  });

  it("holds for a vertex with ten thousand faces, and for soups of nothing but chance", () => {
    const n = 10_000;
    const fan: number[] = [];
    const points = [0, 0, 1];
    for (let i = 0; i < n; i++) {
      const a = (2 * Math.PI * i) / n;
      points.push(Math.cos(a), Math.sin(a), 0);
      fan.push(0, 1 + i, 1 + ((i + 1) % n));
    }
    const hub = meshFromTriangles(
      Float32Array.from(points),
      Uint32Array.from(fan),
    );
    expectManifold(settleMesh(hub).mesh);
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 11 }), {
          minLength: 3,
          maxLength: 90,
        }),
        fc.integer({ min: 0, max: 2 }),
        (list, grid) => {
          const vertices = list.slice(0, 3 * Math.floor(list.length / 3));
          const corners = vertices.filter((_, i) => {
            const t = 3 * Math.floor(i / 3);
            return new Set(vertices.slice(t, t + 3)).size === 3;
          });
          const places = Array.from({ length: 36 }, (_, i) =>
            grid ? (i * 7 + (i % 5)) % (grid + 1) : Math.sin(9 * i),
          );
          const soup = meshFromTriangles(
            Float32Array.from(places),
            Uint32Array.from(corners),
          );
          expectManifold(settleMesh(soup).mesh);
        },
      ),
      { numRuns: 300, seed: 5 },
    );
  });
});

describe("necks", () => {
  it("too thin to mean anything are cut and closed, which leaves what they joined", () => {
    const thin = necked(1e-4);
    expectManifold(thin);
    expect(bordersOf(thin)).toBe(0);
    expect(faceComponents(thin).count).toBe(1);
    const { mesh, faces, done } = settleMesh(thin);
    expect(done).toMatchObject([{ rule: "necks", count: 1 }]);
    expect(done[0].places[0].at[0]).toBeCloseTo(1.25, 3);
    expectManifold(mesh);
    expect(bordersOf(mesh)).toBe(0);
    expect(faceComponents(mesh).count).toBe(2);
    expect(faceCount(mesh)).toBe(faceCount(thin) + 2);
    expect(faces!.length).toBe(faceCount(mesh));
    expect(Math.max(...faces!)).toBeLessThan(faceCount(thin));
    expect(settleMesh(thin, new Set(["necks"])).mesh).toBe(thin);
  });

  it("that meet a border stay, and are not counted", () => {
    const thin = necked(1e-4);
    // A face at the neck is missing: nothing goes round its vertices.
    const neck = thin.positions.length / 3 - 3;
    const at = thin.corners.indexOf(neck);
    const keep = new Uint8Array(faceCount(thin)).fill(1);
    keep[(at / 3) | 0] = 0;
    const open = keepFaces(thin, keep);
    expect(settleMesh(open).done).toEqual([]);
  });

  it("of a size that may be meant stay", () => {
    const wide = necked(0.02);
    expect(settleMesh(wide).mesh).toBe(wide);
  });
});
