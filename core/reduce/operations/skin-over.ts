import { createPart, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { reduceTogether } from "../../decimate/reduce-together";
import {
  namesOf,
  replaceFaces,
  REMADE_FROM,
  workedMeshes,
  WorkedOptions,
} from "../../asset/worked-meshes";
import { withRegionsOf } from "../../asset/carry";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import { skinOver } from "../../remesh/skin/skin-over";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { JUDGED, judgeAsset } from "./judge";

class SkinOptions extends WorkedOptions {
  @field({
    kind: "integer",
    label: "Resolution",
    help: "Cells along the longest side; gaps and walls thinner than a cell are lost.",
    unit: "cells",
    min: 8,
    max: 384,
  })
  cells = 160;

  @field({
    kind: "integer",
    label: "Triangles",
    empty: "all there are",
    help: "Reduces the skins to this many together; 0 leaves them as they come.",
    unit: "triangles",
    min: 0,
    max: 2000000,
  })
  triangles = 0;

  @field({
    kind: "choice",
    label: "Result",
    help: "A skin as the game mesh of every part, or one over all of them as a new source part.",
    choices: [
      { value: "each", label: "game mesh of each part" },
      { value: "together", label: "one new source over all" },
    ],
  })
  result: "each" | "together" = "each";
}

export const reduceSkinOver = defineOperation({
  id: "reduce/skin-over",
  stage: "reduce",
  title: "Skin over",
  about:
    "One closed surface over many pieces that pass through each other, sharp edges kept.",
  runs: "heavy",
  takes: "source",
  makesResult: true,
  madeFrom: REMADE_FROM,
  tellsOf: JUDGED,
  Options: SkinOptions,
  run(asset, options, context) {
    requireMeshes(asset, options.mesh);
    const start = performance.now();
    const worked = workedMeshes(asset, options);
    const groups =
      options.result === "each"
        ? worked.map(({ mesh }) => [mesh])
        : [worked.map(({ mesh }) => mesh)];
    const skins = groups.map((meshes, i) => {
      const step = spanOf(
        context,
        (0.6 * i) / groups.length,
        (0.6 * (i + 1)) / groups.length,
      );
      return skinOver(
        meshes,
        options.cells,
        () => context.check(),
        (share) => step.progress(share, "asking what lies inside"),
      );
    });
    const empty = skins.findIndex((skin) => !skin.corners.length);
    if (empty >= 0)
      throw new MissingInputError(
        `${options.result === "each" ? worked[empty].part.name : "this"} holds no room at ${options.cells} cells: close it, or take more`,
      );
    const games: (Mesh | null)[] = options.triangles
      ? reduceTogether(skins, options.triangles, spanOf(context, 0.6, 0.9))
      : skins;
    const count = (meshes: readonly (Mesh | null)[]) =>
      meshes.reduce((sum, mesh) => sum + (mesh ? triangleCount(mesh) : 0), 0);
    const named = games.map((mesh, i) =>
      mesh ? withRegionsOf(mesh, groups[i]) : null,
    );
    const next =
      options.result === "together"
        ? {
            ...asset,
            parts: [
              ...asset.parts,
              createPart(freeName(asset.parts), asset.parts.length, {
                source: named[0],
              }),
            ],
          }
        : replaceFaces(asset, worked, named, options.mesh);
    context.progress(0.92, "measuring the deviation");
    const triangles = count(games);
    return {
      asset: next,
      headline: `${spaced(triangles)} triangles`,
      report: {
        triangles,
        budget: options.triangles || null,
        ...(options.triangles &&
          triangles > options.triangles && {
            failed: `${spaced(options.triangles)} triangles can't be reached: ${spaced(triangles)} are left of closed skins, and fewer would tear them. Take fewer cells, or more triangles`,
          }),
        skinTriangles: count(skins),
        cells: options.cells,
        ...(options.result === "each"
          ? judgeAsset(next, "all round", namesOf(worked))
          : {}),
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

function freeName(parts: readonly { name: string }[]): string {
  for (let n = 1; ; n++) {
    const name = n === 1 ? "skin" : `skin ${n}`;
    if (!parts.some((part) => part.name === name)) return name;
  }
}
