import { defineOperation } from "../../asset/operation";
import { spanOf } from "../../base/context";
import { MissingInputError } from "../../base/errors";
import { BakeOptions } from "../methods/bake-options";
import { angleMap, fidelityOf } from "../methods/fidelity";
import { prepareScene } from "../methods/scene";
import { wantedOf } from "../methods/wanted";

/** px of the longest side of the map of angles: more tells nothing more to the eye. */
const MOST_ACROSS = 1024;

class LookOffOptions {}

export const lookOff = defineOperation({
  id: "bake/look-off",
  stage: "bake",
  title: "Map how far off the look is",
  about:
    "Looks at every place of the game mesh for the angle between what its normal map shows and what its source is.",
  runs: "heavy",
  takes: "both",
  makesResult: false,
  Options: LookOffOptions,
  async run(asset, _, context) {
    const normals = asset.maps.filter(({ kind }) => kind === "normal");
    const given = asset.results.bake?.options;
    if (!normals.length || !given)
      throw new MissingInputError("there is no normal map yet: bake one first");
    const wanted = wantedOf(asset, Object.assign(new BakeOptions(), given));
    context.progress(0, "sorting the source");
    const scene = prepareScene(
      asset,
      { ...wanted, channels: ["normal"], rays: 0 },
      context.check,
    );
    const maps = normals.map((normal, i) => {
      const step = spanOf(
        context,
        0.1 + (0.8 * i) / normals.length,
        0.1 + (0.8 * (i + 1)) / normals.length,
      );
      step.progress(0, "comparing with the source");
      const { width, height } = normal;
      return angleMap(
        scene,
        normals,
        wanted.greenUp,
        normal.tile ?? 0,
        Math.round(
          (width * Math.min(MOST_ACROSS, Math.max(width, height))) /
            Math.max(width, height),
        ),
        context.check,
      );
    });
    context.progress(0.9, "measuring the parts");
    const { whole, canvases } = fidelityOf(scene, normals, wanted.greenUp);
    return {
      asset: {
        ...asset,
        maps: [...asset.maps.filter(({ kind }) => kind !== "angle"), ...maps],
      },
      headline: "",
      report: {
        ...whole,
        parts: scene.canvases.map(({ part }, c) => ({ part, ...canvases[c] })),
        summary: `the look is ${whole.mean.toFixed(2)}° off its source in the mean, ${whole.p95.toFixed(1)}° at one place in twenty`,
      },
    };
  },
});
