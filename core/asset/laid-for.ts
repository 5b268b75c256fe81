import type { Asset } from "./asset";
import { streamRef } from "./document";

/** What maps were laid for: the UVs of all game meshes, told in few characters. */
export const mapsLaidFor = ({ parts }: Asset): string =>
  parts
    .flatMap(({ game }) =>
      game?.uvs ? [streamRef(game.uvs).hash.slice(0, 12)] : [],
    )
    .join(" ");
