import { PartsOptions } from "../../asset/parts-options";
import { chosenParts } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { clipMesh } from "../../mesh/clip";
import type { Mesh } from "../../mesh/mesh";
import { vertexCount } from "../../mesh/mesh";
import { joinMeshes } from "../../mesh/change-faces";
import { weld } from "../../mesh/weld";
import { defineOperation, field } from "../../asset/operation";
import type { Matrix } from "../../mesh/transform";
import { IDENTITY, transformMesh } from "../../mesh/transform";

class MirrorOptions extends PartsOptions {
  @field({
    kind: "choice",
    label: "Across",
    help: "The plane stands at right angles to this axis.",
    choices: [
      { value: "x", label: "x, left to right" },
      { value: "y", label: "y, top to bottom" },
      { value: "z", label: "z, front to back" },
    ],
  })
  axis: "x" | "y" | "z" = "x";

  @field({
    kind: "number",
    label: "Plane at",
    help: "Where on the axis the plane stands.",
    unit: "m",
    min: -10000,
    max: 10000,
    step: 0.01,
  })
  at = 0;

  @field({
    kind: "choice",
    label: "Keep",
    help: "The side that stays; what lies beyond the plane is cut away.",
    choices: [
      { value: "positive", label: "the positive side" },
      { value: "negative", label: "the negative side" },
      { value: "both", label: "all of it, cut nothing" },
    ],
  })
  keep: "positive" | "negative" | "both" = "positive";

  @field({
    kind: "number",
    label: "Weld within",
    help: "Vertices this near to the plane are put on it and joined.",
    unit: "mm",
    min: 0,
    max: 100,
    step: 0.01,
  })
  weld = 0.05;

  @field({
    kind: "choice",
    label: "Meshes",
    help: "Which meshes are mirrored.",
    choices: [
      { value: "source", label: "source" },
      { value: "game", label: "game" },
    ],
    folded: true,
  })
  mesh: "source" | "game" = "source";
}

export const mirrorParts = defineOperation({
  id: "survey/mirror",
  stage: "survey",
  title: "Mirror and weld",
  about:
    "Cuts parts at a plane, mirrors what is kept and joins both halves on it.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: MirrorOptions,
  run(asset, options, context) {
    const chosen = chosenParts(asset, options.parts);
    const axis = "xyz".indexOf(options.axis);
    let joined = 0;
    let mirrored = 0;
    const next = mapParts(asset, (part) => {
      const mesh = part[options.mesh];
      if (!mesh || !chosen.has(part.name)) return part;
      context.check();
      const made = mirrorMesh(
        mesh,
        axis,
        options.at,
        options.keep,
        options.weld / 1000,
      );
      if (!made) return part;
      mirrored++;
      joined += made.joined;
      return { ...part, [options.mesh]: made.mesh };
    });
    if (!mirrored)
      throw new MissingInputError(
        "nothing of the chosen parts lies on the side that is kept",
      );
    return {
      asset: next,
      headline: "",
      report: {
        parts: mirrored,
        joined,
        summary: `${mirrored} parts mirrored, ${spaced(joined)} vertices joined on the plane`,
      },
    };
  },
});

/** @param slack metres; null where nothing is on the side kept */
export function mirrorMesh(
  mesh: Mesh,
  axis: number,
  at: number,
  keep: "positive" | "negative" | "both",
  slack: number,
): { mesh: Mesh; joined: number } | null {
  const way = keep === "negative" ? -1 : 1;
  const normal: [number, number, number] = [0, 0, 0];
  normal[axis] = way;
  const half =
    keep === "both"
      ? mesh
      : clipMesh(mesh, { normal, offset: way * at }, Math.max(slack, 1e-9));
  if (!half.corners.length) return null;
  const positions = half.positions.slice();
  for (let v = axis; v < positions.length; v += 3)
    if (Math.abs(positions[v] - at) <= slack) positions[v] = at;
  const matrix: number[] = [...(IDENTITY as Matrix)];
  matrix[5 * axis] = -1;
  matrix[12 + axis] = 2 * at;
  const kept = { ...half, positions };
  const both = joinMeshes([kept, transformMesh(kept, matrix)]);
  const { mesh: whole } = weld(both, Math.min(slack, 1e-6));
  return { mesh: whole, joined: vertexCount(both) - vertexCount(whole) };
}
