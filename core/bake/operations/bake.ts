import { profileOf } from "../../asset/asset";
import { defineOperation, field } from "../../asset/operation";
import { udimOf } from "../../mesh/tiles";
import { bakeMaps } from "../methods/maps";

class BakeOptions {
  @field({
    kind: "flag",
    label: "Normal map",
    help: "Tangent space, MikkTSpace.",
  })
  normal = true;

  @field({
    kind: "flag",
    label: "Ambient occlusion",
    help: "How much of the sky every texel sees.",
  })
  ao = true;

  @field({
    kind: "integer",
    label: "Occlusion rays",
    help: "Rays a texel; more are smoother and slower.",
    min: 4,
    max: 1024,
  })
  rays = 64;

  @field({
    kind: "integer",
    label: "Samples",
    help: "Normal samples along each side of a texel.",
    min: 1,
    max: 4,
    folded: true,
  })
  samples = 2;

  @field({
    kind: "number",
    label: "Ray distance",
    empty: "found for each part",
    help: "How far rays start outside the game mesh; 0 finds it for each part.",
    unit: "mm",
    min: 0,
    max: 10000,
    folded: true,
  })
  distance = 0;

  @field({
    kind: "choice",
    label: "Depth",
    help: "Bits of each channel in the PNG.",
    choices: [
      { value: "8", label: "8 bit" },
      { value: "16", label: "16 bit" },
    ],
    folded: true,
  })
  depth: "8" | "16" = "8";

  @field({
    kind: "integer",
    label: "Sheet",
    brief: "sheetSize",
    help: "Edge of the maps; 0 takes the brief's.",
    unit: "px",
    min: 0,
    max: 8192,
    folded: true,
  })
  size = 0;
}

export const bakeAsset = defineOperation({
  id: "bake/maps",
  stage: "bake",
  title: "Bake maps",
  about:
    "Casts rays from the game mesh to the source and writes what they find into maps.",
  runs: "heavy",
  takes: "both",
  makesResult: true,
  Options: BakeOptions,
  async run(asset, options, context) {
    const start = performance.now();
    const width = options.size || asset.brief.sheetSize;
    const height = Math.round(
      (width * (asset.brief.sheetHeight || asset.brief.sheetSize)) /
        asset.brief.sheetSize,
    );
    const { maps, figures } = await bakeMaps(
      asset,
      {
        width,
        height,
        normal: options.normal,
        rays: options.ao ? options.rays : 0,
        grid: options.samples,
        distance: options.distance / 1000,
        depth: options.depth === "16" ? 16 : 8,
        padding: asset.brief.padding,
        greenUp: profileOf(asset.brief).greenUp,
      },
      context,
    );
    const missed = figures.missed * 100;
    return {
      asset: { ...asset, maps },
      headline: `${missed < 0.005 ? "0" : missed.toFixed(2)}\u2009% missed`,
      report: {
        maps: [...new Set(maps.map((map) => map.kind))],
        tiles: [...new Set(maps.map((map) => udimOf(map.tile ?? 0)))],
        size: width,
        height,
        ...figures,
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});
