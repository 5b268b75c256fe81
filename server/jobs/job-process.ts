import { writeFileSync } from "node:fs";
import { setPriority } from "node:os";
import { Worker } from "node:worker_threads";
import type { AnswerMessage, CallMessage } from "../store/remote";
import { toWire, LostError } from "../store/errors";
import type { CancelMessage, JobProcessData } from "./messages";

/**
 * A process that works for the server. This thread only listens, so that it can pass a wish to stop on to the one
 * that works, and ends all at once when the server is gone: nothing is left working for nobody.
 */
const data = JSON.parse(process.argv[2]) as JobProcessData;
prepare();

const flag = new Int32Array(new SharedArrayBuffer(4));
const waiting = new Set<number>();
let worker: Worker | null = start();

function start(): Worker {
  const made = new Worker(new URL("./job-worker.mjs", import.meta.url), {
    workerData: { ...data, cancel: flag.buffer },
    resourceLimits: { maxOldGenerationSizeMb: 8192 },
  });
  made.on("message", (message: AnswerMessage) => {
    if (!("news" in message)) waiting.delete(message.call);
    process.send!(message);
  });
  made.on("error", (error: NodeJS.ErrnoException) => {
    worker = null;
    const why = new LostError(
      error.code === "ERR_WORKER_OUT_OF_MEMORY"
        ? "the work ran out of memory: try it on less, or on a lighter source"
        : `the work ended early: ${error.message}`,
    );
    for (const call of waiting) process.send!({ call, error: toWire(why) });
    waiting.clear();
  });
  return made;
}

process.on("message", (message: CallMessage | CancelMessage) => {
  if ("cancel" in message) {
    if (waiting.has(message.cancel)) Atomics.store(flag, 0, message.cancel);
    return;
  }
  waiting.add(message.call);
  worker ??= start();
  worker.postMessage(message);
});
process.on("disconnect", () => process.exit(0));
// The server may have gone while this process was still starting.
if (!process.connected) process.exit(0);
// A key in the terminal goes to all of a group; the server decides when its processes end.
for (const signal of ["SIGINT", "SIGTERM"] as const)
  process.on(signal, () => {});

/** Gives way to what answers at once, and goes first where memory runs out: the server stays. */
function prepare(): void {
  try {
    if (data.niceness) setPriority(data.niceness);
    writeFileSync("/proc/self/oom_score_adj", "700");
  } catch {
    // Not every system knows these.
  }
}
