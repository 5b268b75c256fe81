import { defineOperation, field } from "../../asset/operation";
import { hullFrame } from "../../mesh/hull-frame";
import { multiply, transformHull, translation } from "../../mesh/transform";
import { boundsOf } from "../../space/bounds";
import { freeName, HandOptions, replaceHulls } from "../methods/hand-hulls";

class MirrorOptions extends HandOptions {
  @field({
    kind: "choice",
    label: "Across",
    help: "Which way left and right are changed about.",
    choices: [
      { value: "x", label: "x, left and right" },
      { value: "y", label: "y, up and down" },
      { value: "z", label: "z, front and back" },
    ],
  })
  axis: "x" | "y" | "z" = "x";

  @field({
    kind: "choice",
    label: "About",
    help: "Where the mirror stands.",
    choices: [
      { value: "asset", label: "the asset's middle" },
      { value: "origin", label: "the origin" },
      { value: "own", label: "each one's own middle" },
    ],
  })
  about: "asset" | "origin" | "own" = "asset";

  @field({
    kind: "flag",
    label: "Keep the first",
    help: "Mirrors a copy, and leaves what is chosen where it is.",
  })
  copy = true;
}

export const mirrorHulls = defineOperation({
  id: "collide/mirror",
  stage: "collide",
  title: "Mirror hulls",
  about: "Mirrors chosen hulls, or copies of them, across the asset.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: MirrorOptions,
  run(asset, options, context) {
    const k = ["x", "y", "z"].indexOf(options.axis);
    const { min, max } = boundsOf(
      ...asset.parts.flatMap(
        ({ game, source }) => (game ?? source)?.positions ?? [],
      ),
    );
    const taken: string[] = [];
    return replaceHulls(
      asset,
      options.hulls,
      (hull, part) => {
        const at =
          options.about === "own"
            ? hullFrame(hull).centre[k]
            : options.about === "asset"
              ? (min[k] + max[k]) / 2
              : 0;
        const flip = [...translation(0, 0, 0)];
        flip[5 * k] = -1;
        const off: [number, number, number] = [0, 0, 0];
        off[k] = 2 * at;
        const name = options.copy
          ? freeName(asset, part.name, taken)
          : hull.name;
        taken.push(name);
        const mirrored = transformHull(
          hull,
          multiply(translation(...off), flip),
          name,
        );
        return options.copy ? [hull, mirrored] : [mirrored];
      },
      context,
    );
  },
});
