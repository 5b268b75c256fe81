import type { BufferGeometry } from "three";
import { cageMesh, offsetsOf } from "../../core/bake/methods/cage";
import { rayDistances } from "../../core/bake/methods/ray-distances";
import type { Mesh } from "../../core/mesh/mesh";
import { triangulate } from "../../core/mesh/triangulate";
import { buildBvh } from "../../core/space/bvh";
import { edgeLines, surfaceGeometry } from "./geometry";

/** The cage of a game mesh as it is drawn: a shell and its edges. */
export interface CageShell {
  surface: BufferGeometry;
  edges: BufferGeometry;
}

/**
 * Where rays of a part begin: its own cage, a distance that was given, or what is found from the meshes as drawn.
 * @param floats sources that are only baked; @param distance metres, 0 to find it
 */
export function cageShell(
  game: Mesh,
  source: Mesh | null,
  floats: readonly Mesh[],
  distance: number,
): CageShell {
  const cage = cageMesh(
    game,
    offsetsOf(game, lengthsOf(game, source, floats, distance)),
  );
  return { surface: surfaceGeometry(cage), edges: edgeLines(cage, () => true) };
}

function lengthsOf(
  game: Mesh,
  source: Mesh | null,
  floats: readonly Mesh[],
  distance: number,
): number | Float32Array {
  if (distance || !source) return distance;
  const split = triangulate(game);
  const tree = buildBvh(source.positions, triangulate(source).vertices);
  const { corners } = rayDistances(game, split, [source], tree, floats);
  const lengths = new Float32Array(game.corners.length);
  split.corners.forEach((c, i) => (lengths[c] = corners[i]));
  return lengths;
}
