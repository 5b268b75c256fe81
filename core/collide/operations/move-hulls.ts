import { defineOperation, field } from "../../asset/operation";
import { moveHull, pivotOf } from "../../mesh/move-hull";
import {
  chosenHulls,
  freeName,
  HandOptions,
  replaceHulls,
} from "../methods/hand-hulls";

const FAR = 1_000_000;
const along = (what: string, way: string) => ({
  kind: "number" as const,
  label: `Move along ${way}`,
  help: what,
  unit: "mm",
  min: -FAR,
  max: FAR,
});
const about = (way: string) => ({
  kind: "number" as const,
  label: `Turn about ${way}`,
  help: "The three together are one turn: its axis, and its angle as that one's length.",
  unit: "°",
  min: -360,
  max: 360,
});
const larger = (which: string) => ({
  kind: "number" as const,
  label: `Size along its ${which} axis`,
  help: "A box has axes along its edges, a capsule's second runs its length, all else has the world's. Several are sized alike all round.",
  unit: "×",
  min: 0.001,
  max: 1000,
});

class MoveOptions extends HandOptions {
  @field(along("To the right.", "x"))
  moveX = 0;

  @field(along("Upwards.", "y"))
  moveY = 0;

  @field(along("To the front.", "z"))
  moveZ = 0;

  @field(about("x"))
  turnX = 0;

  @field(about("y"))
  turnY = 0;

  @field(about("z"))
  turnZ = 0;

  @field(larger("first"))
  sizeX = 1;

  @field(larger("second"))
  sizeY = 1;

  @field(larger("third"))
  sizeZ = 1;

  @field({
    kind: "flag",
    label: "Keep the first",
    help: "Moves a copy, and leaves what is chosen where it is.",
  })
  copy = false;
}

export const moveHulls = defineOperation({
  id: "collide/move",
  stage: "collide",
  title: "Move, turn or size hulls",
  about:
    "Makes chosen hulls larger or smaller about their middle, turns them about it, and moves them; or copies of them.",
  runs: "instant",
  takes: "game",
  makesResult: false,
  updates: "collide/hulls",
  Options: MoveOptions,
  run(asset, options, context) {
    const radians = (degrees: number) => (degrees / 180) * Math.PI;
    const hulls = chosenHulls(asset, options.hulls).map(({ hull }) => hull);
    const pivot = pivotOf(hulls);
    const by = {
      move: [
        options.moveX / 1000,
        options.moveY / 1000,
        options.moveZ / 1000,
      ] as const,
      turn: [
        radians(options.turnX),
        radians(options.turnY),
        radians(options.turnZ),
      ] as const,
      scale: [options.sizeX, options.sizeY, options.sizeZ] as const,
    };
    const taken: string[] = [];
    return replaceHulls(
      asset,
      options.hulls,
      (hull, part) => {
        const moved = moveHull(hull, by, pivot);
        if (!options.copy) return [moved];
        const name = freeName(asset, part.name, taken);
        taken.push(name);
        return [hull, { ...moved, name }];
      },
      context,
    );
  },
});
