import { PartsOptions } from "../../asset/parts-options";
import { spaced } from "../../base/wording";
import { mapParts } from "../../asset/parts";
import { MissingInputError } from "../../base/errors";
import { faceCount } from "../../mesh/mesh";
import { indicesOf } from "../../base/ranges";
import { defineOperation, field } from "../../asset/operation";
import { withoutFaces } from "./delete-faces";
import { unseenFaces } from "../methods/unseen";

class LeaveUnseenOptions extends PartsOptions {
  @field({
    kind: "number",
    label: "Seen by up to",
    help: "Faces that no more than this share of the views sees.",
    unit: "% of views",
    min: 0,
    max: 50,
    step: 0.5,
  })
  threshold = 0;

  @field({
    kind: "choice",
    label: "What happens",
    help: "Deleted faces go; source-only faces still bake.",
    choices: [
      { value: "delete", label: "delete them" },
      { value: "source-only", label: "keep for the source only" },
    ],
  })
  how: "delete" | "source-only" = "delete";

  @field({
    kind: "choice",
    label: "Meshes",
    help: "Which meshes lose them.",
    choices: [
      { value: "source", label: "source" },
      { value: "game", label: "game" },
    ],
    folded: true,
  })
  mesh: "source" | "game" = "source";
}

export const leaveUnseen = defineOperation({
  id: "survey/leave-unseen",
  stage: "survey",
  title: "Leave unseen faces out",
  about: "Takes out what looking from outside found to be seen by nobody.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: LeaveUnseenOptions,
  run(asset, options) {
    const which = options.mesh;
    if (!asset.parts.some((part) => part[which]?.visibility))
      throw new MissingInputError(
        'nobody has looked yet: run "Find what nobody sees" first',
      );
    const chosen = asset.parts.flatMap((part) => {
      const mesh = part[which];
      const meant = !options.parts.length || options.parts.includes(part.name);
      if (!mesh?.visibility || part.locked || part.repeat || !meant) return [];
      const marks = new Uint8Array(faceCount(mesh));
      for (const f of unseenFaces(mesh, options.threshold / 100).faces)
        marks[f] = 1;
      return [{ part, mesh, marks, count: indicesOf(marks).length }];
    });
    if (options.how === "delete") {
      const { asset: next, triangles } = withoutFaces(asset, chosen, which);
      return {
        asset: next,
        headline: "",
        report: { triangles, summary: `${spaced(triangles)} triangles went` },
      };
    }
    const next = mapParts(asset, (part) => {
      const own = chosen.find((each) => each.part === part);
      if (!own) return part;
      const sourceOnly = own.marks.map(
        (mark, f) => mark | (own.mesh.sourceOnly?.[f] ?? 0),
      );
      return { ...part, [which]: { ...own.mesh, sourceOnly } };
    });
    const count = chosen.reduce((sum, each) => sum + each.count, 0);
    return {
      asset: next,
      headline: "",
      report: {
        faces: count,
        summary: `${spaced(count)} faces are for the source only`,
      },
    };
  },
});
