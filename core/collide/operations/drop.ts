import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import type { Trial } from "../methods/trials";
import { dropTest } from "../methods/drop-test";
import { feelOf } from "../methods/feel";
import { StandOff } from "../methods/stand-off";
import { joinMeshes } from "../../mesh/change-faces";
import { fireBalls } from "../methods/fired-balls";
import { ownHulls } from "../../mesh/hull";
import { triangulate } from "../../mesh/triangulate";
import { boundsOf } from "../../space/bounds";

/** A delivery may lie so deep in what it rests on, metres, and takes so long to come to rest, seconds. */
const DEEPEST = 0.002;
const LATEST = 5;

class DropOptions {
  @field({
    kind: "number",
    label: "Slope",
    help: "How steep the slope is that it is dropped on.",
    unit: "°",
    min: 0,
    max: 60,
  })
  slope = 15;

  @field({
    kind: "number",
    label: "Friction",
    help: "Of the asset and of what it lies on; 0.6 is wood on stone, 0.1 is ice.",
    min: 0,
    max: 2,
  })
  friction = 0.6;

  @field({
    kind: "number",
    label: "Ball",
    empty: "a tenth as large",
    help: "Diameter of a ball that is fired through the openings of the game meshes, to see which of them hulls close; 0 takes a tenth of the asset's size.",
    unit: "mm",
    min: 0,
    max: 1000000,
  })
  ball = 0;
}

export const dropAsset = defineOperation({
  id: "collide/drop",
  stage: "collide",
  title: "Drop test",
  about:
    "Puts the hulls down, drops, pushes, rolls and stacks them, lets them fall on a slope and steps, fires a ball at gaps and walks on them; tells when they rest, how deep they lie, whether they stand, what stops the ball, and where one would hover or catch.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  keepsReport: true,
  madeFrom: ["hulls", "game meshes"],
  Options: DropOptions,
  async run(asset, options, context) {
    const all = asset.parts.flatMap((part) => ownHulls(part.hulls));
    const hulls = all.filter(({ kind }) => kind !== "ground");
    if (!hulls.length)
      throw new MissingInputError(
        all.length
          ? "a ground mesh never moves: there is nothing to drop"
          : "there are no hulls to drop: make some first",
      );
    const start = performance.now();
    const found = await dropTest(hulls, options, (share, name) => {
      context.check();
      context.progress(0.9 * share, name);
    });
    context.progress(0.9, "firing balls");
    const meshes = asset.parts.flatMap(({ game }) =>
      game
        ? [
            {
              positions: game.positions,
              triangles: triangulate(game).vertices,
            },
          ]
        : [],
    );
    const { min, max } = boundsOf(
      ...meshes.map(({ positions }) => positions),
      ...all.map(({ positions }) => positions),
    );
    const size = Math.max(...max.map((high, k) => high - min[k]));
    const balls = meshes.length
      ? await fireBalls(
          meshes,
          all,
          options.ball ? options.ball / 1000 : size / 10,
          () => context.check(),
        )
      : null;
    context.progress(0.95, "walking on them");
    const whole = joinMeshes(asset.parts.flatMap(({ game }) => game ?? []));
    const feel = meshes.length
      ? feelOf(
          all,
          new StandOff(whole.positions, triangulate(whole).vertices),
          () => context.check(),
        )
      : null;
    const troubles = troublesOf(found.trials, found.stands);
    return {
      asset,
      headline: troubles.length ? troubles[0] : "rests and stands",
      report: {
        ...found,
        ...(balls && { balls }),
        ...(feel && { feel }),
        troubles,
        summary: troubles.length ? troubles.join("; ") : "rests and stands",
        seconds: (performance.now() - start) / 1000,
      },
    };
  },
});

const WORDS: Record<Trial["name"], string> = {
  placed: "put down",
  dropped: "dropped",
  pushed: "pushed",
  rolled: "rolled",
  stacked: "stacked",
  slope: "on the slope",
  steps: "on steps",
};

/** What an artist would mend, in words. */
function troublesOf(trials: readonly Trial[], stands: boolean): string[] {
  const troubles = trials.flatMap((trial) => {
    const { name, restSeconds, penetration, fellThrough } = trial;
    const found: string[] = [];
    if (fellThrough) found.push(`${WORDS[name]}, it falls through the floor`);
    if (penetration > DEEPEST)
      found.push(
        `${WORDS[name]}, it lies ${(1000 * penetration).toFixed(1)} mm deep in what it meets`,
      );
    const level = name !== "slope" && name !== "steps";
    if (level && !fellThrough && (restSeconds ?? Infinity) > LATEST)
      found.push(
        restSeconds === null
          ? `${WORDS[name]}, it does not come to rest`
          : `${WORDS[name]}, it rests only after ${restSeconds.toFixed(1)} s`,
      );
    return found;
  });
  return stands
    ? troubles
    : [...troubles, "it does not keep standing where it is put down"];
}
