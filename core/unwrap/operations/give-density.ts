import type { Asset } from "../../asset/asset";
import { partOf } from "../../asset/asset";
import { MissingInputError } from "../../base/errors";
import { texelCode } from "../../mesh/texel-weights";
import { defineOperation, field } from "../../asset/operation";
import { chosenIslands, meshesResult } from "../methods/change-islands";
import { IslandOptions } from "../methods/island-options";
import { exposureOf } from "../methods/seams/exposure";
import type { SheetMove } from "../methods/sheet-islands";
import {
  densityOfIsland,
  gatherIslands,
  markIslands,
  moveIslands,
  turnAbout,
} from "../methods/sheet-islands";

class GiveDensityOptions extends IslandOptions {
  @field({
    kind: "choice",
    label: "Give",
    help: "By what the chosen islands get their texel density.",
    choices: [
      { value: "times", label: "a multiple of the rest" },
      { value: "texels", label: "texels per metre" },
      { value: "part", label: "that of a part" },
      { value: "asset", label: "that of another asset" },
      { value: "visibility", label: "by how much they show" },
      { value: "equal", label: "the same as everywhere" },
    ],
  })
  by: "times" | "texels" | "part" | "asset" | "visibility" | "equal" = "times";

  @field({
    kind: "number",
    label: "Times",
    help: "1.5 for what is looked at, 0.25 for undersides. By visibility: what hidden islands get.",
    min: 0.0313,
    max: 32,
    step: 0.25,
  })
  times = 1;

  @field({
    kind: "number",
    label: "Texels per metre",
    help: "Texel density to give, in texels per metre.",
    unit: "texels/m",
    min: 0,
    max: 1000000,
    folded: true,
  })
  density = 0;

  @field({
    kind: "text",
    label: "Only ID",
    help: "Name of an ID: only islands that have it get the density; empty for any.",
    folded: true,
  })
  id = "";

  @field({
    kind: "text",
    label: "Like part",
    help: "Name of the part whose density is given.",
    folded: true,
  })
  like = "";

  @field({
    kind: "integer",
    label: "Like asset",
    help: "Number of the asset whose density is given.",
    min: 0,
    max: 1000000000,
    folded: true,
  })
  asset = 0;
}

export const giveDensity = defineOperation({
  id: "unwrap/give-density",
  stage: "unwrap",
  title: "Give texel density",
  about:
    "Sets how many texels a metre of chosen islands gets against the rest, and scales them to it.",
  runs: "instant",
  takes: "game",
  asks: "asset",
  makesResult: false,
  updates: "unwrap/unfold",
  Options: GiveDensityOptions,
  // In one piece: the weights that are given depend on all that was chosen.
  async run(asset, options, context) {
    const found = chosenIslands(asset, options);
    const { meshes, islands, sheet } = found;
    const wantedId = idOf(asset, options.id);
    const chosen = found.chosen.filter(
      (i) =>
        !wantedId ||
        islands[i].faces.some(
          (f) => meshes[islands[i].mesh].ids?.[f] === wantedId,
        ),
    );
    const rest = densityAll(islands);
    const wanted = await wantedDensity();
    const seen =
      options.by === "visibility"
        ? exposureOf(meshes, "all round", () => context.check())
        : null;
    const weights = new Map<number, number>();
    for (const i of chosen) {
      const { mesh, faces } = islands[i];
      weights.set(i, weightOf(mesh, faces));
    }
    const moves: (SheetMove | null)[] = islands.map((island, i) => {
      const weight = weights.get(i);
      if (weight === undefined || island.copy) return null;
      const now = densityOfIsland(island) * island.weight;
      return now > 0
        ? turnAbout(island.middle, 0, (weight * rest) / now)
        : null;
    });
    const marked = markIslands(meshes, islands, "texelWeights", (_, i) =>
      weights.has(i) ? texelCode(weights.get(i)!) : null,
    );
    const moved = moveIslands(marked, islands, moves, sheet);
    return meshesResult(asset, found.names, moved, sheet, {
      given: chosen.length,
      texelsPerMetre: rest,
      weight: weights.size ? Math.max(...weights.values()) : 1,
    });

    function weightOf(mesh: number, faces: readonly number[]): number {
      if (options.by === "equal") return 1;
      if (options.by === "times") return options.times;
      if (options.by !== "visibility") return wanted / rest;
      let sum = 0;
      for (const f of faces) sum += seen![mesh][f];
      // A face seen straight on from half of all directions shows a quarter.
      const share = Math.min(1, sum / Math.max(1, faces.length) / 0.2);
      return options.times ** (1 - share);
    }

    async function wantedDensity(): Promise<number> {
      if (options.by === "texels") {
        if (!(options.density > 0))
          throw new MissingInputError("say how many texels a metre gets");
        return options.density;
      }
      if (options.by === "part") {
        const { game } = partOf(asset, options.like);
        if (!game?.uvs)
          throw new MissingInputError(`${options.like} has no UVs`);
        return densityAll(gatherIslands([game], sheet), false);
      }
      if (options.by === "asset") {
        if (!context.assetById)
          throw new MissingInputError(
            "there is no other asset here to take the density of",
          );
        const other = await context.assetById(options.asset);
        const games = other.parts.flatMap(({ game }) =>
          game?.uvs ? [game] : [],
        );
        if (!games.length)
          throw new MissingInputError(`${other.name} has no UVs yet`);
        return densityAll(
          gatherIslands(games, {
            width: other.brief.sheetSize,
            height: other.brief.sheetHeight || other.brief.sheetSize,
          }),
        );
      }
      return rest;
    }
  },
});

/** The number of an ID by its name, 0 for none. @throws MissingInputError */
function idOf(asset: Asset, name: string): number {
  if (!name.trim()) return 0;
  const at = asset.palette.findIndex((each) => each.name === name.trim());
  if (at < 0) throw new MissingInputError(`there is no ID "${name}"`);
  return at + 1;
}

/** Texels per metre over islands; weights taken out unless they are wanted in. */
function densityAll(
  islands: ReturnType<typeof gatherIslands>,
  without = true,
): number {
  let area = 0;
  let covered = 0;
  for (const each of islands) {
    if (each.copy) continue;
    area += each.area;
    covered += without ? each.covered / each.weight ** 2 : each.covered;
  }
  return area > 0 ? Math.sqrt(covered / area) : 0;
}
