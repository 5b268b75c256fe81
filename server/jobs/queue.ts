import { EventEmitter } from "node:events";
import { rmSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { Worker } from "node:worker_threads";
import { ArnikError } from "../../core/errors";
import type { JobRow } from "../store/store";
import type { Store } from "../store/store";
import type { JobAnswer, JobCall } from "./messages";

/** How long a cancelled job may take to notice before its thread is ended. */
const PATIENCE = 600;

export interface JobProgress {
  share: number;
  step: string;
  /** Milliseconds since the job began. */
  since: number;
}

export type QueueEvent =
  | { kind: "job"; job: number; asset: number }
  | { kind: "asset"; asset: number };

/** An operation failed; `status` is the HTTP status that says so. */
export class RunError extends ArnikError {
  override name = "RunError";
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

interface Waiting {
  resolve(answer: Extract<JobAnswer, { kind: "done" }>): void;
  reject(error: Error): void;
  progress(share: number, step: string): void;
}

/** A thread that runs operations, replaced when it has to be ended. */
class JobThread {
  private worker: Worker | null = null;
  private readonly waiting = new Map<number, Waiting>();
  private calls = 0;

  constructor(private readonly folder: string) {}

  run(
    call: Omit<JobCall, "call">,
    progress: Waiting["progress"],
  ): Promise<Extract<JobAnswer, { kind: "done" }>> {
    const worker = (this.worker ??= this.start());
    const number = ++this.calls;
    return new Promise((resolve, reject) => {
      this.waiting.set(number, { resolve, reject, progress });
      worker.postMessage({ ...call, call: number } satisfies JobCall);
    });
  }

  async end(why: string): Promise<void> {
    const { worker } = this;
    this.worker = null;
    worker?.removeAllListeners();
    await worker?.terminate();
    this.failAll(new RunError(why, 500));
  }

  private start(): Worker {
    const script = pathToFileURL(
      join(process.env.ARNIK_ROOT ?? process.cwd(), "dist", "job-worker.mjs"),
    );
    const worker = new Worker(script, {
      workerData: { folder: this.folder },
      resourceLimits: { maxOldGenerationSizeMb: 8192 },
    });
    worker.on("message", (answer: JobAnswer) => {
      const waiting = this.waiting.get(answer.call);
      if (!waiting) return;
      if (answer.kind === "progress")
        return waiting.progress(answer.share, answer.step);
      this.waiting.delete(answer.call);
      if (answer.kind === "done") waiting.resolve(answer);
      else
        waiting.reject(
          new RunError(
            answer.cancelled ? "cancelled" : answer.message,
            answer.status,
          ),
        );
    });
    worker.on("error", (error) => {
      this.worker = null;
      this.failAll(new RunError(`the work ended early: ${error.message}`, 500));
    });
    return worker;
  }

  private failAll(error: Error): void {
    for (const waiting of this.waiting.values()) waiting.reject(error);
    this.waiting.clear();
  }
}

/**
 * The queue of heavy jobs, one at a time (each uses all cores by its lanes), and beside it a thread for instant
 * operations, so that a click never waits behind a bake.
 */
export class JobQueue extends EventEmitter<{ event: [QueueEvent] }> {
  private readonly heavy: JobThread;
  private readonly instant: JobThread;
  private readonly progress = new Map<number, JobProgress>();
  private current: {
    job: JobRow;
    cancel: SharedArrayBuffer;
    cancelled: boolean;
  } | null = null;

  constructor(
    private readonly store: Store,
    private readonly folder: string,
  ) {
    super();
    this.heavy = new JobThread(folder);
    this.instant = new JobThread(folder);
    this.setMaxListeners(200);
  }

  async add(
    job: Pick<
      JobRow,
      "asset_id" | "revision_id" | "operation" | "options" | "uploads"
    >,
  ): Promise<JobRow> {
    const row = await this.store.addJob(job);
    this.tell(row);
    void this.next();
    return row;
  }

  /** Runs an instant operation and waits for it. @throws RunError */
  async runNow(
    call: Pick<JobCall, "assetId" | "revision" | "operation" | "options">,
  ): Promise<void> {
    await this.refuseWhileBusy(call.assetId);
    await this.instant.run(
      { ...call, job: 0, uploads: [], cancel: new SharedArrayBuffer(4) },
      () => {},
    );
    this.emit("event", { kind: "asset", asset: call.assetId });
  }

  /** @throws RunError where a job works on the asset, since its result would be lost to the change */
  async refuseWhileBusy(assetId: number): Promise<void> {
    const busy = (await this.store.jobs(assetId)).find(
      (job) => job.state === "running" || job.state === "queued",
    );
    if (busy)
      throw new RunError(
        "a job is under way on this asset: wait for it or cancel it first",
        409,
      );
  }

  progressOf(job: number): JobProgress | null {
    const progress = this.progress.get(job);
    return progress
      ? { ...progress, since: Date.now() - progress.since }
      : null;
  }

  async cancel(id: number): Promise<void> {
    const job = await this.store.job(id);
    if (job.state === "queued") {
      await this.store.setJob(id, { state: "cancelled" });
      this.dropUploads(job);
      this.tell(job);
      return;
    }
    const { current } = this;
    if (current?.job.id !== id) return;
    current.cancelled = true;
    Atomics.store(new Int32Array(current.cancel), 0, 1);
    setTimeout(() => {
      if (this.current === current) void this.heavy.end("cancelled");
    }, PATIENCE).unref();
  }

  private async next(): Promise<void> {
    if (this.current) return;
    const job = await this.store.nextJob();
    if (!job || this.current) return;
    const current = { job, cancel: new SharedArrayBuffer(4), cancelled: false };
    this.current = current;
    const started = Date.now();
    await this.store.setJob(job.id, { state: "running" });
    this.progress.set(job.id, { share: 0, step: "starting", since: started });
    this.tell(job);
    try {
      await this.heavy.run(
        {
          job: job.id,
          assetId: job.asset_id,
          revision: job.revision_id,
          operation: job.operation,
          options: JSON.parse(job.options) as unknown,
          uploads: JSON.parse(job.uploads) as JobCall["uploads"],
          cancel: current.cancel,
        },
        (share, step) => {
          this.progress.set(job.id, { share, step, since: started });
          this.tell(job);
        },
      );
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error);
      // A job that committed just before it was stopped is done.
      if ((await this.store.job(job.id)).state === "running")
        await this.store.setJob(
          job.id,
          current.cancelled
            ? { state: "cancelled" }
            : { state: "failed", error: message },
        );
    }
    this.progress.delete(job.id);
    if ((await this.store.job(job.id)).state === "done") this.dropUploads(job);
    this.current = null;
    this.tell(job);
    this.emit("event", { kind: "asset", asset: job.asset_id });
    void this.next();
  }

  private dropUploads(job: JobRow): void {
    for (const { path } of JSON.parse(job.uploads) as JobCall["uploads"])
      rmSync(path, { force: true });
  }

  private tell(job: JobRow): void {
    this.emit("event", { kind: "job", job: job.id, asset: job.asset_id });
  }
}
