import { chosenParts, requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { PartsOptions } from "../../asset/parts-options";
import { MissingInputError } from "../../base/errors";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { takeFaces } from "../../mesh/change-faces";
import { skinOver } from "../../remesh/skin/skin-over";
import { triangulate } from "../../mesh/triangulate";
import { defineOperation, field } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { boundsOf } from "../../space/bounds";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { meanEdge } from "../../mesh/edges";

/** Cells along the longest side, at least and at most. */
const FEWEST = 16;
const MOST = 384;
/** A cell is so many mean edges wide, where nobody says: finer shows nothing of the surface that is there. */
const EDGES = 1.5;

class NewSkinOptions extends PartsOptions {
  @field({
    kind: "number",
    label: "Cell",
    empty: "1½ mean edges",
    help: "Gaps and walls thinner than this are lost; 0 takes one and a half mean edges of the source.",
    unit: "mm",
    min: 0,
    max: 10000,
    step: 0.1,
  })
  cell = 0;
}

export const newSkin = defineOperation({
  id: "survey/new-skin",
  stage: "survey",
  title: "Give a new skin",
  about:
    "Remakes the outside of what can't be mended face by face, closed and manifold; the source as it came stays for the bake and can be put back.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: NewSkinOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const chosen = chosenParts(asset, options.parts);
    let before = 0;
    let after = 0;
    let widest = 0;
    let done = 0;
    const next = mapParts(asset, (part) => {
      const from = part.dense ?? part.source;
      if (!part.source || !from || part.repeat || !chosen.has(part.name))
        return part;
      const step = spanOf(context, done / chosen.size, ++done / chosen.size);
      const { min, max } = boundsOf(from.positions);
      const longest = Math.max(...max.map((high, k) => high - min[k]));
      const cell = options.cell / 1000 || EDGES * meanEdge(from);
      const cells = Math.round(
        Math.min(MOST, Math.max(FEWEST, longest / (cell || 1))),
      );
      const skin = skinOver(
        [from],
        cells,
        () => context.check(),
        (share) => step.progress(share, `giving ${part.name} a new skin`),
      );
      if (!faceCount(skin))
        throw new MissingInputError(
          `${part.name} holds no room at a cell of ${((1000 * longest) / cells).toFixed(2)} mm: close its holes first, or take a smaller one`,
        );
      before += triangleCount(from);
      after += triangleCount(skin);
      widest = Math.max(widest, longest / cells);
      return {
        ...part,
        source: likeBelow(skin, from),
        dense: from,
        skinned: true,
      };
    });
    return {
      asset: next,
      headline: "",
      report: {
        before,
        triangles: after,
        cell: widest,
        summary: `${spaced(before)} triangles were given a skin of ${spaced(after)}, in cells of up to ${(1000 * widest).toFixed(2)} mm`,
      },
    };
  },
});

/** A skin with materials, IDs and marks of the faces that lie nearest under it. */
function likeBelow(skin: Mesh, from: Mesh): Mesh {
  const { vertices, faces } = triangulate(from);
  const closest = new ClosestPoint(buildBvh(from.positions, vertices));
  const p = skin.positions;
  const below = new Uint32Array(faceCount(skin));
  for (let f = 0; f < below.length; f++) {
    const middle = [0, 0, 0];
    const [start, end] = [skin.faceStarts[f], skin.faceStarts[f + 1]];
    for (let c = start; c < end; c++)
      for (let k = 0; k < 3; k++)
        middle[k] += p[3 * skin.corners[c] + k] / (end - start);
    below[f] = faces[closest.find(middle[0], middle[1], middle[2])];
  }
  return takeFaces(skin, from, below);
}
