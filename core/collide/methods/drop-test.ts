import type { Hull } from "../../mesh/hull";
import type { Vector } from "../../space/vector";
import type { Body } from "./drop-body";
import { bodyOf } from "./drop-body";
import type { Ground } from "./drop-run";
import { groundOf, Run } from "./drop-run";
import type { Rapier } from "./physics";
import { physics } from "./physics";
import type { DropOptions, Trial, TrialName } from "./trials";
import { TRIALS } from "./trials";

export interface DropFigures {
  trials: Trial[];
  /** Over all trials on level ground: the last to rest, or null where one did not. */
  restSeconds: number | null;
  penetrationMetres: number;
  fellThrough: boolean;
  /** Whether it keeps standing where it is put down, without tipping or rocking. */
  stands: boolean;
  /** Of the hulls, as if they were solid and alike all through; metres. */
  centreOfMass: Vector;
}

/** Tilt of a thing that still stands, degrees. */
const STANDS = 4;

/**
 * Lets hulls, joined as one body, fall, be pushed, rolled, stacked, and lie on a slope and steps. Everything is made one
 * length large for the simulation, so that a button and a ship are told alike, with gravity to match; the same hulls
 * give the same result.
 * @param hulls of the whole asset, at least one; metres
 * @param check is called all the while, and throws where the work is cancelled
 */
export async function dropTest(
  hulls: readonly Hull[],
  options: DropOptions,
  check: (share: number, name: string) => void,
): Promise<DropFigures> {
  const rapier = await physics();
  const body = bodyOf(hulls);
  const trials = TRIALS.map((name, i) => {
    check(i / TRIALS.length, name);
    return new Run(rapier, body, options, name).go(() =>
      check(i / TRIALS.length, name),
    );
  });
  // On a slope and steps it may well slide on for ever.
  const level = trials.filter(
    ({ name }) => name !== "slope" && name !== "steps",
  );
  const rests = level.map(({ restSeconds }) => restSeconds);
  const placed = trials[0];
  return {
    trials,
    restSeconds: rests.includes(null)
      ? null
      : Math.max(...rests.map((seconds) => seconds!)),
    penetrationMetres: Math.max(
      ...trials.map(({ penetration }) => penetration),
    ),
    fellThrough: trials.some(({ fellThrough }) => fellThrough),
    stands: placed.restSeconds !== null && placed.tilt < STANDS,
    centreOfMass: centreOfMass(rapier, body),
  };
}

/** A trial as it went. */
export interface Recording {
  trial: Trial;
  ground: Ground;
  /** Where the middle of the asset's foot is before it is brought, metres: poses are of that. */
  foot: Vector;
  bodies: number;
  /** For each frame and body: where it is, metres, and its turn as a quaternion; 7 numbers, FRAMES times a second. */
  poses: Float32Array;
}

/** One trial of the drop test, to be played: the same hulls give the same poses. @param check throws where it is cancelled */
export async function recordDrop(
  hulls: readonly Hull[],
  options: DropOptions,
  name: TrialName,
  check: () => void,
): Promise<Recording> {
  const rapier = await physics();
  const body = bodyOf(hulls);
  const poses: number[] = [];
  let bodies = 1;
  const trial = new Run(rapier, body, options, name).go(
    check,
    (at, [x, y, z], turn) => {
      bodies = Math.max(bodies, at + 1);
      poses.push(x, y, z, turn.x, turn.y, turn.z, turn.w);
    },
  );
  return {
    trial,
    ground: groundOf(name, options, body.size),
    foot: body.foot,
    bodies,
    poses: Float32Array.from(poses),
  };
}

function centreOfMass(rapier: Rapier, body: Body): Vector {
  const run = new Run(rapier, body, { slope: 0, friction: 1 }, "placed");
  const found = run.centre();
  return found.map((x, k) => x * body.size + body.foot[k]) as unknown as Vector;
}
