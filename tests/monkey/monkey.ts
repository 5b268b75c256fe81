import type { Asset } from "../../core/asset/asset";
import { streamsIn } from "./streams";
import { ArnikError } from "../../core/base/errors";
import type { Operation, OperationResult } from "../../core/asset/operation";
import { plainContext } from "../../core/base/context";
import { findOperation, KERNELS, OPERATIONS } from "../../core/operations";
import {
  bringUpToDate,
  describe,
  runOperation,
  staleStages,
} from "../../core/route";
import { randomAsset } from "./assets";
import {
  comesBack,
  heedsLocks,
  hullsHold,
  keepsBudget,
  soundIslands,
  soundMeshes,
  soundReport,
} from "./holds";
import { randomOptions } from "./options";

/** What a monkey found: which call of which seed did not hold, and how. */
export interface Found {
  seed: number;
  call: number;
  operation: string;
  options: object;
  wrong: string;
}

export interface Tally {
  calls: number;
  /** How often each operation did something, and how often it said why it could not. */
  done: Map<string, number>;
  refused: Map<string, number>;
  found: Found[];
}

export const newTally = (): Tally => ({
  calls: 0,
  done: new Map(),
  refused: new Map(),
  found: [],
});

/** What a run may give otherwise the next time: times, and what follows from them. */
const TIMES = /"(seconds|raysPerSecond)":[^,}]*/g;
const textOf = ({ asset, report, headline }: OperationResult): string =>
  JSON.stringify([describe(asset), report, headline]).replace(TIMES, "");

/** Shares of a sequence's calls that go on with what came of them, and that are made twice to be compared. */
const AGAIN = 0.3;

/** The operations that need other assets, files or minutes: they have tests of their own. */
const LEFT_OUT = new Set([
  "intake/bring-in",
  "intake/bring-over",
  "intake/add-reference",
  "unwrap/paint-in",
]);

export const REACHED = OPERATIONS.filter(({ id }) => !LEFT_OUT.has(id));

/** How far along the route a sequence begins: much can only be done to what is reduced, unwrapped, baked. */
const ROUTES = [
  [],
  ["reduce/to-budget"],
  ["reduce/to-budget", "unwrap/unwrap"],
  ["reduce/to-budget", "edges/hard-by-angle", "unwrap/unwrap", "reduce/levels"],
  ["survey/count", "reduce/even-quads", "unwrap/unwrap", "collide/hulls"],
];

/**
 * Calls operations on a random asset, one after the other, and checks after each what must hold. First some of the
 * route; then operations in turn, so that sequences of seeds that follow each other reach them all.
 */
export async function runMonkey(
  seed: number,
  calls: number,
  tally: Tally,
): Promise<void> {
  const { asset: first, dice } = randomAsset(seed);
  let asset = first;
  const context = plainContext(KERNELS);
  const turn = Array.from(
    { length: calls },
    (_, call) => REACHED[(calls * seed + call) % REACHED.length],
  );
  const route = dice.one(ROUTES).map((id) => findOperation(id));
  for (const [call, operation] of [...route, ...turn].entries()) {
    const options = randomOptions(operation, asset, dice);
    const tell = (wrong: string) =>
      tally.found.push({ seed, call, operation: operation.id, options, wrong });
    tally.calls++;
    const before = describe(asset);
    const streams = streamsIn(asset);
    let result: OperationResult;
    try {
      result = await runOperation(operation, asset, { ...options }, context);
    } catch (error) {
      if (!streams.same()) tell("it changed what it was given, and refused");
      if (!(error instanceof ArnikError)) tell(String((error as Error).stack));
      count(tally.refused, operation.id);
      continue;
    }
    count(tally.done, operation.id);
    if (!streams.same()) tell("it changed what it was given");
    const wrong = wrongWith(asset, before, result, operation, options);
    if (wrong) tell(wrong);
    if (dice.often(AGAIN)) {
      const again = await runOperation(
        operation,
        asset,
        { ...options },
        context,
      );
      if (textOf(again) !== textOf(result))
        tell("it gives something else the second time");
    }
    // What is broken makes more that is broken: the next sequence goes on.
    if (wrong) return;
    asset = result.asset;
  }
  if (dice.often(AGAIN)) await upToDate(seed, calls, asset, tally);
}

/** Bringing up to date leaves nothing stale, or says what is in its way. */
async function upToDate(
  seed: number,
  call: number,
  asset: Asset,
  { found }: Tally,
): Promise<void> {
  const tell = (wrong: string) =>
    found.push({ seed, call, operation: "up to date", options: {}, wrong });
  try {
    const fresh = await bringUpToDate(asset, plainContext(KERNELS));
    const left = staleStages(fresh.asset);
    if (left.length) tell(`${left.join(", ")} stale after all`);
  } catch (error) {
    if (!(error instanceof ArnikError)) tell(String((error as Error).stack));
  }
}

function wrongWith(
  given: Asset,
  before: ReturnType<typeof describe>,
  result: OperationResult,
  { id, stage }: Operation,
  options: object,
): string | null {
  const { asset, report } = result;
  return (
    soundMeshes(asset) ??
    soundReport(report) ??
    comesBack(asset) ??
    heedsLocks(before, describe(asset), id) ??
    (stage === "reduce" && id !== "reduce/levels"
      ? keepsBudget(result)
      : null) ??
    (/^unwrap\/(unwrap|pack)$/.test(id) && wholeIslands(given, options)
      ? soundIslands(result)
      : null) ??
    (id === "collide/hulls" ? hullsHold(result, options) : null)
  );
}

/** Islands of locked parts, of those that are not chosen, and those placed by hand, lie where somebody left them: on others, too. */
const wholeIslands = ({ parts }: Asset, options: { parts?: string[] }) =>
  !options.parts?.length &&
  parts.every(
    ({ locked, game, previousUnwrap }) =>
      !locked && !game?.held && !previousUnwrap?.held,
  );

const count = (of: Map<string, number>, id: string) =>
  of.set(id, (of.get(id) ?? 0) + 1);
