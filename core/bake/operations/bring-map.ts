import { profileOf } from "../../asset/profile";
import { defineOperation, field } from "../../asset/operation";
import { MissingInputError, OptionsError } from "../../base/errors";
import type { BakedKind } from "../../base/pictures";
import { BROUGHT_KINDS, MAP_TITLES } from "../../base/pictures";
import { udimOf } from "../../mesh/tiles";
import {
  broughtOf,
  broughtTile,
  kindInName,
  readBrought,
  using,
  withBrought,
  withoutBrought,
} from "../methods/brought-maps";

const KINDS = BROUGHT_KINDS.map((kind) => ({
  value: kind,
  label: MAP_TITLES[kind],
}));

class BringMapOptions {
  @field({
    kind: "choice",
    label: "Kind",
    help: "What the picture says. By its name: what stands last in it, as in lamp_normal.png.",
    choices: [{ value: "name", label: "by its name" }, ...KINDS],
  })
  kind: BakedKind | "name" = "name";

  @field({
    kind: "text",
    label: "Sheet",
    help: "Which of several sheets it is for, such as 1002; where left out its name says so, or it is the first.",
    max: 4,
    folded: true,
  })
  sheet = "";

  @field({
    kind: "choice",
    label: "Green points",
    help: "In the normal map that is brought in. It is turned over where the asset's profile wants it the other way.",
    choices: [
      { value: "profile", label: "as the profile says" },
      { value: "up", label: "up" },
      { value: "down", label: "down" },
    ],
    folded: true,
  })
  green: "profile" | "up" | "down" = "profile";
}

export const bringMap = defineOperation({
  id: "bake/bring-map",
  stage: "bake",
  title: "Bring maps in",
  about:
    "Takes PNG or JPEG maps from elsewhere: each stands in for the baked one, which is kept beside it, and bakes leave it alone.",
  runs: "heavy",
  takes: "game",
  asks: "pictures",
  makesResult: false,
  Options: BringMapOptions,
  run(asset, options, context) {
    if (!context.files?.length)
      throw new MissingInputError("there is no map to bring in");
    if (!asset.parts.some(({ game }) => game?.uvs))
      throw new MissingInputError(
        "no game mesh has UVs that a map could lie on: unwrap it first",
      );
    const ownGreenUp = profileOf(asset.brief).greenUp;
    let made = asset;
    const brought: string[] = [];
    for (const file of context.files) {
      context.check();
      const named = kindInName(file.name);
      const kind = options.kind === "name" ? named?.kind : options.kind;
      if (!kind)
        throw new OptionsError("bake/bring-map", {
          kind: `"${file.name}" does not end in a kind of map: choose which it is`,
        });
      const udim = Number(options.sheet) || named?.udim || udimOf(0);
      const map = readBrought(file, asset, {
        kind,
        tile: broughtTile(asset, udim),
        greenUp:
          options.green === "profile" ? ownGreenUp : options.green === "up",
        ownGreenUp,
      });
      made = withBrought(made, map);
      brought.push(`${MAP_TITLES[kind]} ${map.width} × ${map.height}`);
    }
    return {
      asset: made,
      headline: "",
      report: { brought, summary: `brought in: ${brought.join(", ")}` },
    };
  },
});

class UseMapOptions {
  @field({
    kind: "choice",
    label: "Kind",
    help: "Of which map.",
    choices: KINDS,
  })
  kind: BakedKind = "normal";

  @field({
    kind: "choice",
    label: "In use",
    help: "Which is shown and shipped. Taking away leaves the baked one alone.",
    choices: [
      { value: "brought", label: "the one brought in" },
      { value: "baked", label: "the baked one" },
      { value: "remove", label: "take the brought one away" },
    ],
  })
  use: "brought" | "baked" | "remove" = "brought";
}

export const useMap = defineOperation({
  id: "bake/use-map",
  stage: "bake",
  title: "Choose between maps",
  about:
    "Of a map that was baked and brought in as well: which of both is shown and shipped.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  Options: UseMapOptions,
  run(asset, { kind, use }) {
    if (broughtOf(asset, kind) === "none")
      throw new MissingInputError(`of ${MAP_TITLES[kind]} none was brought in`);
    const baked = [...asset.maps, ...asset.aside].some(
      (map) => map.kind === kind && !map.from,
    );
    if (use === "baked" && !baked)
      throw new MissingInputError(
        `of ${MAP_TITLES[kind]} none is baked: bake it, or take the one that was brought in away`,
      );
    return {
      asset:
        use === "remove"
          ? withoutBrought(asset, kind)
          : using(asset, kind, use === "brought"),
      headline: "",
      report: {
        kind,
        use,
        summary:
          use === "remove"
            ? `${MAP_TITLES[kind]}: the brought one is taken away`
            : `${MAP_TITLES[kind]}: the ${use} one is in use`,
      },
    };
  },
});
