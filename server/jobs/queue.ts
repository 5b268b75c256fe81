import { EventEmitter } from "node:events";
import { setTimeout as pause } from "node:timers/promises";
import type { Stage } from "../../core/asset/stages";
import { ArnikError, CancelledError } from "../../core/base/errors";
import {
  BusyError,
  ConflictError,
  NotFoundError,
  TimeError,
} from "../store/errors";
import type { JobRow, NewJob, Upload } from "../store/rows";
import type { StoreClient } from "../store/store-client";
import type { Uploads } from "../uploads";
import type { Work } from "./messages";
import { Turns } from "./turns";
import type { WorkProcess } from "./work-process";

/** How long an operation that answers within the request may take, milliseconds. */
export const INSTANT_LIMIT = 60_000;
/** Longest wait before an end that the store could not take is written again, milliseconds. */
const LONGEST_PAUSE = 2000;

export interface JobProgress {
  share: number;
  step: string;
  /** The stage that is worked at, where the job goes through several. */
  stage: Stage | null;
  /** Milliseconds since the job began. */
  since: number;
}

/** What a page needs to know of a job. */
export interface JobDescription {
  id: number;
  asset: number;
  /** The revision that it began from. */
  revision: number;
  operation: string;
  state: JobRow["state"];
  error: string | null;
  report: Record<string, unknown> | null;
  made: string;
  ended: string | null;
  progress: JobProgress | null;
}

/** A job from being accepted until its end is in the store. */
interface Live {
  row: JobRow;
  share: number;
  step: string;
  stage: Stage | null;
  began: number;
  abort: AbortController;
  /** Fulfilled once it has ended, however. */
  ended: Promise<void>;
  end(): void;
}

/**
 * Heavy jobs, one at a time (each uses all cores by its lanes), and beside them operations that answer at once, so
 * that a click never waits behind a bake.
 *
 * queued → running → done, failed, cancelled or interrupted. Every way out of a state leads through `finish`, and
 * whatever throws on the way, the asset is released and the next job starts. What a page sees of a job is what is
 * true here; where the store can't take it (a full disk), it is written as soon as it can.
 */
export class JobQueue extends EventEmitter<{ event: [string] }> {
  private readonly turns = new Turns();
  private readonly live = new Map<number, Live>();
  private waiting: Live[] = [];
  private working = false;
  private closed = false;

  constructor(
    private readonly store: StoreClient,
    private readonly uploads: Uploads,
    private readonly heavy: WorkProcess,
    private readonly instant: WorkProcess,
  ) {
    super();
    this.setMaxListeners(0);
  }

  /**
   * Accepts a job; its asset is held from now until it has ended.
   * @throws BusyError, ConflictError, NotFoundError before anything is stored
   */
  async accept(job: NewJob): Promise<JobRow> {
    const row = await this.turns.hold(job.asset_id, async () => {
      await this.checkHead(job.asset_id, job.revision_id);
      this.checkUploads(job);
      return this.store.jobs.add(job);
    });
    let end = () => {};
    const ended = new Promise<void>((resolve) => (end = resolve));
    const live: Live = {
      row,
      share: 0,
      step: "waiting",
      stage: null,
      began: Date.now(),
      abort: new AbortController(),
      ended,
      end,
    };
    this.live.set(row.id, live);
    this.waiting.push(live);
    this.post(live);
    void this.work();
    return row;
  }

  /** Runs a job that did not end well again, on the asset as it is now. */
  async again(id: number): Promise<JobRow> {
    const job = await this.row(id);
    if (job.state === "done")
      throw new ConflictError(
        "this job is done: there is nothing to run again",
      );
    if (this.live.get(id) && !this.live.get(id)!.row.ended)
      throw new BusyError("this job is still under way");
    const { head } = await this.store.asset(job.asset_id);
    return this.accept({
      asset_id: job.asset_id,
      revision_id: head,
      operation: job.operation,
      options: job.options,
      uploads: job.uploads,
    });
  }

  /** A change that takes its turn: undo, redo, restoring. */
  async change(asset: number, work: () => Promise<void>): Promise<void> {
    await this.turns.take(asset, work);
    this.tellAsset(asset);
  }

  /**
   * Runs an operation that answers at once, in its turn.
   * @param signal stops it, as when whoever asked has gone
   */
  async runNow(
    work: Omit<Work, "job" | "uploads">,
    signal: AbortSignal,
  ): Promise<void> {
    await this.change(work.assetId, async () => {
      await this.checkHead(work.assetId, work.revision);
      const limit = new AbortController();
      const timer = setTimeout(
        () =>
          limit.abort(
            new TimeError(
              `this took longer than ${INSTANT_LIMIT / 1000} seconds and was stopped; nothing was changed`,
            ),
          ),
        INSTANT_LIMIT,
      );
      try {
        await this.instant.run(
          { ...work, job: 0, uploads: [] },
          AbortSignal.any([signal, limit.signal]),
        );
      } finally {
        clearTimeout(timer);
      }
    });
  }

  /** Cancels a job where it still is under way, and returns when it has ended. */
  async cancel(id: number): Promise<void> {
    const live = this.live.get(id);
    if (!live) {
      await this.store.jobs.get(id);
      return;
    }
    live.abort.abort();
    const at = this.waiting.indexOf(live);
    if (at >= 0) {
      this.waiting.splice(at, 1);
      this.finish(live, { state: "cancelled" });
    }
    await live.ended;
  }

  /** Deletes an asset; what runs on it is cancelled first. */
  async deleteAsset(asset: number): Promise<void> {
    await this.store.asset(asset);
    await this.turns.doom(asset);
    try {
      for (const { row } of [...this.live.values()])
        if (row.asset_id === asset) await this.cancel(row.id);
      const jobs = await this.store.jobs.of(asset, 1000);
      await this.store.deleteAsset(asset);
      for (const job of jobs) this.uploads.drop(uploadsOf(job));
    } finally {
      this.turns.spare(asset);
    }
    this.tellAsset(asset);
  }

  /** Whether a job is under way on an asset. */
  holds(asset: number): boolean {
    return this.turns.holds(asset);
  }

  /** A job as it is now, whether or not the store knows yet. */
  describe(row: JobRow): JobDescription {
    const live = this.live.get(row.id);
    const {
      id,
      asset_id,
      revision_id,
      operation,
      state,
      error,
      report,
      made,
      ended,
    } = live?.row ?? row;
    return {
      id,
      asset: asset_id,
      revision: revision_id,
      operation,
      state,
      error,
      report: report ? (JSON.parse(report) as Record<string, unknown>) : null,
      made,
      ended,
      progress:
        live && !ended
          ? {
              share: live.share,
              step: live.step,
              stage: live.stage,
              since: Date.now() - live.began,
            }
          : null,
    };
  }

  /** Removes files of jobs that ended long ago, and files that nobody asked for. */
  async sweep(kept: number): Promise<void> {
    const since = new Date(Date.now() - kept).toISOString();
    const jobs = await this.store.jobs.withUploads(since);
    const rows = [...jobs, ...[...this.live.values()].map(({ row }) => row)];
    const filesOf = (done: boolean) =>
      rows
        .filter((row) => (row.state === "done") === done)
        .flatMap((row) => uploadsOf(row).map(({ id }) => id));
    this.uploads.sweep(new Set(filesOf(false)), new Set(filesOf(true)));
  }

  /** Stops all work; jobs that were under way are marked interrupted at the next start. */
  async close(): Promise<void> {
    this.closed = true;
    this.waiting = [];
    await Promise.all([this.heavy.end(), this.instant.end()]);
  }

  private async work(): Promise<void> {
    if (this.working) return;
    this.working = true;
    for (let next; !this.closed && (next = this.waiting.shift());)
      await this.run(next);
    this.working = false;
  }

  /** Never throws: however the work ends, the job ends and the next one starts. */
  private async run(live: Live): Promise<void> {
    const { row } = live;
    try {
      live.began = Date.now();
      live.step = "starting";
      if (!(await this.store.jobs.set(row.id, { state: "running" })))
        throw new CancelledError();
      live.row = { ...row, state: "running" };
      this.post(live);
      const { report, title } = await this.heavy.run(
        {
          job: row.id,
          assetId: row.asset_id,
          revision: row.revision_id,
          operation: row.operation,
          options: JSON.parse(row.options) as unknown,
          uploads: uploadsOf(row),
        },
        live.abort.signal,
        ({ share, step, stage, stored }) => {
          live.share = Math.max(live.share, share);
          live.step = step;
          live.stage = stage ?? null;
          this.post(live);
          if (stored) this.tellAsset(row.asset_id);
        },
      );
      this.finish(live, {
        state: "done",
        report: JSON.stringify({ title, ...report }),
      });
    } catch (error) {
      // A server that is stopped leaves its job as it is: the next start marks it interrupted.
      if (this.closed) return;
      this.finish(
        live,
        error instanceof CancelledError
          ? { state: "cancelled" }
          : {
              state: "failed",
              error: error instanceof Error ? error.message : String(error),
            },
      );
    }
  }

  /** The one way out of every state. */
  private finish(
    live: Live,
    end: Pick<JobRow, "state"> & Partial<Pick<JobRow, "error" | "report">>,
  ): void {
    live.row = {
      ...live.row,
      ...end,
      ended: new Date().toISOString(),
    };
    this.turns.release(live.row.asset_id);
    if (live.row.state === "done") this.uploads.drop(uploadsOf(live.row));
    this.post(live);
    live.end();
    void this.settle(live).finally(() => this.tellAsset(live.row.asset_id));
  }

  /**
   * Writes the end into the store, once now and, where that fails, again and again in the background. A job that
   * was stopped when its result had just been stored is done.
   */
  private async settle(live: Live): Promise<void> {
    const forget = () => void this.live.delete(live.row.id);
    if (live.row.state === "done") return forget();
    const { state, error } = live.row;
    const write = async () => {
      if (await this.store.jobs.set(live.row.id, { state, error })) return;
      live.row = await this.store.jobs.get(live.row.id);
      if (live.row.state === "done") this.uploads.drop(uploadsOf(live.row));
    };
    try {
      await write();
      forget();
    } catch (problem) {
      if (problem instanceof NotFoundError) forget();
      else void this.writeLater(write).then(forget);
    }
  }

  private async writeLater(write: () => Promise<void>): Promise<void> {
    for (
      let wait = 100;
      !this.closed;
      wait = Math.min(LONGEST_PAUSE, 2 * wait)
    ) {
      await pause(wait);
      try {
        return await write();
      } catch (problem) {
        if (problem instanceof NotFoundError) return;
      }
    }
  }

  private async row(id: number): Promise<JobRow> {
    return this.live.get(id)?.row ?? this.store.jobs.get(id);
  }

  /** @throws ConflictError where the asset went on since whoever asked saw it */
  private async checkHead(asset: number, revision: number): Promise<void> {
    if ((await this.store.asset(asset)).head !== revision)
      throw new ConflictError();
  }

  /** @throws ArnikError where a file is no longer kept, BusyError where another job has it */
  private checkUploads(job: NewJob): void {
    const taken = new Set(
      [...this.live.values()]
        .filter(({ row }) => !row.ended)
        .flatMap(({ row }) => uploadsOf(row).map(({ id }) => id)),
    );
    for (const { id, name } of uploadsOf(job)) {
      if (!this.uploads.has(id))
        throw new ArnikError(
          `${name} is no longer kept by the server: bring it in again`,
        );
      if (taken.has(id))
        throw new BusyError(`${name} is being read by another job`);
    }
  }

  private post(live: Live): void {
    this.emit(
      "event",
      JSON.stringify({ kind: "job", job: this.describe(live.row) }),
    );
  }

  private tellAsset(asset: number): void {
    this.emit("event", JSON.stringify({ kind: "asset", asset }));
  }
}

const uploadsOf = (job: Pick<JobRow, "uploads">): Upload[] =>
  JSON.parse(job.uploads) as Upload[];
