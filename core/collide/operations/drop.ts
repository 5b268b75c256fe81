import { MissingInputError } from "../../base/errors";
import { defineOperation, field } from "../../asset/operation";
import type { Trial } from "../methods/trials";
import { dropTest } from "../methods/drop-test";

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
}

export const dropAsset = defineOperation({
  id: "collide/drop",
  stage: "collide",
  title: "Drop test",
  about:
    "Puts the hulls down, drops, pushes, rolls and stacks them, lets them fall on a slope and steps, and tells when they rest, how deep they lie, and whether they stand.",
  runs: "heavy",
  takes: "game",
  makesResult: false,
  keepsReport: true,
  madeFrom: ["hulls"],
  Options: DropOptions,
  async run(asset, options, context) {
    const all = asset.parts.flatMap((part) => part.hulls);
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
      context.progress(share, name);
    });
    const troubles = troublesOf(found.trials, found.stands);
    return {
      asset,
      headline: troubles.length ? troubles[0] : "rests and stands",
      report: {
        ...found,
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
