import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { DIRTY, scanLike } from "../../tests/scan-like";
import { cube, sphere, strewn } from "../../tests/shapes";
import { transformMesh } from "../mesh/transform";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import {
  createMesh,
  joinMeshes,
  meshFromTriangles,
} from "../mesh/change-faces";
import { triangulate } from "../mesh/triangulate";
import { SETTLE_RULES, settleMesh } from "./settle";
import {
  bordersOf,
  expectManifold,
  thinnest,
  countOf,
  sheet,
  withTriangles,
} from "../../tests/settle-meshes";

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
