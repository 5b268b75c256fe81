import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { createAsset } from "../../core/asset/asset";
import { CancelledError } from "../../core/base/errors";
import { DiskFullError, LostError } from "../store/errors";
import { Store } from "../store/store";
import { faultyStore } from "../../tests/faulty-store";
import { KEPT, uploadPath, Uploads } from "../uploads";
import type { Work, WorkDone } from "./messages";
import { JobQueue } from "./queue";
import type { WorkProcess } from "./work-process";

let folder = "";
let store: Store;
/** Faults that the store's next writes of jobs meet, in order. */
let faults: (Error | null)[] = [];

/** A store whose writes of jobs fail where `faults` say so. */
const faulty = () =>
  faultyStore(store, (call) => (call === "get" ? null : faults.shift()));

type Way =
  "done" | "fails" | "dies" | "hangs until stopped" | "dies when it is stored";

/** A process whose work ends as its options say. */
const worker = (): WorkProcess =>
  ({
    async run(work: Work, signal: AbortSignal): Promise<WorkDone> {
      if (signal.aborted) throw new CancelledError();
      const way = (work.options as { way: Way }).way;
      if (way === "fails") throw new Error("no such face");
      if (way === "dies") throw new LostError("the work's process was ended");
      if (way === "hangs until stopped")
        await new Promise((_, reject) =>
          signal.addEventListener("abort", () => reject(new CancelledError())),
        );
      await store.database.write((trx) =>
        store.jobs.finish(trx, work.job, { title: "worked" }),
      );
      if (way === "dies when it is stored")
        throw new LostError("the work's process was ended");
      return { revision: work.revision, report: {}, title: "worked" };
    },
    end: () => Promise.resolve(),
  }) as unknown as WorkProcess;

async function setUp() {
  faults = [];
  const queue = new JobQueue(faulty(), new Uploads(folder), worker(), worker());
  const row = await store.createAsset(createAsset("a"), "began");
  const accept = (way: Way, files: readonly string[] = []) =>
    queue.accept({
      asset_id: row.id,
      revision_id: row.head,
      operation: "bake/maps",
      options: JSON.stringify({ way }),
      uploads: JSON.stringify(files.map((id) => ({ id, name: `${id}.obj` }))),
    });
  return { queue, row, accept };
}

/** A file that has been sent. */
function sent(digit: string): string {
  const id = digit.repeat(32);
  mkdirSync(join(folder, "uploads"), { recursive: true });
  writeFileSync(uploadPath(folder, id), "v 0 0 0");
  return id;
}

async function ended(queue: JobQueue, id: number): Promise<string> {
  for (let tries = 0; tries < 400; tries++) {
    const { state } = queue.describe(await store.jobs.get(id));
    if (state !== "queued" && state !== "running") return state;
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
  throw new Error(`job ${id} does not end`);
}

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "arnik-queue-"));
  store = await Store.open(folder);
});
afterEach(async () => {
  await store.close();
  rmSync(folder, { recursive: true, force: true });
});

describe("the queue", () => {
  it("goes on whatever throws, wherever, and frees the asset", async () => {
    const ways = fc.constantFrom<Way>("done", "fails", "dies");
    const fault = fc.option(
      fc.constantFrom<Error>(
        new DiskFullError(),
        new LostError("the store's thread ended"),
        new TypeError("undefined is not a function"),
      ),
      { freq: 2 },
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(ways, fc.array(fault, { maxLength: 3 })), {
          minLength: 1,
          maxLength: 5,
        }),
        async (jobs) => {
          const { queue, accept } = await setUp();
          for (const [way, met] of jobs) {
            faults = [null, ...met];
            const job = await accept(way);
            const state = await ended(queue, job.id);
            expect(["done", "failed"]).toContain(state);
            if (!met.some(Boolean))
              expect(state).toBe(way === "done" ? "done" : "failed");
          }
          faults = [];
          expect(await ended(queue, (await accept("done")).id)).toBe("done");
          await queue.close();
        },
      ),
      { numRuns: 25 },
    );
  });

  it("writes an end that the store could not take as soon as it can", async () => {
    const { queue, accept } = await setUp();
    faults = [null, null, new DiskFullError(), new DiskFullError()];
    const job = await accept("fails");
    expect(await ended(queue, job.id)).toBe("failed");
    for (let tries = 0; tries < 200; tries++) {
      if ((await store.jobs.get(job.id)).state === "failed") break;
      await new Promise((resolve) => setTimeout(resolve, 20));
    }
    expect(await store.jobs.get(job.id)).toMatchObject({
      state: "failed",
      error: "no such face",
    });
    await queue.close();
  });

  it("cancels what runs and what waits, within a second", async () => {
    const { queue, accept } = await setUp();
    const other = await store.createAsset(createAsset("b"), "began");
    const running = await accept("hangs until stopped");
    const waiting = await queue.accept({
      asset_id: other.id,
      revision_id: other.head,
      operation: "bake/maps",
      options: JSON.stringify({ way: "done" }),
      uploads: "[]",
    });
    const began = performance.now();
    await queue.cancel(waiting.id);
    await queue.cancel(running.id);
    expect(performance.now() - began).toBeLessThan(1000);
    expect(await ended(queue, waiting.id)).toBe("cancelled");
    expect(await ended(queue, running.id)).toBe("cancelled");
    await queue.close();
  });

  it("deletes an asset whose job runs, cancelling it first", async () => {
    const { queue, row, accept } = await setUp();
    const job = await accept("hangs until stopped");
    await queue.deleteAsset(row.id);
    await expect(store.asset(row.id)).rejects.toThrow(/no asset/);
    await expect(store.jobs.get(job.id)).rejects.toThrow(/no job/);
    const next = await store.createAsset(createAsset("c"), "began");
    const after = await queue.accept({
      asset_id: next.id,
      revision_id: next.head,
      operation: "bake/maps",
      options: JSON.stringify({ way: "done" }),
      uploads: "[]",
    });
    expect(await ended(queue, after.id)).toBe("done");
    await queue.close();
  });

  it("refuses work on an older state before it, and a file that two jobs want", async () => {
    const { queue, row } = await setUp();
    const newer = await store.commit(
      row.id,
      row.head,
      createAsset("n"),
      "went on",
    );
    const job = (revision: number, uploads = "[]") => ({
      asset_id: row.id,
      revision_id: revision,
      operation: "bake/maps",
      options: JSON.stringify({ way: "done" }),
      uploads,
    });
    await expect(queue.accept(job(row.head))).rejects.toThrow(
      /changed elsewhere/,
    );
    await expect(
      queue.accept(
        job(newer, JSON.stringify([{ id: "0".repeat(32), name: "a.obj" }])),
      ),
    ).rejects.toThrow(/a\.obj is no longer kept/);
    expect(await store.jobs.of(row.id)).toEqual([]);
    await queue.close();
  });

  it("drops the files of what is done, also where the work ended just when it was stored", async () => {
    const { queue, accept } = await setUp();
    const [lost, kept] = [sent("a"), sent("b")];
    const job = await accept("dies when it is stored", [lost]);
    await ended(queue, job.id);
    for (let tries = 0; existsSync(uploadPath(folder, lost)); tries++) {
      expect(tries).toBeLessThan(400);
      await new Promise((resolve) => setTimeout(resolve, 5));
    }
    expect((await store.jobs.get(job.id)).state).toBe("done");
    const failed = await accept("fails", [kept]);
    await ended(queue, failed.id);
    expect(existsSync(uploadPath(folder, kept))).toBe(true);
    await queue.close();
  });

  it("sweeps away at the next start what a kill left of jobs that were done", async () => {
    const { queue, accept } = await setUp();
    const [left, wanted, fresh] = [sent("c"), sent("d"), sent("e")];
    await ended(queue, (await accept("done", [left])).id);
    await ended(queue, (await accept("fails", [wanted])).id);
    // As if the server had been killed before it removed the file.
    sent("c");
    const next = new JobQueue(
      faulty(),
      new Uploads(folder),
      worker(),
      worker(),
    );
    await next.sweep(KEPT);
    expect(
      [left, wanted, fresh].map((id) => existsSync(uploadPath(folder, id))),
    ).toEqual([false, true, true]);
    await queue.close();
    await next.close();
  });

  it("runs again what did not end well, never what is done", async () => {
    const { queue, accept } = await setUp();
    const failed = await accept("fails");
    await ended(queue, failed.id);
    const second = await queue.again(failed.id);
    expect(await ended(queue, second.id)).toBe("failed");
    const done = await accept("done");
    await ended(queue, done.id);
    await expect(queue.again(done.id)).rejects.toThrow(/nothing to run again/);
    await queue.close();
  });
});
