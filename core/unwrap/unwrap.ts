import { chosenParts, requireMeshes } from "../asset/asset";
import type { Asset } from "../asset/asset";
import { gameMeshes, withGameMeshes } from "../asset/parts";
import { workedParts } from "../asset/repeats";
import { MissingInputError } from "../errors";
import type { Mesh } from "../mesh/mesh";
import { vertexCount } from "../mesh/mesh";
import { defineOperation, field, spanOf } from "../operation";
import { measureUnwrap } from "./measure";
import type { UnwrapFigures } from "./measure";
import { layOut, packOnSheet } from "./unwrap-parts";

class UnwrapOptions {
  @field({
    kind: "number",
    label: "Stretch allowed",
    help: "L2 stretch an island may have; 1 is none. Less stretch makes more islands.",
    min: 1.01,
    max: 2,
    step: 0.01,
  })
  stretch = 1.08;

  @field({
    kind: "integer",
    label: "Sheet",
    help: "Edge of the sheet; 0 takes the brief's.",
    unit: "px",
    min: 0,
    max: 8192,
    folded: true,
  })
  size = 0;

  @field({
    kind: "integer",
    label: "Padding",
    help: "Free texels round every island; −1 takes the brief's.",
    unit: "px",
    min: -1,
    max: 64,
    folded: true,
  })
  padding = -1;

  @field({
    kind: "number",
    label: "Texel density",
    help: "Texels per metre; −1 takes the brief's, 0 as many as fit.",
    unit: "texels/m",
    min: -1,
    max: 100000,
    folded: true,
  })
  density = -1;
}

export const unwrapParts = defineOperation({
  id: "unwrap/unwrap",
  stage: "unwrap",
  title: "Unwrap",
  about:
    "Finds seams, lays the islands flat, evens out the texel density and packs them on the sheet.",
  runs: "heavy",
  takes: "game",
  makesResult: true,
  Options: UnwrapOptions,
  run(asset, options, context) {
    requireMeshes(asset, "game");
    const parts = gameMeshes(asset, chosenParts(asset, []));
    if (!parts.length) throw new MissingInputError("every game mesh is locked");
    const start = performance.now();
    const meshes = parts.map(({ mesh }) => mesh);
    const sheet = sheetOf(asset, options);
    const islands = layOut(
      meshes,
      { stretch: options.stretch, spread: 0.09 },
      spanOf(context, 0, 0.6),
    );
    context.progress(0.62, `packing ${islands.length} islands`);
    const packed = packOnSheet(meshes, islands, sheet, () => context.check());
    const seconds = (performance.now() - start) / 1000;
    const next = withGameMeshes(
      asset,
      new Map(parts.map(({ name }, i) => [name, packed.meshes[i]])),
    );
    return { asset: next, ...reportUnwrap(next, sheet.size, seconds) };
  },
});

/** Sheet, padding and density: what an option leaves open comes from the brief. */
export function sheetOf(
  asset: Asset,
  options: { size: number; padding: number; density: number },
) {
  const { brief } = asset;
  return {
    size: options.size || brief.sheetSize,
    padding: options.padding < 0 ? brief.padding : options.padding,
    texelsPerMetre:
      options.density < 0 ? brief.texelsPerMetre : options.density,
  };
}

/** Figures over all game meshes with UVs, and how an engine will count their vertices. */
export function reportUnwrap(
  asset: Asset,
  size: number,
  seconds: number,
): { headline: string; report: UnwrapFigures & Record<string, unknown> } {
  const parts = gameMeshes(
    asset,
    new Set(workedParts(asset).map((part) => part.name)),
  ).filter(({ mesh }) => mesh.uvs);
  const figures = measureUnwrap(
    parts.map(({ mesh }) => mesh),
    size,
  );
  return {
    headline: `fill ${Math.round(100 * figures.fill)}\u2009%`,
    report: {
      ...figures,
      seconds,
      parts: parts.map(({ name, mesh }) => ({
        part: name,
        share: shareOf(mesh),
        vertices: vertexCount(mesh),
      })),
    },
  };
}

/** Share of the sheet that a mesh's UV triangles take. */
function shareOf(mesh: Mesh): number {
  let area = 0;
  const { uvs, faceStarts } = mesh;
  for (let f = 0; f + 1 < faceStarts.length; f++)
    for (let c = faceStarts[f] + 1; c + 1 < faceStarts[f + 1]; c++) {
      const [i, j, k] = [2 * faceStarts[f], 2 * c, 2 * c + 2];
      area +=
        Math.abs(
          (uvs![j] - uvs![i]) * (uvs![k + 1] - uvs![i + 1]) -
            (uvs![k] - uvs![i]) * (uvs![j + 1] - uvs![i + 1]),
        ) / 2;
    }
  return area;
}
