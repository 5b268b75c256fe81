import { resolve } from "node:path";
import { JobQueue } from "./jobs/queue";
import { WorkProcess } from "./jobs/work-process";
import type { StoreClient } from "./store/store-client";
import { storeClient } from "./store/store-client";
import { KEPT, Uploads } from "./uploads";

/** How often forgotten uploads are looked for, milliseconds. */
const SWEEP = 60 * 60 * 1000;
/** Work in jobs gives way to this much to what answers at once. */
const NICENESS = 10;

export interface Home {
  store: StoreClient;
  /** The same store for large bytes, so that they don't hold up small rows. */
  blobs: StoreClient;
  queue: JobQueue;
  uploads: Uploads;
  close(): Promise<void>;
}

const KEY = Symbol.for("arnik.home");
const shared = globalThis as { [KEY]?: Promise<Home> };

/**
 * The store and the queue of this process, opened once. Data lies in ARNIK_DATA, `data` by default. What starts the
 * server waits for it and closes it by the same symbol (scripts/serve.mjs).
 */
export const home = (): Promise<Home> => (shared[KEY] ??= openHome());

async function openHome(): Promise<Home> {
  const folder = resolve(process.env.ARNIK_DATA ?? "data");
  const what = `the server on port ${process.env.PORT ?? "3000"}`;
  const data = storeClient({ folder, what, joins: false });
  try {
    const owner = await data.store.owner();
    await data.store.jobs.markInterrupted();
    const blobs = storeClient({ folder, what, joins: true });
    const uploads = new Uploads(folder);
    const heavy = new WorkProcess({ folder, owner, niceness: NICENESS });
    const instant = new WorkProcess({ folder, owner, niceness: 0 });
    const queue = new JobQueue(data.store, uploads, heavy, instant);
    await queue.sweep(KEPT);
    instant.warm();
    heavy.warm();
    const sweeping = setInterval(
      () => void queue.sweep(KEPT).catch(() => {}),
      SWEEP,
    );
    sweeping.unref();
    return {
      store: data.store,
      blobs: blobs.store,
      queue,
      uploads,
      async close() {
        clearInterval(sweeping);
        await queue.close();
        await blobs.stop();
        await data.stop();
      },
    };
  } catch (error) {
    await data.stop();
    throw error;
  }
}
