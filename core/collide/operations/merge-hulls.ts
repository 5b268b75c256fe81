import { defineOperation, field } from "../../asset/operation";
import { ArnikError, MissingInputError } from "../../base/errors";
import { convexHull } from "../methods/convex-hull";
import { chosenHulls, HandOptions, withHandHulls } from "../methods/hand-hulls";

class MergeOptions extends HandOptions {
  @field({
    kind: "integer",
    label: "Vertices",
    help: "At the most in what they become.",
    min: 4,
    max: 255,
  })
  vertices = 32;
}

export const mergeHulls = defineOperation({
  id: "collide/merge",
  stage: "collide",
  title: "Merge hulls",
  about:
    "Makes chosen hulls one convex hull that holds them all. It goes with the part of the first.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: MergeOptions,
  run(asset, options, context) {
    const chosen = chosenHulls(asset, options.hulls).map(({ hull }) => hull);
    if (chosen.length < 2)
      throw new MissingInputError("one hull is chosen: merging takes two");
    const ground = chosen.find(({ kind }) => kind === "ground");
    if (ground)
      throw new ArnikError(
        `${ground.name} is a ground mesh: it does not become convex`,
      );
    const points = chosen.flatMap(({ positions }) => [...positions]);
    const made = convexHull(points, options.vertices);
    if (!made) throw new ArnikError("the chosen hulls are flat");
    const [first, ...others] = chosen;
    return withHandHulls(
      asset,
      (part) =>
        part.hulls.some((hull) => chosen.includes(hull))
          ? part.hulls.flatMap((hull) =>
              hull === first
                ? [{ ...first, ...made, kind: "convex", byHand: true }]
                : others.includes(hull)
                  ? []
                  : [hull],
            )
          : part.hulls,
      context,
    );
  },
});
