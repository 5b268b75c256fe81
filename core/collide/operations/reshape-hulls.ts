import { defineOperation, field } from "../../asset/operation";
import { ArnikError } from "../../base/errors";
import type { ShapeWanted } from "../methods/hulls";
import { KINDS, shapeRound } from "../methods/hulls";
import { HandOptions, replaceHulls } from "../methods/hand-hulls";

type OneShape = Exclude<ShapeWanted, "hulls" | "best" | "ground">;

/** Shapes that stand for one thing each. */
export const ONE_SHAPE: readonly { value: OneShape; label: string }[] = [
  { value: "box", label: "box" },
  { value: "sphere", label: "sphere" },
  { value: "capsule", label: "capsule" },
  { value: "prism", label: "prism" },
  { value: "hull", label: "convex hull" },
];

class ReshapeOptions extends HandOptions {
  @field({
    kind: "choice",
    label: "Into",
    help: "The smallest of that kind that holds the hull.",
    choices: ONE_SHAPE,
  })
  kind: OneShape = "box";

  @field({
    kind: "integer",
    label: "Vertices",
    help: "At the most in a convex hull; a prism has half as many sides.",
    min: 4,
    max: 255,
  })
  vertices = 32;
}

export const reshapeHulls = defineOperation({
  id: "collide/reshape",
  stage: "collide",
  title: "Make hulls another shape",
  about: "Puts another shape round each chosen hull, in its place.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: ReshapeOptions,
  run(asset, { hulls, kind, vertices }, context) {
    return replaceHulls(
      asset,
      hulls,
      (hull) => {
        const made = shapeRound(hull.positions, kind, vertices);
        if (!made) throw new ArnikError(`${hull.name} is flat: a box holds it`);
        return [{ ...hull, ...made, kind: KINDS[kind] }];
      },
      context,
    );
  },
});
