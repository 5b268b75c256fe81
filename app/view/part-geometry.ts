import { BufferAttribute, BufferGeometry } from "three";
import type { Mesh } from "../../core/mesh/mesh";
import { tangentsOf } from "../../core/mesh/tangents";
import { cornerNormals } from "../../core/mesh/normals";
import { groupByMaterial, surfaceGeometry } from "./geometry";
import { splitOf } from "./split";

/** Sources with more corners than this are shown without wire, smoothed ones are not made. */
export const MOST_WIRED = 1_500_000;

export const MOST_SMOOTH = 3_000_000;

/** A surface with one colour a face. */
export function colouredGeometry(
  mesh: Mesh,
  colours: Float32Array,
): BufferGeometry {
  const geometry = surfaceGeometry({
    ...mesh,
    normals: mesh.normals ?? cornerNormals(mesh),
  });
  const { faces } = splitOf(mesh);
  const colour = new Float32Array(9 * faces.length);
  for (let t = 0; t < faces.length; t++)
    for (let k = 0; k < 9; k++)
      colour[9 * t + k] = colours[3 * faces[t] + (k % 3)];
  return geometry.setAttribute("color", new BufferAttribute(colour, 3));
}

/** The game mesh with tangents for its normal map, and a group for each material. */
export function gameGeometry(game: Mesh): BufferGeometry {
  const geometry = surfaceGeometry({
    ...game,
    normals: game.normals ?? cornerNormals(game),
  });
  const split = splitOf(game);
  if (game.uvs)
    geometry.setAttribute(
      "tangent",
      new BufferAttribute(
        tangentsOf(game, game.normals ?? cornerNormals(game), split),
        4,
      ),
    );
  groupByMaterial(geometry, game, split.faces);
  return geometry;
}
