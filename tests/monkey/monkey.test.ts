import { expect, it } from "vitest";
import { newTally, REACHED, runMonkey } from "./monkey";

/** Calls a sequence makes, and as many seeds that follow each other as it takes to reach every operation. */
const CALLS = 12;
const FROM = 100;
const SEEDS = Math.ceil(REACHED.length / CALLS);
/** Seeds of sequences that did not hold once. */
const ONCE_WRONG: number[] = [];

it("whatever is done to whatever asset, what must hold does", async () => {
  const tally = newTally();
  const seeds = Array.from({ length: SEEDS }, (_, i) => FROM + i);
  for (const seed of [...seeds, ...ONCE_WRONG])
    await runMonkey(seed, CALLS, tally);
  expect(tally.found).toEqual([]);
  const called = ({ id }: (typeof REACHED)[number]) =>
    tally.done.has(id) || tally.refused.has(id);
  const missed = REACHED.filter((each) => !called(each));
  expect(missed.map(({ id }) => id)).toEqual([]);
  expect(tally.done.size).toBeGreaterThan(REACHED.length / 2);
}, 300_000);
