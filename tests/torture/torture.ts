import fc from "fast-check";
import { inspect } from "./after";
import { beginning, commands } from "./commands";
import { Model } from "./model";
import type { Figures, Wrong } from "./rig";
import { Rig } from "./rig";

export interface Tortured {
  seed: number;
  rounds: number;
  figures: Figures;
  wrong: Wrong[];
}

/**
 * Attacks a server for a time: random commands of three clients at once, kills and a full disk among them, against
 * what was promised. Each round has a data folder of its own and ends with reading the file itself.
 */
export async function torture(
  seed: number,
  seconds: number,
  count: number,
): Promise<Tortured> {
  const until = Date.now() + 1000 * seconds;
  const total: Tortured = {
    seed,
    rounds: 0,
    figures: null as unknown as Figures,
    wrong: [],
  };
  for (let round = 0; round === 0 || Date.now() < until; round++) {
    const rig = await Rig.start(3);
    const model = new Model();
    try {
      const [steps] = fc.sample(commands(count), {
        seed: seed * 1000 + round,
        numRuns: 1,
      });
      await fc.asyncModelRun(
        () => ({ model, real: rig }),
        [...beginning(), ...steps],
      );
      await rig.settle();
      await inspect(model, rig);
    } catch (error) {
      rig.fault(
        "answer",
        error instanceof Error ? error.message : String(error),
      );
    } finally {
      await rig.remove();
    }
    total.rounds++;
    total.wrong.push(...rig.wrong);
    total.figures = total.figures
      ? sum(total.figures, rig.figures)
      : rig.figures;
    if (total.wrong.length) break;
  }
  return total;
}

function sum(a: Figures, b: Figures): Figures {
  const byStatus = { ...a.byStatus };
  for (const [status, count] of Object.entries(b.byStatus))
    byStatus[Number(status)] = (byStatus[Number(status)] ?? 0) + count;
  return {
    answers: a.answers + b.answers,
    byStatus,
    kills: a.kills + b.kills,
    fillings: a.fillings + b.fillings,
    slowestCancelMs: Math.max(a.slowestCancelMs, b.slowestCancelMs),
    acknowledged: a.acknowledged + b.acknowledged,
    jobs: a.jobs + b.jobs,
    revisionsOpened: a.revisionsOpened + b.revisionsOpened,
  };
}
