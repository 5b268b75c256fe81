import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { expect, it } from "vitest";
import { createAsset } from "../../core/asset/asset";
import { CancelledError } from "../../core/base/errors";
import {
  BusyError,
  ConflictError,
  DiskFullError,
  LostError,
} from "../store/errors";
import { Store } from "../store/store";
import { faultyStore } from "../../tests/faulty-store";
import { Uploads } from "../uploads";
import type { Work, WorkDone } from "./messages";
import { JobQueue } from "./queue";
import type { WorkProcess } from "./work-process";

/** What the model knows of a job: where it must be, as far as it is known. */
interface Known {
  id: number;
  asset: number;
  state: "queued" | "running" | "done" | "failed" | "cancelled" | "interrupted";
  /** Whether the store may not know of its end yet: a kill then makes it interrupted. */
  unsure?: boolean;
}
interface Model {
  jobs: Known[];
  /** Assets that stand, by their place in the order in which they were made. */
  assets: number[];
}

/** The queue on a store of its own; the work that runs waits until the test ends it. */
class Real {
  queue!: JobQueue;
  /** Faults that the store's next writes of jobs meet. */
  faults: Error[] = [];
  /** Ends the work that is under way. */
  running: { work: Work; end(error?: Error): void } | null = null;

  private constructor(
    readonly folder: string,
    public store: Store,
  ) {}

  static async begin(): Promise<Real> {
    const folder = mkdtempSync(join(tmpdir(), "arnik-model-"));
    const real = new Real(folder, await Store.open(folder));
    real.start();
    return real;
  }

  start(): void {
    this.queue = new JobQueue(
      faultyStore(this.store, (call) =>
        call === "set" ? this.faults.shift() : null,
      ),
      new Uploads(this.folder),
      this.worker(),
      this.worker(),
    );
  }

  /** As a server that is killed and started again. */
  async crash(): Promise<void> {
    this.faults = [];
    await this.queue.close();
    this.running = null;
    await this.store.close();
    this.store = await Store.open(this.folder);
    await this.store.jobs.markInterrupted();
    this.start();
  }

  async end(): Promise<void> {
    await this.queue.close();
    await this.store.close();
    rmSync(this.folder, { recursive: true, force: true });
  }

  stateOf = async (id: number) =>
    this.queue.describe(await this.store.jobs.get(id)).state;

  async until(id: number, states: readonly string[]): Promise<string> {
    for (let tries = 0; tries < 400; tries++) {
      const state = await this.stateOf(id);
      if (states.includes(state)) return state;
      await new Promise((resolve) => setTimeout(resolve, 2));
    }
    throw new Error(
      `job ${id} is ${await this.stateOf(id)}, not ${states.join(" or ")}`,
    );
  }

  private worker(): WorkProcess {
    return {
      run: (work: Work, signal: AbortSignal) =>
        new Promise<WorkDone>((resolve, reject) => {
          const stop = () => {
            this.running = null;
            reject(new CancelledError());
          };
          if (signal.aborted) return stop();
          signal.addEventListener("abort", stop);
          const end = (error?: Error) => {
            this.running = null;
            signal.removeEventListener("abort", stop);
            if (error) return reject(error);
            this.store.database
              .write((trx) =>
                this.store.jobs.finish(trx, work.job, { title: "worked" }),
              )
              .then(
                () =>
                  resolve({
                    revision: work.revision,
                    report: {},
                    title: "worked",
                  }),
                reject,
              );
          };
          this.running = { work, end };
        }),
      end: () => Promise.resolve(),
    } as unknown as WorkProcess;
  }
}

type Command = fc.AsyncCommand<Model, Real>;
const open = ({ state }: Known) => state === "queued" || state === "running";
const heldBy = (model: Model, asset: number) =>
  model.jobs.find((job) => job.asset === asset && open(job));

/** What must hold after every command: each job is where the model says, and the first that is open gets to run. */
async function agree(model: Model, real: Real): Promise<void> {
  const [first, ...rest] = model.jobs.filter(open);
  if (first) {
    first.state = "running";
    await real.until(first.id, ["running"]);
    for (let tries = 0; real.running?.work.job !== first.id; tries++) {
      if (tries > 400) throw new Error(`job ${first.id} was never started`);
      await new Promise((resolve) => setTimeout(resolve, 2));
    }
  }
  for (const job of rest) expect(await real.stateOf(job.id)).toBe("queued");
  for (const job of model.jobs.filter((each) => !open(each)))
    expect(await real.stateOf(job.id)).toBe(job.state);
  for (const asset of model.assets)
    expect(real.queue.holds(asset)).toBe(Boolean(heldBy(model, asset)));
}

class Begin implements Command {
  check = (model: Readonly<Model>) => model.assets.length < 4;
  async run(model: Model, real: Real) {
    const row = await real.store.createAsset(createAsset("a"), "began");
    model.assets.push(row.id);
    await agree(model, real);
  }
  toString = () => "begin an asset";
}

class Accept implements Command {
  constructor(private readonly at: number) {}
  check = (model: Readonly<Model>) => model.assets.length > 0;
  async run(model: Model, real: Real) {
    const asset = model.assets[this.at % model.assets.length];
    const { head } = await real.store.asset(asset);
    const accepting = real.queue.accept({
      asset_id: asset,
      revision_id: head,
      operation: "bake/maps",
      options: "{}",
      uploads: "[]",
    });
    if (heldBy(model, asset))
      await expect(accepting).rejects.toThrow(BusyError);
    else model.jobs.push({ id: (await accepting).id, asset, state: "queued" });
    await agree(model, real);
  }
  toString = () => `accept a job on ${this.at}`;
}

class Cancel implements Command {
  constructor(private readonly at: number) {}
  check = (model: Readonly<Model>) => model.jobs.length > 0;
  async run(model: Model, real: Real) {
    const job = model.jobs[this.at % model.jobs.length];
    await real.queue.cancel(job.id);
    if (open(job)) job.state = "cancelled";
    await agree(model, real);
  }
  toString = () => `cancel ${this.at}`;
}

class End implements Command {
  constructor(
    private readonly how: "done" | "fails" | "dies",
    private readonly faults: readonly Error[],
  ) {}
  check = (model: Readonly<Model>) => model.jobs.some(open);
  async run(model: Model, real: Real) {
    const job = model.jobs.find(open)!;
    real.faults = [...this.faults];
    real.running!.end(
      this.how === "done"
        ? undefined
        : this.how === "fails"
          ? new Error("no such face")
          : new LostError("the work's process was ended"),
    );
    job.state = this.how === "done" ? "done" : "failed";
    job.unsure = this.faults.length > 0;
    await real.until(job.id, [job.state]);
    // What is meant for the end of this job must not meet the start of the next.
    await new Promise((resolve) => setTimeout(resolve, 1));
    const next = model.jobs.find(open);
    if (next && this.faults.length) {
      // A start that the store can't take ends that job; the one behind it goes on.
      const state = await real.until(next.id, ["running", "failed"]);
      if (state === "failed") next.state = "failed";
      next.unsure = true;
    }
    real.faults = [];
    await agree(model, real);
  }
  toString = () => `end: ${this.how}, faults ${this.faults.length}`;
}

class Again implements Command {
  constructor(private readonly at: number) {}
  check = (model: Readonly<Model>) => model.jobs.length > 0;
  async run(model: Model, real: Real) {
    const job = model.jobs[this.at % model.jobs.length];
    const again = real.queue.again(job.id);
    if (job.state === "done")
      await expect(again).rejects.toThrow(ConflictError);
    else if (heldBy(model, job.asset))
      await expect(again).rejects.toThrow(BusyError);
    else
      model.jobs.push({
        id: (await again).id,
        asset: job.asset,
        state: "queued",
      });
    await agree(model, real);
  }
  toString = () => `again ${this.at}`;
}

class Delete implements Command {
  constructor(private readonly at: number) {}
  check = (model: Readonly<Model>) => model.assets.length > 0;
  async run(model: Model, real: Real) {
    const [asset] = model.assets.splice(this.at % model.assets.length, 1);
    await real.queue.deleteAsset(asset);
    model.jobs = model.jobs.filter((job) => job.asset !== asset);
    await agree(model, real);
  }
  toString = () => `delete ${this.at}`;
}

class Crash implements Command {
  check = () => true;
  async run(model: Model, real: Real) {
    await real.crash();
    for (const job of model.jobs) {
      const lost = job.unsure && (await real.stateOf(job.id)) === "interrupted";
      if (open(job) || lost) job.state = "interrupted";
      job.unsure = false;
    }
    await agree(model, real);
  }
  toString = () => "crash";
}

it("agrees with its model, whatever is accepted, cancelled, ended, deleted or killed in which order", async () => {
  const at = fc.nat(7);
  const fault = fc.constantFrom<Error>(
    new DiskFullError(),
    new LostError("the store's thread ended"),
    new TypeError("undefined is not a function"),
  );
  const commands: fc.Arbitrary<Command>[] = [
    fc.constant(new Begin()),
    at.map((i) => new Accept(i)),
    at.map((i) => new Accept(i)),
    at.map((i) => new Cancel(i)),
    at.map((i) => new Again(i)),
    at.map((i) => new Delete(i)),
    fc
      .tuple(
        fc.constantFrom("done", "fails", "dies"),
        fc.array(fault, { maxLength: 3 }),
      )
      .map(([how, faults]) => new End(how, faults)),
    fc.constant(new Crash()),
  ];
  await fc.assert(
    fc.asyncProperty(
      fc.commands(commands, { size: "+1", maxCommands: 24 }),
      async (list) => {
        const real = await Real.begin();
        try {
          await fc.asyncModelRun(
            () => ({ model: { jobs: [], assets: [] }, real }),
            list,
          );
        } finally {
          await real.end();
        }
      },
    ),
    { numRuns: 30 },
  );
});
