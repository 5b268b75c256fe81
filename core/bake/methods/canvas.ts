import type { Mesh } from "../../mesh/mesh";
import { cornerNormals } from "../../mesh/normals";
import { tangentsOf } from "../../mesh/tangents";
import type { Triangulation } from "../../mesh/triangulate";
import { triangulate } from "../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { Bvh } from "../../space/bvh";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { sampleSurface } from "../../space/sample";
import { gather } from "./mixing";

/** Game triangles of one part in the sheet. */
export interface Canvas {
  /** 9 × triangleCount */
  positions: Float32Array;
  /** 6 × triangleCount */
  uvs: Float32Array;
  /** 9 × triangleCount: shading normals, and the smoothed directions of the rays. */
  normals: Float32Array;
  directions: Float32Array;
  /** 12 × triangleCount */
  tangents: Float32Array;
  /** How far rays start outside the surface and end inside it, metres. */
  distance: number;
  /** Which targets its rays may catch, and which of them is its own source, −1 for none. */
  targets: number[];
  own: number;
  /** The part's name. */
  part: string;
  /** Whether rays that meet nothing go through it, as through the holes of a net. */
  card: boolean;
}

/** Triangles that share the texels of others lie whole sheets away from the bake: only the first of each is baked. */
function ownTexels(game: Mesh, split: Triangulation): Triangulation {
  if (!game.copies) return split;
  const own = [...split.faces.keys()].filter(
    (t) => !game.copies![split.faces[t]],
  );
  const pick = (from: Uint32Array) =>
    Uint32Array.from(
      own.flatMap((t) => [from[3 * t], from[3 * t + 1], from[3 * t + 2]]),
    );
  return {
    corners: pick(split.corners),
    vertices: pick(split.vertices),
    faces: Uint32Array.from(own, (t) => split.faces[t]),
  };
}

/**
 * Lays out what is baked of a part.
 * @param sources what it is baked from, and `near` the trees of it; @param wanted ray distance in metres, 0 to find it
 */
export function canvasOf(
  named: Pick<Canvas, "part" | "card" | "own">,
  game: Mesh,
  sources: Mesh[],
  near: readonly { bvh: Bvh }[],
  targets: number[],
  wanted: number,
): Canvas {
  const split = ownTexels(game, triangulate(game));
  const shading = game.normals ?? cornerNormals(game);
  const smooth = cornerNormals({ ...game, hard: null });
  const positions = new Float32Array(3 * split.vertices.length);
  const normals = new Float32Array(positions.length);
  const directions = new Float32Array(positions.length);
  const uvs = new Float32Array(2 * split.corners.length);
  gather(positions, game.positions, split.vertices, 3);
  gather(normals, shading, split.corners, 3);
  gather(directions, smooth, split.corners, 3);
  gather(uvs, game.uvs!, split.corners, 2);
  return {
    positions,
    uvs,
    normals,
    directions,
    tangents: tangentsOf(game, shading, split),
    distance:
      wanted ||
      (near.length ? rayDistance(sources, game, split, near[0].bvh) : 0),
    targets,
    ...named,
  };
}

/** The largest distance between the two meshes, by points of both, and a quarter more. */
function rayDistance(
  sources: Mesh[],
  game: Mesh,
  split: Triangulation,
  sourceBvh: Bvh,
): number {
  const fromGame = farthest(
    sampleSurface(game.positions, split.vertices, 6000).points,
    sourceBvh,
    1,
  );
  const gameBvh = buildBvh(game.positions, split.vertices);
  const share = Math.ceil(6000 / sources.length);
  const fromSource = Math.max(
    ...sources.map((mesh) =>
      farthest(
        sampleSurface(mesh.positions, triangulate(mesh).vertices, share).points,
        gameBvh,
        0.995,
      ),
    ),
  );
  const diagonal = diagonalOf(boundsOf(game.positions));
  return 1.25 * Math.max(fromGame, fromSource) + 1e-3 * diagonal;
}

/** How far outside a game mesh rays must start to catch what floats on it: detail nearer than 3 % of its size. */
export function reachOver(game: Mesh, loose: Mesh[]): number {
  if (!loose.length) return 0;
  const closest = new ClosestPoint(
    buildBvh(game.positions, triangulate(game).vertices),
  );
  const near = (0.03 * diagonalOf(boundsOf(game.positions))) ** 2;
  let most = 0;
  for (const mesh of loose) {
    const { points } = sampleSurface(
      mesh.positions,
      triangulate(mesh).vertices,
      4000,
    );
    for (let i = 0; i < points.length; i += 3) {
      if (
        closest.find(points[i], points[i + 1], points[i + 2], near) >= 0 &&
        closest.distance2 > most
      )
        most = closest.distance2;
    }
  }
  return 1.1 * Math.sqrt(most);
}

function farthest(points: Float32Array, bvh: Bvh, share: number): number {
  const closest = new ClosestPoint(bvh);
  const found = new Float64Array(points.length / 3);
  for (let i = 0; i < found.length; i++) {
    closest.find(points[3 * i], points[3 * i + 1], points[3 * i + 2]);
    found[i] = closest.distance2;
  }
  found.sort();
  return Math.sqrt(
    found[Math.min(found.length - 1, Math.floor(share * found.length))] ?? 0,
  );
}
