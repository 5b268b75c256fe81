import type { Asset } from "../../asset/asset";
import type { SurfaceLook } from "../../base/pictures";
import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";

class LookOptions {
  @field({
    kind: "text",
    label: "Material",
    help: "Which material; empty sets all.",
  })
  material = "";

  @field({ kind: "text", label: "Colour", help: "As #rrggbb.", max: 7 })
  colour = "#b8b2a6";

  @field({
    kind: "number",
    label: "Roughness",
    help: "0 mirrors, 1 is matt.",
    min: 0,
    max: 1,
    step: 0.01,
  })
  roughness = 0.6;

  @field({
    kind: "number",
    label: "Metalness",
    help: "0 for stone, wood and paint, 1 for bare metal.",
    min: 0,
    max: 1,
    step: 0.01,
  })
  metalness = 0;

  @field({
    kind: "number",
    label: "Opacity",
    empty: "as it is",
    help: "1 lets no light through, 0 all of it; what nobody gives stays as it is.",
    min: 0,
    max: 1,
    step: 0.01,
  })
  opacity: number | null = null;
}

/** The materials that the meshes of an asset use. */
export function materialsOf(asset: {
  parts: readonly {
    source: { materials: readonly string[] } | null;
    game: { materials: readonly string[] } | null;
  }[];
}): string[] {
  return [
    ...new Set(
      asset.parts.flatMap((part) => [
        ...(part.source?.materials ?? []),
        ...(part.game?.materials ?? []),
      ]),
    ),
  ];
}

export const setLook = defineOperation({
  id: "finish/look",
  stage: "finish",
  title: "Set a material's look",
  about:
    "One colour, roughness and metalness a material, to judge the asset by.",
  runs: "instant",
  takes: "game",
  makesResult: true,
  Options: LookOptions,
  run(asset, options) {
    if (!/^#[0-9a-f]{6}$/i.test(options.colour))
      throw new MissingInputError(
        `"${options.colour}" is no colour: give #rrggbb`,
      );
    const all = materialsOf(asset);
    if (options.material && !all.includes(options.material))
      throw new MissingInputError(
        `no mesh has a material "${options.material}"`,
      );
    const { colour, roughness, metalness, opacity } = options;
    const given = {
      ...{ colour, roughness, metalness },
      ...(opacity !== null && { opacity }),
    };
    const set = options.material ? [options.material] : all;
    const looks = mergeLooks(
      asset,
      set.map((material) => ({ material, ...given })),
    );
    return {
      asset: { ...asset, looks },
      headline: `${looks.length} ${looks.length === 1 ? "look" : "looks"}`,
      report: {
        looks: looks.map(({ material, colour, roughness, metalness }) => ({
          material,
          colour,
          roughness,
          metalness,
        })),
      },
    };
  },
});

/** Looks with some set anew; what nobody set of them (opacity, pictures) stays. */
function mergeLooks(asset: Asset, set: readonly SurfaceLook[]): SurfaceLook[] {
  const before = new Map(asset.looks.map((look) => [look.material, look]));
  for (const look of set)
    before.set(look.material, { ...before.get(look.material), ...look });
  return [...before.values()].sort((a, b) =>
    a.material < b.material ? -1 : 1,
  );
}
