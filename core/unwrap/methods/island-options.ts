import type { Asset } from "../../asset/asset";
import { chosenParts } from "../../asset/asset";
import { chosenFaces } from "../../asset/chosen-faces";
import { onGames } from "../../asset/other-mesh";
import { gameMeshes } from "../../asset/parts";
import type { PieceOptions } from "../../asset/worked-meshes";
import { GameOptions } from "../../asset/worked-meshes";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";

/** Options of operations on islands: those with a chosen face, or all of the chosen parts. */
export class IslandOptions extends GameOptions {}

/** A game mesh with what of it is chosen. */
export interface ChosenGame {
  name: string;
  mesh: Mesh;
  /** faceCount: 1 where a face is chosen. */
  marks: Uint8Array;
}

/**
 * The game meshes of an asset that are not locked, with marks of what is chosen: faces, else whole parts, else all.
 * @param unwrapped leaves out meshes without UVs
 * @throws MissingInputError where there is nothing to work on
 */
export function chosenGames(
  asset: Asset,
  options: PieceOptions,
  unwrapped: boolean,
): ChosenGame[] {
  const faces = options.faces.length
    ? new Map(
        chosenFaces(asset, onGames(asset, options)).map(({ part, marks }) => [
          part.name,
          marks,
        ]),
      )
    : null;
  const parts = chosenParts(asset, options.parts);
  const games = gameMeshes(asset, chosenParts(asset, []))
    .filter(({ mesh }) => !unwrapped || mesh.uvs)
    .map(({ name, mesh }) => ({
      name,
      mesh,
      marks:
        faces?.get(name) ??
        new Uint8Array(faceCount(mesh)).fill(!faces && parts.has(name) ? 1 : 0),
    }));
  if (!games.some(({ marks }) => marks.some((mark) => mark)))
    throw new MissingInputError(
      unwrapped
        ? "no chosen part has UVs yet: unwrap first"
        : "no chosen part has a game mesh",
    );
  return games;
}
