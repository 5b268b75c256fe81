import type { Asset } from "../../asset/asset";
import { withGameMeshes } from "../../asset/parts";
import type { Context } from "../../base/context";
import { spanOf } from "../../base/context";
import { shareIslands } from "./alike/share-islands";
import type { PackOptions } from "./pack-options";
import { packMeshes } from "./pack-meshes";
import { unwrappedGames } from "./report";
import type { Sheet } from "./sheet";

/** Packs all game meshes that have UVs, shares what is to be shared, and forgets what they were laid out as. */
export function packAsset(
  asset: Asset,
  sheet: Sheet,
  options: PackOptions & {
    share?: "never" | "never seen together" | "all";
    /** Parts whose islands that are alike are laid on one another again. */
    stacked?: ReadonlySet<string>;
  },
  context: Context,
  moves: (part: string, faces: readonly number[]) => boolean = () => true,
): { asset: Asset; rounds: number; texelsPerMetre: number } {
  const games = unwrappedGames(asset);
  const locked = games.map(({ name }) =>
    asset.parts.some((part) => part.name === name && part.locked),
  );
  let meshes = games.map(({ mesh }) => mesh);
  const { share = "never", stacked } = options;
  if (share !== "never" || stacked?.size)
    ({ meshes } = shareIslands(
      meshes,
      sheet,
      {
        only: share === "never" ? "all" : share,
        locked,
        chosen: ({ mesh }) =>
          share !== "never" || stacked!.has(games[mesh].name),
      },
      spanOf(context, 0, 0.3),
    ));
  const packed = packMeshes(
    meshes,
    sheet,
    {
      rotation: options.rotate,
      rounds: options.rounds,
      seconds: options.seconds,
      together: options.together,
      boxSmall: options.boxSmall,
      tiles: options.tiles || asset.brief.sheets,
      deal: options.deal,
      moves: ({ mesh, faces }) =>
        !locked[mesh] && moves(games[mesh].name, faces),
    },
    spanOf(context, 0.3, 1),
  );
  const next = withGameMeshes(
    asset,
    new Map(games.map(({ name }, i) => [name, packed.meshes[i]])),
  );
  return {
    asset: {
      ...next,
      parts: next.parts.map((part) =>
        part.previousUnwrap && part.game?.uvs
          ? { ...part, previousUnwrap: null }
          : part,
      ),
    },
    rounds: packed.rounds,
    texelsPerMetre: packed.texelsPerMetre,
  };
}
