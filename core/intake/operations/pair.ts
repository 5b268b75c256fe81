import { PartsOptions } from "../../asset/parts-options";
import { createPart, partOf } from "../../asset/asset";
import { DEFAULT_PATTERNS } from "../methods/match";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { distinctNames } from "../../formats/raw-mesh";
import { defineOperation, field } from "../../asset/operation";
import { join, pairByName, pairingOf } from "../methods/pairing";

export class PatternOptions {
  @field({
    kind: "text",
    label: "Source names",
    help: "Marker of source meshes; * stands for what must match.",
    max: 60,
  })
  sourcePattern = DEFAULT_PATTERNS.source;

  @field({
    kind: "text",
    label: "Game names",
    help: "Marker of game meshes; * stands for what must match.",
    max: 60,
  })
  gamePattern = DEFAULT_PATTERNS.game;
}

export const matchParts = defineOperation({
  id: "intake/match",
  stage: "intake",
  title: "Match by name",
  about:
    "Makes one part of every source and game mesh whose names are alike once their markers are taken off.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  keepsReport: true,
  Options: PatternOptions,
  run(asset, options) {
    const { asset: next, paired } = pairByName(asset, {
      source: options.sourcePattern,
      game: options.gamePattern,
    });
    return {
      asset: next,
      headline: "",
      report: {
        paired,
        ...pairingOf(next),
        summary: `${paired} pairs by name`,
      },
    };
  },
});

class JoinOptions {
  @field({
    kind: "text",
    label: "Source",
    help: "The part with the source mesh.",
    max: 80,
  })
  source = "";

  @field({
    kind: "text",
    label: "Game mesh",
    help: "The part with the game mesh.",
    max: 80,
  })
  game = "";
}

export const joinPair = defineOperation({
  id: "intake/join-pair",
  stage: "intake",
  title: "Join source and game mesh",
  about:
    "Makes one part of a source and a game mesh that belong together whatever their names.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  keepsReport: true,
  Options: JoinOptions,
  run(asset, options) {
    const source = partOf(asset, options.source);
    const game = partOf(asset, options.game);
    if (!source.source || !game.game || source === game)
      throw new MissingInputError(
        "name one part that has a source mesh and another that has a game mesh",
      );
    if (source.game)
      throw new MissingInputError(
        `${source.name} has a game mesh already: part them first`,
      );
    const next = join(asset, source.name, game.name);
    return {
      asset: next,
      headline: "",
      report: {
        ...pairingOf(next),
        summary: `${game.name} is the game mesh of ${source.name}`,
      },
    };
  },
});

export const partPair = defineOperation({
  id: "intake/part-pair",
  stage: "intake",
  title: "Part source and game mesh",
  about: "Makes two parts again of chosen parts that have both meshes.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  keepsReport: true,
  Options: PartsOptions,
  run(asset, options) {
    for (const name of options.parts) partOf(asset, name);
    let count = 0;
    let next = asset;
    for (const part of asset.parts) {
      const meant = !options.parts.length || options.parts.includes(part.name);
      if (!meant || !part.source || !part.game || part.repeat) continue;
      count++;
      const name = distinctNames([
        ...next.parts.map((each) => each.name),
        `${part.name} game`,
      ]).at(-1)!;
      const off = createPart(name, next.parts.length, {
        game: part.game,
        hulls: part.hulls,
      });
      next = {
        ...mapParts(next, (each) =>
          each.name === part.name ? { ...each, game: null, hulls: [] } : each,
        ),
      };
      next = { ...next, parts: [...next.parts, off] };
    }
    return {
      asset: next,
      headline: "",
      report: { ...pairingOf(next), summary: `${count} parts parted` },
    };
  },
});
