import { boundsOf, diagonalOf } from "../../space/bounds";
import { sampleSurface } from "../../space/sample";
import type { Vector } from "../../space/vector";
import { setNormal } from "../../mesh/triangle-shape";

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
  /** Middle and diagonal of the box round it, metres. */
  centre: Vector;
  size: number;
}

const POINTS = 3000;

/**
 * Points spread over a piece, with its size and its middle.
 * @param positions 3 × vertexCount, metres
 * @param corners 3 × triangleCount vertices of the piece's triangles
 */
export function cloudOf(
  positions: Float32Array,
  corners: readonly number[],
): Cloud {
  const renamed = new Map<number, number>();
  const triangles = Uint32Array.from(corners, (v) => {
    if (!renamed.has(v)) renamed.set(v, renamed.size);
    return renamed.get(v)!;
  });
  const vertices = new Float32Array(3 * renamed.size);
  for (const [v, name] of renamed)
    vertices.set(positions.subarray(3 * v, 3 * v + 3), 3 * name);
  const sampled = sampleSurface(vertices, triangles, POINTS, 3);
  const normals = new Float32Array(3 * POINTS);
  for (let i = 0; i < POINTS; i++) {
    const [a, b, c] = triangles.subarray(
      3 * sampled.triangles[i],
      3 * sampled.triangles[i] + 3,
    );
    setNormal(vertices, a, b, c, normals, 3 * i);
  }
  const bounds = boundsOf(vertices);
  return {
    points: sampled.points,
    normals,
    count: POINTS,
    vertices,
    triangles,
    centre: [0, 1, 2].map(
      (k) => (bounds.min[k] + bounds.max[k]) / 2,
    ) as unknown as Vector,
    size: diagonalOf(bounds) || 1e-9,
  };
}
