import { availableParallelism } from "node:os";
import { Worker } from "node:worker_threads";
import type { Workers } from "../core/base/context";
import { ArnikError } from "../core/base/errors";

/** What a worker is sent: first the kernel and what all slices share, then one slice at a time. */
export type WorkerMessage =
  { kernel: string; shared: object } | { slice: unknown; index: number };
export type WorkerAnswer =
  { index: number; result: unknown } | { failed: string };

/**
 * Lanes on worker threads: one a core, started when first needed and kept until `close`.
 * @param script the built kernel-worker
 */
export function threadWorkers(
  script: URL,
  threads = availableParallelism(),
): Workers & { close(): Promise<void> } {
  let workers: Worker[] = [];
  const stop = async () => {
    const all = workers;
    workers = [];
    await Promise.all(all.map((worker) => worker.terminate()));
  };
  return {
    async run(kernel, shared, slices, done) {
      while (workers.length < Math.min(threads, slices.length))
        workers.push(new Worker(script));
      const results = new Array<unknown>(slices.length);
      try {
        await spread(
          workers,
          kernel,
          shared,
          slices,
          results,
          done ?? (() => {}),
        );
      } catch (error) {
        // Slices still under way belong to a call that failed: their threads go with it.
        await stop();
        throw error;
      }
      return results as never;
    },
    close: stop,
  };
}

function spread(
  workers: readonly Worker[],
  kernel: string,
  shared: object,
  slices: readonly unknown[],
  results: unknown[],
  done: (finished: number) => void,
): Promise<void> {
  let next = 0;
  let finished = 0;
  return new Promise((resolve, reject) => {
    if (!slices.length) return resolve();
    // Only listeners of this call are taken off again: workers have some of their own.
    const leave: (() => void)[] = [];
    const settle = (end: () => void) => {
      for (const off of leave) off();
      end();
    };
    const failed = (error: unknown) =>
      settle(() =>
        reject(error instanceof Error ? error : new Error(String(error))),
      );
    for (const worker of workers) {
      const feed = () => {
        if (next < slices.length)
          worker.postMessage({
            slice: slices[next],
            index: next++,
          } satisfies WorkerMessage);
      };
      const hear = (answer: WorkerAnswer) => {
        if ("failed" in answer) return failed(new ArnikError(answer.failed));
        results[answer.index] = answer.result;
        finished++;
        try {
          done(finished);
        } catch (error) {
          return failed(error);
        }
        if (finished === slices.length) settle(resolve);
        else feed();
      };
      worker.on("message", hear);
      worker.on("error", failed);
      leave.push(() => worker.off("message", hear).off("error", failed));
      worker.postMessage({ kernel, shared } satisfies WorkerMessage);
      feed();
    }
  });
}
