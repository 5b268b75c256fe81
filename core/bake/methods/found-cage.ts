import type { Asset, Part } from "../../asset/asset";
import { triangulate } from "../../mesh/triangulate";
import { offsetsOf } from "./cage";
import { prepareScene } from "./scene";

/**
 * From where rays of a part begin: the cage that it has, and what is found where it has none.
 * @param distance of all rays in metres, 0 to find it at every corner
 * @returns 3 × cornerCount: ways from the game mesh to the cage, metres
 */
export function cageOffsets(
  asset: Asset,
  part: Part,
  distance: number,
  check?: () => void,
): Float32Array {
  const game = part.game!;
  if (distance) return offsetsOf(game, distance);
  const { canvases } = prepareScene(
    asset,
    {
      ...{ width: 1, height: 1, rays: 0, grid: 1, distance: 0 },
      only: [part.name],
      channels: ["normal"],
    },
    check,
  );
  const split = triangulate(game);
  const lengths = new Float32Array(game.corners.length);
  // Triangles that share texels are left out of the bake, and have no cage.
  let at = 0;
  for (let t = 0; t < split.faces.length; t++) {
    if (game.copies?.[split.faces[t]]) continue;
    for (let k = 0; k < 3; k++)
      lengths[split.corners[3 * t + k]] = canvases[0].corners[at++];
  }
  return offsetsOf(game, lengths);
}
