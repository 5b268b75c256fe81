import { join, resolve } from "node:path";
import { JobQueue } from "./jobs/queue";
import { Store } from "./store/store";

export interface Home {
  store: Store;
  queue: JobQueue;
  uploads: string;
}

let opened: Promise<Home> | null = null;

/** The store and the queue of this process, opened once. Data lies in ARNIK_DATA, `data` by default. */
export function home(): Promise<Home> {
  opened ??= (async () => {
    const folder = resolve(process.env.ARNIK_DATA ?? "data");
    const store = await Store.open(folder);
    await store.markInterrupted();
    return {
      store,
      queue: new JobQueue(store, folder),
      uploads: join(folder, "uploads"),
    };
  })();
  return opened;
}
