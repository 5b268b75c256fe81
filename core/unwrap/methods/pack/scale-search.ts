import { seededRandom } from "../../../base/random";
import type { Rotation } from "./types";
import type { Border } from "./border";
import { clearanceDeficit } from "./gaps";
import type { Pose, SheetBounds } from "./types";
import { OverlapRelaxation } from "./overlap-relaxation";

/** A layout without overlaps: where islands lie, at how many px for each unit of theirs. */
export interface Layout {
  poses: Pose[];
  scale: number;
}

export interface ScaleSearchInput {
  borders: readonly Border[];
  /** What lies on the sheet and does not move, in px. */
  fixed: Border | null;
  room: SheetBounds;
  rotation: Rotation;
  /** Where the search begins, and begins again: the first layout, then others. */
  start: (run: number) => Layout;
  /** No larger than this. */
  most: number;
  /** Share of the search that is over after so many rounds. */
  gone: (rounds: number) => number;
  check: () => void;
  best: (scale: number, gone: number) => void;
}

/** What a step of the search gains in scale: much at first, less where that does not come out. */
const STEPS = [1.02, 1.01, 1.005, 1.0025];
/** Times all that are stuck look for other places, without gain, after which a step is given up. */
const PATIENCE = 30;
/** Looks for another place that make a round. */
const ROUND = 60;
/** Rounds that a run is given at a time. */
const TURN = 3;
/** What a turn without gain takes off a run's worth, and how much less than the best is worth a new run. */
const TIRING = 0.01;
const WORSE = 0.025;
/** Share of the looks that the larger half of the islands gets: it moves seldom. */
const LARGE_LOOKS = 0.3;
/** Depth up to which islands count as apart, px: settling makes it strict. */
const NEARLY = 0.3;
/** Sweeps that a layout is given to come apart, after a step and after moves. */
const SWEEPS = 80;
const SWEEPS_AFTER_MOVES = 15;
/** Sweeps without gain after which it is left. */
const VAIN = 5;
/** Scales tried for the best of a step that did not come out. */
const LESS = { step: 0.997, count: 8 };
/** Gain in scale that counts as one. */
const GAIN = 1.0003;

/** One of the searches that are run side by side. */
interface Run {
  at: Layout;
  /** Where its next step begins, and which it is. */
  from: readonly Pose[];
  size: number;
  failed: boolean;
  /** Turns without gain. */
  vain: number;
}

/**
 * Lets islands grow step by step and move apart until none lies in another one (overlap-relaxation.ts): first all give way,
 * then those still stuck look for other places, small ones first. A step that does not come out is taken back as far
 * as it must be; where nothing is gained, two of the large ones change places and the next step is smaller. How far
 * that leads hangs on where it began, so several runs take turns: new ones, and those that got farthest.
 * In one piece: each step goes on from the best layout so far.
 */
export function searchScale(
  input: ScaleSearchInput,
): Layout & { rounds: number } {
  const { borders, fixed, room, rotation, most, gone, check } = input;
  const random = seededRandom(borders.length);
  const all = fixed ? [...borders, fixed] : borders;
  const relaxation = new OverlapRelaxation(
    all,
    borders.length,
    room,
    rotation,
    random,
  );
  const bySize = borders
    .map((_, i) => i)
    .sort((a, b) => borders[a].area - borders[b].area || a - b);
  const rank = new Int32Array(borders.length);
  bySize.forEach((i, k) => (rank[i] = k));
  const half = bySize.length >> 1;
  const large = bySize.slice(half);
  const runs: Run[] = [];
  let looks = 0;
  let rounds = 0;
  let share = gone(0);
  let top = input.start(0);
  while (share < 1 && top.scale < most) {
    const run = nextRun();
    const until = rounds + TURN;
    const { scale } = run.at;
    while (share < 1 && rounds < until && run.at.scale < most) advance(run);
    run.vain = run.at.scale > scale ? 0 : run.vain + 1;
  }
  return { ...top, rounds: Math.max(1, rounds) };

  /** The run that got farthest, those without gain for long counting less; or a new one. */
  function nextRun(): Run {
    const worth = (run: Run) => run.at.scale * (1 - TIRING * run.vain);
    const best = runs.reduce<Run | null>(
      (most, run) => (!most || worth(run) > worth(most) ? run : most),
      null,
    );
    if (best && worth(best) > (1 - WORSE) * top.scale) return best;
    const at = runs.length ? input.start(runs.length) : top;
    const run = { at, from: at.poses, size: 0, failed: false, vain: 0 };
    runs.push(run);
    return run;
  }

  /** A round is over after so many looks; only then is asked whether the search is. */
  function count(more: number): void {
    looks += more;
    const now = Math.floor(looks / ROUND);
    if (now === rounds) return;
    rounds = now;
    share = gone(rounds);
    input.best(top.scale, share);
  }

  function advance(run: Run): void {
    const target = Math.min(most, run.at.scale * STEPS[run.size]);
    relaxation.begin(run.from, target);
    if (run.failed) exchangeLarge(relaxation, large, random);
    const reached = attempt(target, run.at.scale);
    run.failed = !reached.apart || reached.scale < GAIN * run.at.scale;
    if (run.failed) {
      count(1);
      run.from = random() < 0.5 ? reached.poses : run.at.poses;
      run.size = Math.min(STEPS.length - 1, run.size + 1);
      return;
    }
    run.at = reached;
    run.from = reached.poses;
    run.size = Math.max(0, run.size - 1);
    if (reached.scale <= top.scale) return;
    top = reached;
    input.best(top.scale, share);
  }

  /** The layout at the target, or at the largest scale below it at which what came nearest comes apart. */
  function attempt(target: number, own: number): Layout & { apart: boolean } {
    let apart = comeApart(relaxation, SWEEPS, NEARLY, check);
    let least = Infinity;
    let nearest = relaxation.poses();
    for (let vain = 0; !apart && vain < PATIENCE && share < 1;) {
      relaxation.weigh();
      const stuck = relaxation.stuck(NEARLY).sort((a, b) => rank[a] - rank[b]);
      let looked = 0;
      for (const i of stuck) {
        check();
        if (rank[i] >= half && random() > LARGE_LOOKS) continue;
        relaxation.relocate(i);
        looked++;
      }
      count(Math.max(1, looked));
      apart = comeApart(relaxation, SWEEPS_AFTER_MOVES, NEARLY, check);
      const depth = relaxation.depth();
      vain++;
      if (!apart && depth >= 0.98 * least) continue;
      least = depth;
      vain = 0;
      nearest = relaxation.poses();
    }
    let scale = target;
    for (let k = 0; k < LESS.count && !apart; k++) {
      if (scale * LESS.step < own) break;
      scale *= LESS.step;
      relaxation.begin(nearest, scale);
      apart = comeApart(relaxation, SWEEPS, NEARLY, check);
    }
    return { apart, poses: apart ? relaxation.poses() : nearest, scale };
  }
}

/** Two of the large ones, of about the same size, change places. */
function exchangeLarge(
  relaxation: OverlapRelaxation,
  large: readonly number[],
  random: () => number,
): void {
  const a = Math.floor(random() * large.length);
  const b = a + (random() < 0.5 ? -1 : 1) * (1 + Math.floor(random() * 4));
  if (b >= 0 && b < large.length) relaxation.exchange(large[a], large[b]);
}

/** Sweeps until no island lies in another one, or all of them stop giving way. */
function comeApart(
  relaxation: OverlapRelaxation,
  sweeps: number,
  depth: number,
  check: () => void,
): boolean {
  let least = Infinity;
  let vain = 0;
  for (let k = 0; k < sweeps && vain < VAIN; k++) {
    check();
    relaxation.sweep();
    if (relaxation.deepest < depth) return true;
    vain = relaxation.energy > 0.99 * least ? vain + 1 : 0;
    least = Math.min(least, relaxation.energy);
  }
  return false;
}

/** Padding and margin more than is asked for while settling, px, and what is given up where that does not come out. */
const SETTLE = {
  slack: 0.2,
  depth: 0.15,
  step: 0.9985,
  tries: 40,
  sweeps: 200,
};

/**
 * The layout at the largest scale at which it keeps the padding and margins exactly, found by short moves.
 * @returns null where it does not come out
 */
export function settle(
  { borders, fixed, room, rotation, check }: ScaleSearchInput,
  found: Layout,
): Layout | null {
  const all = fixed ? [...borders, fixed] : borders;
  const relaxation = new OverlapRelaxation(
    all,
    borders.length,
    room,
    rotation,
    seededRandom(7),
  );
  let { scale } = found;
  let slack = SETTLE.slack;
  for (let tries = 0; tries < SETTLE.tries; tries++) {
    relaxation.begin(found.poses, scale, slack);
    if (comeApart(relaxation, SETTLE.sweeps, SETTLE.depth, check)) {
      const poses = relaxation.poses();
      const lack = clearanceDeficit(borders, poses, scale, room, fixed);
      if (lack <= 0) return { poses, scale };
      slack += Math.min(1, lack);
    }
    scale *= SETTLE.step;
  }
  return null;
}
