import type { Mesh } from "../../mesh/mesh";
import { cornerNormals } from "../../mesh/normals";
import { tangentsOf } from "../../mesh/tangents";
import type { Triangulation } from "../../mesh/triangulate";
import { triangulate } from "../../mesh/triangulate";
import type { Bvh } from "../../space/bvh";
import { gather } from "./mixing";
import type { RayDistances } from "./ray-distances";
import { rayDistances } from "./ray-distances";
import type { RoundedEdges } from "./rounded-edges";
import { roundedEdges } from "./rounded-edges";

/** Game triangles of one part in the sheet. */
export interface Canvas extends RayDistances {
  /** 9 × triangleCount */
  positions: Float32Array;
  /** 6 × triangleCount */
  uvs: Float32Array;
  /** 9 × triangleCount: shading normals, and the smoothed directions of the rays. */
  normals: Float32Array;
  directions: Float32Array;
  /** 12 × triangleCount */
  tangents: Float32Array;
  /** Which targets its rays may catch, and which of them is its own source, −1 for none. */
  targets: number[];
  own: number;
  /** Target that its rays look round in; −1 where none do. */
  around: number;
  /** The part's name. */
  part: string;
  /** Whether `directions` are ways to a cage, from the end of which rays begin, and not of unit length. */
  caged: boolean;
  /** Edges that are baked round; null where none is. */
  rounded: RoundedEdges | null;
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
 * @param round radius of hard edges, metres, 0 for none
 * @param floats what is only baked and may float on it
 */
export function canvasOf(
  named: Pick<Canvas, "part" | "card" | "own" | "around">,
  game: Mesh,
  sources: Mesh[],
  near: readonly { bvh: Bvh }[],
  targets: number[],
  wanted: number,
  round: number,
  floats: readonly Mesh[],
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
  const distances =
    wanted || !near.length
      ? {
          distance: wanted,
          corners: new Float32Array(split.vertices.length).fill(wanted),
        }
      : rayDistances(game, split, sources, near[0].bvh, floats);
  return {
    positions,
    uvs,
    normals,
    directions,
    tangents: tangentsOf(game, shading, split),
    ...distances,
    ...(game.cage && fromCage(game.cage, split, directions, distances)),
    caged: game.cage !== null,
    targets,
    rounded: roundedEdges(game, split, round),
    ...named,
  };
}

/** Rays from the cage of a game mesh, and as found where it has none. @param directions changed in place: ways to it */
function fromCage(
  cage: Float32Array,
  split: Triangulation,
  directions: Float32Array,
  found: RayDistances,
): RayDistances {
  const corners = found.corners.slice();
  let distance = 0;
  split.corners.forEach((c, i) => {
    const at = cage.subarray(3 * c, 3 * c + 3);
    const far = Math.hypot(at[0], at[1], at[2]);
    if (far > 0) {
      corners[i] = far;
      directions.set(at, 3 * i);
    } else for (let k = 0; k < 3; k++) directions[3 * i + k] *= corners[i];
    distance = Math.max(distance, corners[i]);
  });
  return { distance, corners };
}
