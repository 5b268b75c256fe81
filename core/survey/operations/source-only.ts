import { spaced } from "../../base/wording";
import { onSources } from "../../asset/other-mesh";
import { mapParts } from "../../asset/parts";
import { withSourceOnly } from "../../asset/source-only";
import { defineOperation, field } from "../../asset/operation";
import { FaceOptions, chosenFaces } from "../../asset/chosen-faces";

class SourceOnlyOptions extends FaceOptions {
  @field({
    kind: "flag",
    label: "Source only",
    help: "On: these faces bake and never reach the game mesh. Off: they count again.",
  })
  on = true;
}

export const markSourceOnly = defineOperation({
  id: "survey/source-only",
  stage: "survey",
  title: "Mark as source only",
  about:
    "Chosen faces of the source, or what chosen game faces stand for, bake but never reach the game mesh.",
  runs: "instant",
  takes: "source",
  makesResult: false,
  Options: SourceOnlyOptions,
  run(asset, options) {
    const chosen = chosenFaces(asset, onSources(asset, options));
    let count = 0;
    const next = mapParts(asset, (part) => {
      const own = chosen.find((each) => each.part === part);
      if (!own) return part;
      count += own.count;
      return {
        ...part,
        source: withSourceOnly(own.mesh, own.marks, options.on),
      };
    });
    return {
      asset: next,
      headline: "",
      report: {
        faces: count,
        summary: `${spaced(count)} faces ${options.on ? "are for the source only" : "count for the game mesh again"}`,
      },
    };
  },
});
