import { Worker } from "node:worker_threads";
import { builtScript } from "../../host/built";
import { Remote } from "./remote";
import type { Channel } from "./remote";
import type { Store } from "./store";
import type { StoreThreadData } from "./store-thread";

type Called<T> = {
  [K in keyof T]: T[K] extends (...args: infer A) => infer R
    ? (...args: A) => Promise<Awaited<R>>
    : never;
};

/** The store as other threads see it: the same methods, each answered later. */
export type StoreClient = Called<
  Omit<
    Store,
    "owner" | "database" | "streams" | "jobs" | "snapshots" | "profiles"
  >
> & {
  streams: Called<Store["streams"]>;
  jobs: Called<Store["jobs"]>;
  snapshots: Called<Store["snapshots"]>;
  profiles: Called<Store["profiles"]>;
  database: Called<Store["database"]>;
  owner(): Promise<string>;
};

/** Starts a thread with a store, and gives a client to it. The thread is started again should it ever end. */
export function storeClient(data: StoreThreadData): {
  store: StoreClient;
  /** Ends the thread after what it was asked before. */
  stop(): Promise<void>;
} {
  const remote = new Remote(
    () =>
      threadChannel(
        new Worker(builtScript("store-thread"), { workerData: data }),
      ),
    (why) => `the store's thread ended (${why}): try again`,
  );
  const at = (path: string): unknown =>
    new Proxy(() => {}, {
      // A client must not look like a promise to whoever awaits it.
      get: (_, name: string) =>
        name === "then" ? undefined : at(path ? `${path}.${name}` : name),
      apply: (_, __, args: unknown[]) => remote.call(path, args).answer,
    });
  const store = at("") as StoreClient;
  return {
    store,
    async stop() {
      await store.close().catch(() => {});
      await remote.end();
    },
  };
}

function threadChannel(worker: Worker): Channel {
  return {
    send: (message, transfer) =>
      worker.postMessage(message, [...(transfer ?? [])]),
    listen(message, gone) {
      worker.on("message", message);
      worker.on("error", (error) => gone(error.message));
      worker.on("exit", (code) => gone(`code ${code}`));
    },
    async end() {
      await worker.terminate();
    },
  };
}
