import { requireMeshes } from "../../asset/asset";
import { spaced } from "../../base/wording";
import { onSources } from "../../asset/other-mesh";
import { mapParts } from "../../asset/parts";
import { makeStandIn } from "../../asset/stand-ins";
import {
  exchanged,
  PieceOptions,
  workedMeshes,
} from "../../asset/worked-meshes";
import { MissingInputError } from "../../base/errors";
import { faceCount } from "../../mesh/mesh";
import { indicesOf, toRanges } from "../../base/ranges";
import type { StandInShape } from "../../remesh/stand-in/stand-in";
import { defineOperation, field } from "../../asset/operation";

class StandInFormOptions extends PieceOptions {
  @field({
    kind: "choice",
    label: "Shape",
    help: "What stands for the chosen faces, or for whole parts where no face is chosen.",
    choices: [
      { value: "best", label: "whichever fits best" },
      { value: "box", label: "box" },
      { value: "prism", label: "prism or cylinder" },
      { value: "turned", label: "turned profile" },
      { value: "tube", label: "tube along a path" },
      { value: "outline", label: "flat outline, thick" },
      { value: "card", label: "bent card, see-through" },
      { value: "none", label: "none: reduce it again" },
    ],
  })
  shape: StandInShape | "best" | "none" = "best";

  @field({
    kind: "integer",
    label: "Sides",
    help: "Sides of prisms, turned profiles and tubes.",
    min: 3,
    max: 64,
  })
  sides = 8;

  @field({
    kind: "integer",
    label: "Rings",
    empty: "as many as needed",
    help: "Rings of a profile, stations of a path, corners of an outline, rows of a card; 0 for as many as it needs.",
    min: 0,
    max: 64,
  })
  rings = 0;

  @field({
    kind: "flag",
    label: "Closed ends",
    help: "Off: the ends of the shape stay open, where nobody sees them.",
  })
  capped = true;

  @field({
    kind: "flag",
    label: "One a piece",
    help: "A shape for each connected piece; off: one over all of a part.",
  })
  each = true;
}

export const standIn = defineOperation({
  id: "reduce/stand-in",
  stage: "reduce",
  title: "Stand-in shapes",
  about:
    "Fits a box, a prism, a turned profile, a tube, a flat outline or a bent card to what is chosen and puts it in its place. It stays when the rest is reduced again.",
  runs: "heavy",
  takes: "source",
  makesResult: false,
  Options: StandInFormOptions,
  run(asset, options, context) {
    requireMeshes(asset, "source");
    const worked = workedMeshes(asset, {
      parts: options.parts,
      ...onSources(asset, options),
    });
    let triangles = 0;
    let max = 0;
    let squares = 0;
    const shapes: string[] = [];
    const next = mapParts(asset, (part) => {
      const at = worked.findIndex((each) => each.part === part);
      if (at < 0) return part;
      context.progress(at / worked.length, `fitting shapes to ${part.name}`);
      const source = part.source!;
      const marks =
        worked[at].marks ?? new Uint8Array(faceCount(source)).fill(1);
      const key = toRanges(indicesOf(marks));
      const others = part.standIns.filter(
        (each) => each.faces !== key || each.of !== marks.length,
      );
      if (options.shape === "none") {
        if (others.length === part.standIns.length)
          throw new MissingInputError(
            `no shape stands for these faces of ${part.name}`,
          );
        return {
          ...part,
          game: exchanged(part, marks, null, "source"),
          standIns: others,
        };
      }
      const made = makeStandIn(
        source,
        marks,
        { ...options, shape: options.shape },
        () => context.check(),
      );
      if (!made)
        throw new MissingInputError(
          `what is chosen of ${part.name} has no area to fit a shape to`,
        );
      triangles += made.entry.triangles;
      squares += made.entry.rms ** 2 * made.entry.triangles;
      max = Math.max(max, made.entry.max);
      shapes.push(made.entry.made);
      return {
        ...part,
        game: exchanged(part, marks, made.mesh, "source"),
        standIns: [...others, made.entry],
      };
    });
    return {
      asset: next,
      headline: `${spaced(triangles)} triangles`,
      report: {
        triangles,
        shapes,
        rms: Math.sqrt(squares / (triangles || 1)),
        max,
        summary:
          options.shape === "none"
            ? "the shape went: what it stood for is reduced with the rest next time"
            : `${shapes.join(", ")}: ${spaced(triangles)} triangles, ${(1000 * max).toFixed(1)} mm off at worst`,
      },
    };
  },
});
