import { chosenFaces, MESH_OF_FACES } from "../../asset/chosen-faces";
import { onGames } from "../../asset/other-mesh";
import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import { packAsset } from "../methods/pack-asset";
import { PackOptions } from "../methods/pack-options";
import { reportUnwrap, unwrappedGames } from "../methods/report";
import { sheetOf } from "../methods/sheet";

class PackIslandsOptions extends PackOptions {
  @field({
    kind: "choice",
    label: "Pack",
    help: "Everything, or only what is chosen into what the rest leaves free.",
    choices: [
      { value: "all", label: "everything" },
      { value: "chosen", label: "the chosen into what is left" },
    ],
  })
  which: "all" | "chosen" = "all";

  @field({
    kind: "faces",
    label: "Faces",
    help: "Faces of game meshes whose islands are chosen, as part:ranges.",
  })
  faces: string[] = [];

  @field(MESH_OF_FACES)
  mesh: "source" | "game" = "game";

  @field({
    kind: "flag",
    label: "Let go",
    help: "Packs islands too that were placed by hand.",
    folded: true,
  })
  letGo = false;
}

export const packOnly = defineOperation({
  id: "unwrap/pack",
  stage: "unwrap",
  title: "Pack only",
  about:
    "Keeps the islands as they are, gives all the same texel density and packs them again.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  updates: "unwrap/unwrap",
  passesOptions: true,
  Options: PackIslandsOptions,
  run(asset, options, context) {
    const start = performance.now();
    const games = unwrappedGames(asset);
    if (!games.length)
      throw new MissingInputError("no game mesh has UVs yet: unwrap first");
    const sheet = sheetOf(asset, options);
    const marks = new Map(
      options.faces.length
        ? chosenFaces(asset, onGames(asset, options)).map(({ part, marks }) => [
            part.name,
            marks,
          ])
        : [],
    );
    if (options.which === "chosen" && !marks.size)
      throw new MissingInputError("no islands are chosen");
    const free = options.letGo
      ? {
          ...asset,
          parts: asset.parts.map((part) =>
            part.game?.held
              ? { ...part, game: { ...part.game, held: null } }
              : part,
          ),
        }
      : asset;
    const { asset: next, rounds } = packAsset(
      free,
      sheet,
      options,
      context,
      (part, faces) =>
        options.which === "all" || faces.some((f) => marks.get(part)?.[f]),
    );
    options.rounds = rounds || options.rounds;
    const told = reportUnwrap(next, sheet, (performance.now() - start) / 1000);
    return {
      asset: next,
      headline: told.headline,
      report: { ...told.report, rounds },
    };
  },
});
