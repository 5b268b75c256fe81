import { expect } from "vitest";
import { sphere } from "./shapes";
import { MeshAnalysis } from "../core/mesh/mesh-analysis";
import type { Mesh } from "../core/mesh/mesh";
import { meshFromTriangles } from "../core/mesh/change-faces";
import { triangulate } from "../core/mesh/triangulate";
import type { SettleRule } from "../core/settle/settle";
import { settleMesh } from "../core/settle/settle";
import {
  findNonManifoldEdges,
  findNonManifoldVertices,
} from "../core/settle/sheets";

/** Edges of one face. */
export const bordersOf = (mesh: Mesh) =>
  new MeshAnalysis(mesh, 0).edges.uses.filter((uses) => uses === 1).length;

/** Edges and vertices of a mesh are manifold. */
export function expectManifold(mesh: Mesh): void {
  const look = new MeshAnalysis(mesh, 0);
  expect(findNonManifoldEdges(look).count).toBe(0);
  expect(findNonManifoldVertices(look).count).toBe(0);
}

/** Height over longest edge of the thinnest triangle. */
export function thinnest({ positions: p, corners }: Mesh): number {
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
export function necked(size: number): Mesh {
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

/** How often a rule of settling was used. */
export const countOf = (
  mesh: Mesh,
  rule: SettleRule,
  without: SettleRule[] = [],
) =>
  settleMesh(mesh, new Set(without)).done.find((done) => done.rule === rule)
    ?.count ?? 0;

/** A square in the plane of n × n quads, split into triangles. */
export function sheet(n: number): Mesh {
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

/** The mesh with further points and triangles. */
export const withTriangles = (
  mesh: Mesh,
  points: number[],
  triangles: number[],
) => {
  const split = triangulate(mesh);
  return meshFromTriangles(
    Float32Array.from([...mesh.positions, ...points]),
    Uint32Array.from([...split.vertices, ...triangles]),
  );
};
