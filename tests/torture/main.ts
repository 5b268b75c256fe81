import { parseArgs } from "node:util";
import { newTally, runMonkey } from "../monkey/monkey";
import { torture } from "./torture";

/**
 * `npm run torture -- --minutes 10 --seeds 1,2,3`: attacks store and queue, and prints what came of it; with `--monkey`
 * calls operations at random from each seed on instead, and prints what did not hold.
 */
const { values } = parseArgs({
  options: {
    minutes: { type: "string", default: "10" },
    seeds: { type: "string", default: "1,2,3" },
    commands: { type: "string", default: "120" },
    json: { type: "boolean", default: false },
    monkey: { type: "boolean", default: false },
  },
});
let failed = false;

/** Sequences of rising seeds, for some minutes. */
async function letMonkeyLoose(first: number): Promise<void> {
  const tally = newTally();
  const end = Date.now() + 60_000 * Number(values.minutes);
  let seed = first;
  while (Date.now() < end) await runMonkey(seed++, 12, tally);
  failed ||= tally.found.length > 0;
  process.stdout.write(
    `seeds ${first} to ${seed - 1}: ${tally.calls} calls, ${tally.found.length} that did not hold\n`,
  );
  for (const { seed: of, call, operation, options, wrong } of tally.found)
    process.stdout.write(
      `  seed ${of}, call ${call}: ${operation} ${JSON.stringify(options)}: ${wrong}\n`,
    );
}

if (values.monkey)
  for (const seed of values.seeds.split(",").map(Number))
    await letMonkeyLoose(seed);
for (const seed of values.monkey ? [] : values.seeds.split(",").map(Number)) {
  const found = await torture(
    seed,
    60 * Number(values.minutes),
    Number(values.commands),
  );
  failed ||= found.wrong.length > 0;
  if (values.json) process.stdout.write(`${JSON.stringify(found)}\n`);
  else {
    const { figures, wrong, rounds } = found;
    process.stdout.write(
      `seed ${seed}: ${rounds} rounds, ${figures.answers} answers (${Object.entries(
        figures.byStatus,
      )
        .map(([status, count]) => `${status}: ${count}`)
        .join(
          ", ",
        )}), ${figures.kills} kills, disk filled ${figures.fillings} times, ` +
        `${figures.acknowledged} changes acknowledged, ${figures.jobs} jobs, ` +
        `${figures.revisionsOpened} revisions opened again, slowest cancel ${figures.slowestCancelMs} ms\n`,
    );
    for (const { what, how } of wrong)
      process.stdout.write(`  ${what}: ${how}\n`);
    if (!wrong.length) process.stdout.write("  nothing went wrong\n");
  }
}
process.exitCode = failed ? 1 : 0;
