import { parentPort, workerData } from "node:worker_threads";
import type { CallMessage } from "./remote";
import { answerCalls, whenAsked } from "./remote";
import { asStoreError } from "./database";
import { Store } from "./store";

/**
 * The store of a server, on a thread of its own, so that the one which answers requests never waits for a disk.
 * With `joins` it reads beside the one that opened: large streams don't hold up small rows.
 */
export interface StoreThreadData {
  folder: string;
  what: string;
  joins: boolean;
}

const { folder, what, joins } = workerData as StoreThreadData;
const opened = whenAsked(() =>
  joins ? Store.join(folder, null) : Store.open(folder, what),
);

/** Calls a method by its path, such as `jobs.add`. */
async function handle({ method, args }: CallMessage) {
  const store = await opened();
  if (method === "owner") return { value: store.owner };
  const path = method.split(".");
  const name = path.pop()!;
  const target = path.reduce<unknown>(
    (at, key) => (at as Record<string, unknown>)[key],
    store,
  ) as Record<string, (...args: unknown[]) => Promise<unknown>>;
  const value = await target[name](...args);
  return { value, transfer: buffersOf(value) };
}

/** The memory of large bytes moves to the caller instead of being copied. */
function buffersOf(value: unknown): ArrayBuffer[] {
  const bytes =
    value instanceof Uint8Array
      ? value
      : (value as { bytes?: unknown } | null)?.bytes;
  return bytes instanceof Uint8Array &&
    bytes.buffer instanceof ArrayBuffer &&
    bytes.byteLength === bytes.buffer.byteLength
    ? [bytes.buffer]
    : [];
}

parentPort!.on(
  "message",
  answerCalls(
    (message, transfer) => parentPort!.postMessage(message, transfer),
    (call) =>
      handle(call).catch((error: unknown) => {
        throw asStoreError(error);
      }),
  ),
);
