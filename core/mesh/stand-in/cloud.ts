import { sampleSurface } from "../../space/sample";
import type { Mesh } from "../mesh";
import { triangulate } from "../triangulate";

/** A piece of a surface as points, to fit simple shapes to. */
export interface Cloud {
  /** 3 × count, metres, spread evenly by area. */
  points: Float32Array;
  /** 3 × count, unit length, of the triangles the points lie in. */
  normals: Float32Array;
  count: number;
  /** 3 × n: the vertices themselves, for how far the piece reaches. */
  vertices: Float32Array;
  /** Triangles over `vertices`. */
  triangles: Uint32Array;
  /** Diagonal of the box round it, metres. */
  size: number;
}

const POINTS = 3000;

/** @param marks faces that belong to the piece; all where left out */
export function cloudOf(mesh: Mesh, marks?: ArrayLike<number>): Cloud {
  const split = triangulate(mesh);
  const renamed = new Map<number, number>();
  const vertices: number[] = [];
  const triangles: number[] = [];
  split.faces.forEach((f, t) => {
    if (marks && !marks[f]) return;
    for (let k = 0; k < 3; k++) {
      const v = split.vertices[3 * t + k];
      let name = renamed.get(v);
      if (name === undefined) {
        name = vertices.length / 3;
        renamed.set(v, name);
        for (let i = 0; i < 3; i++) vertices.push(mesh.positions[3 * v + i]);
      }
      triangles.push(name);
    }
  });
  const positions = Float32Array.from(vertices);
  const sampled = sampleSurface(positions, triangles, POINTS, 3);
  const normals = new Float32Array(3 * POINTS);
  for (let i = 0; i < POINTS; i++) {
    const t = 3 * sampled.triangles[i];
    const [a, b, c] = [0, 1, 2].map((k) => 3 * triangles[t + k]);
    const u = [0, 1, 2].map((k) => positions[b + k] - positions[a + k]);
    const v = [0, 1, 2].map((k) => positions[c + k] - positions[a + k]);
    const n = [
      u[1] * v[2] - u[2] * v[1],
      u[2] * v[0] - u[0] * v[2],
      u[0] * v[1] - u[1] * v[0],
    ];
    const length = Math.hypot(...n) || 1;
    for (let k = 0; k < 3; k++) normals[3 * i + k] = n[k] / length;
  }
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  positions.forEach((x, i) => {
    low[i % 3] = Math.min(low[i % 3], x);
    high[i % 3] = Math.max(high[i % 3], x);
  });
  return {
    points: sampled.points,
    normals,
    count: POINTS,
    vertices: positions,
    triangles: Uint32Array.from(triangles),
    size: Math.hypot(...[0, 1, 2].map((k) => high[k] - low[k])) || 1e-9,
  };
}
