import type { Mesh } from "../../mesh/mesh";
import { cross } from "../../mesh/triangle-shape";
import type { Triangulation } from "../../mesh/triangulate";
import { triangulate } from "../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { Bvh } from "../../space/bvh";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { sampleSurface } from "../../space/sample";

/** How far outside a game mesh its rays begin, and inside it end. */
export interface RayDistances {
  /** The largest of them, metres. */
  distance: number;
  /** 3 × triangleCount: at each corner, metres. */
  corners: Float32Array;
}

/** Points of each mesh at the least, and points to each triangle of the game mesh. */
const POINTS = 6000;
const POINTS_A_TRIANGLE = 12;
/** What is detail on a game mesh and not a thing of its own: nearer than this share of its size. */
const FLOATS = 0.03;
/** Rays begin a little farther out than the gap. */
const MARGIN = 1.25;
/** Share of the source's points that decide: the rest may have no counterpart. */
const MOST = 0.995;

/**
 * Finds at each corner how far rays have to begin outside so that they meet all of the source that lies there, and no
 * more: where the meshes lie close together, rays that begin far out would meet what stands beside first. The gap is
 * measured from points of both meshes, each to the nearest triangle of the other; a corner takes the largest of the
 * triangles round it and of their neighbours.
 * @param sources what the mesh is baked from, and `tree` of all their triangles; @param floats what is only baked
 */
export function rayDistances(
  game: Mesh,
  split: Triangulation,
  sources: readonly Mesh[],
  tree: Bvh,
  floats: readonly Mesh[],
): RayDistances {
  const gaps = new Gaps(game, split);
  const count = Math.max(
    POINTS,
    (POINTS_A_TRIANGLE * split.vertices.length) / 3,
  );
  const most = Math.max(
    gaps.fromGame(tree, count),
    ...sources.map((mesh) =>
      gaps.fromSource(mesh, Math.ceil(count / sources.length)),
    ),
  );
  const slack = 1e-3 * gaps.diagonal;
  const limit = MARGIN * most + slack;
  const found = gaps.corners(MARGIN, slack, limit);
  const floating = new Gaps(game, split);
  let distance = limit;
  for (const mesh of floats)
    distance = Math.max(distance, 1.1 * floating.fromFloat(mesh));
  if (floats.length)
    floating.corners(1.1, 0, Infinity).forEach((gap, i) => {
      if (gap > found[i]) found[i] = gap;
    });
  return { distance, corners: found };
}

/** The largest gap seen at each vertex of a game mesh. */
class Gaps {
  readonly diagonal: number;
  /** vertexCount, metres. */
  private readonly gaps: Float64Array;
  private readonly closest: ClosestPoint;

  constructor(
    readonly game: Mesh,
    readonly split: Triangulation,
  ) {
    this.diagonal = diagonalOf(boundsOf(game.positions));
    this.gaps = new Float64Array(game.positions.length / 3);
    this.closest = new ClosestPoint(buildBvh(game.positions, split.vertices));
  }

  /** Looks from points of the game mesh. @returns the largest gap, metres */
  fromGame(tree: Bvh, count: number): number {
    const { game, split } = this;
    const { points, triangles } = sampleSurface(
      game.positions,
      split.vertices,
      count,
    );
    const closest = new ClosestPoint(tree);
    let most = 0;
    for (let i = 0; i < triangles.length; i++) {
      closest.find(points[3 * i], points[3 * i + 1], points[3 * i + 2]);
      const gap = Math.sqrt(closest.distance2);
      this.raise(triangles[i], gap);
      if (gap > most) most = gap;
    }
    return most;
  }

  /** Looks from points of a source, as far as they face as the game mesh does. @returns a gap that few exceed, metres */
  fromSource(source: Mesh, count: number): number {
    const { vertices } = triangulate(source);
    const { points, triangles } = sampleSurface(
      source.positions,
      vertices,
      count,
    );
    const all = new Float64Array(triangles.length);
    for (let i = 0; i < triangles.length; i++) {
      const t = this.closest.find(
        points[3 * i],
        points[3 * i + 1],
        points[3 * i + 2],
      );
      all[i] = Math.sqrt(this.closest.distance2);
      if (facesAs(source.positions, vertices, triangles[i], this, t))
        this.raise(t, all[i]);
    }
    all.sort();
    return all[Math.min(all.length - 1, Math.floor(MOST * all.length))] ?? 0;
  }

  /** Looks from points of what floats near the game mesh. @returns the largest gap, metres */
  fromFloat(mesh: Mesh): number {
    const { points } = sampleSurface(
      mesh.positions,
      triangulate(mesh).vertices,
      4000,
    );
    const near = (FLOATS * this.diagonal) ** 2;
    let most = 0;
    for (let i = 0; i < points.length; i += 3) {
      const t = this.closest.find(
        points[i],
        points[i + 1],
        points[i + 2],
        near,
      );
      if (t < 0) continue;
      const gap = Math.sqrt(this.closest.distance2);
      this.raise(t, gap);
      if (gap > most) most = gap;
    }
    return most;
  }

  private raise(triangle: number, gap: number): void {
    for (let k = 0; k < 3; k++) {
      const v = this.split.vertices[3 * triangle + k];
      if (gap > this.gaps[v]) this.gaps[v] = gap;
    }
  }

  /** 3 × triangleCount: distances at the corners, metres; `times` the gap of the triangles round and `more`. */
  corners(times: number, more: number, limit: number): Float32Array {
    const { vertices } = this.split;
    const round = Float64Array.from(this.gaps);
    for (let i = 0; i < vertices.length; i += 3) {
      let most = 0;
      for (let k = 0; k < 3; k++)
        most = Math.max(most, this.gaps[vertices[i + k]]);
      for (let k = 0; k < 3; k++)
        round[vertices[i + k]] = Math.max(round[vertices[i + k]], most);
    }
    return Float32Array.from(vertices, (v) =>
      round[v] > 0 || more > 0 ? Math.min(limit, times * round[v] + more) : 0,
    );
  }
}

/** Whether a triangle of a source faces the same way as one of a game mesh. @param p 3 × vertexCount, metres */
function facesAs(
  p: Float32Array,
  vertices: Uint32Array,
  t: number,
  { game, split }: { game: Mesh; split: Triangulation },
  other: number,
): boolean {
  const normal = (at: Float32Array, of: Uint32Array, i: number) =>
    cross(at, of[3 * i], of[3 * i + 1], of[3 * i + 2]);
  const [x, y, z] = normal(p, vertices, t);
  const to = normal(game.positions, split.vertices, other);
  return x * to[0] + y * to[1] + z * to[2] > 0;
}
