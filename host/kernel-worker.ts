import { parentPort } from "node:worker_threads";
import { KERNELS } from "../core/operations";
import type { WorkerAnswer, WorkerMessage } from "./workers";

let kernel: ((shared: never, slice: never) => unknown) | null = null;
let shared: object = {};

parentPort!.on("message", (message: WorkerMessage) => {
  if ("kernel" in message) {
    kernel = KERNELS[message.kernel];
    shared = message.shared;
    return;
  }
  let answer: WorkerAnswer;
  try {
    answer = {
      index: message.index,
      result: kernel!(shared as never, message.slice as never),
    };
  } catch (error) {
    answer = { failed: error instanceof Error ? error.message : String(error) };
  }
  parentPort!.postMessage(answer, transferable(answer));
});

/** Buffers of a result that can move instead of being copied. */
function transferable(answer: WorkerAnswer): ArrayBuffer[] {
  const result = "result" in answer ? answer.result : null;
  if (!result || typeof result !== "object") return [];
  return Object.values(result).flatMap((value) =>
    ArrayBuffer.isView(value) && value.buffer instanceof ArrayBuffer
      ? [value.buffer]
      : [],
  );
}
