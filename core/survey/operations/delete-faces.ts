import { spaced } from "../../base/wording";
import type { Asset } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { triangleCount } from "../../mesh/mesh";
import { keepFaces } from "../../mesh/change-faces";
import { defineOperation } from "../../asset/operation";
import type { ChosenFaces } from "../../asset/chosen-faces";
import { FaceOptions, chosenFaces } from "../../asset/chosen-faces";

export const deleteFaces = defineOperation({
  id: "survey/delete-faces",
  stage: "survey",
  title: "Delete chosen faces",
  about: "Takes chosen faces out; a part left without faces goes.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: FaceOptions,
  run(asset, options) {
    const chosen = chosenFaces(asset, options);
    const { asset: next, triangles } = withoutFaces(
      asset,
      chosen,
      options.mesh,
    );
    return {
      asset: next,
      headline: "",
      report: {
        triangles,
        summary: `${spaced(triangles)} triangles went`,
      },
    };
  },
});

/** The asset without some faces, and without parts that have neither mesh left. */
export function withoutFaces(
  asset: Asset,
  chosen: readonly ChosenFaces[],
  which: "source" | "game",
): { asset: Asset; triangles: number } {
  let triangles = 0;
  const next = mapParts(asset, (part) => {
    const own = chosen.find((each) => each.part === part);
    if (!own) return part;
    const left = keepFaces(
      own.mesh,
      own.marks.map((mark) => 1 - mark),
    );
    triangles += triangleCount(own.mesh) - triangleCount(left);
    return { ...part, [which]: left.corners.length ? left : null };
  });
  return {
    asset: {
      ...next,
      parts: next.parts.filter((part) => part.source || part.game),
    },
    triangles,
  };
}
