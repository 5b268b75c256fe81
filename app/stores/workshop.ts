import { defineStore } from "pinia";
import type { Stage } from "../../core/asset/stages";
import { Refusal, Stopped, call, upload } from "./api";
import type { AssetState, Job, OperationInfo } from "./types";

/** An answer that takes longer than this is told, with a way to stop it, milliseconds. */
const SLOW = 500;
export const LIVE = new Set(["queued", "running"]);

/** The asset on the table, its jobs, and what can be done to it. */
export const useWorkshop = defineStore("workshop", {
  state: () => ({
    asset: null as AssetState | null,
    operations: [] as OperationInfo[],
    word: "" as string,
    error: "" as string,
    /** An operation answered within the request is under way. */
    busy: false,
    sending: null as { name: string; share: number } | null,
    /** Title of an operation whose answer takes long enough to be told. */
    slow: "",
    /** Stops what is being sent or answered. */
    stop: null as (() => void) | null,
    source: null as EventSource | null,
  }),
  getters: {
    job: (state): Job | null =>
      state.asset?.jobs.find((job) => LIVE.has(job.state)) ?? null,
    /** The newest job, where it did not end well. */
    broken: (state): Job | null => {
      const newest = state.asset?.jobs[0];
      return newest &&
        (newest.state === "failed" || newest.state === "interrupted")
        ? newest
        : null;
    },
    stale: (state): Stage[] =>
      state.asset?.standing
        .filter((each) => each.state === "stale")
        .map((each) => each.stage) ?? [],
    locked(): boolean {
      return this.busy || this.sending !== null || this.job !== null;
    },
  },
  actions: {
    async open(id: number) {
      this.word = "";
      this.error = "";
      const [asset, operations] = await Promise.all([
        call<AssetState>("GET", `assets/${id}`),
        this.operations.length
          ? this.operations
          : call<OperationInfo[]>("GET", "operations"),
      ]);
      this.asset = asset;
      this.operations = operations;
      this.listen();
    },
    listen() {
      this.source?.close();
      const source = new EventSource("/api/events");
      source.onmessage = (event: MessageEvent<string>) =>
        void this.hear(event.data);
      source.onopen = () => void this.refresh();
      this.source = source;
    },
    close() {
      this.source?.close();
      this.source = null;
      this.asset = null;
    },
    async hear(data: string) {
      const { asset } = this;
      const told = JSON.parse(data) as
        | { kind: "job"; job: Job }
        | { kind: "asset"; asset: number }
        | { kind: "hello" };
      if (!asset || told.kind === "hello") return;
      if (told.kind === "asset") {
        if (told.asset === asset.id) await this.refresh();
        return;
      }
      if (told.job.asset !== asset.id) return;
      const at = asset.jobs.findIndex((job) => job.id === told.job.id);
      if (at >= 0) asset.jobs[at] = told.job;
      else asset.jobs.unshift(told.job);
      if (told.job.state === "failed")
        this.error = told.job.error ?? "the job failed";
      if (told.job.state === "done")
        this.word = String(told.job.report?.title ?? "done");
      if (told.job.state === "cancelled")
        this.word = "Cancelled; nothing was changed";
    },
    async refresh() {
      if (!this.asset) return;
      try {
        this.asset = await call<AssetState>("GET", `assets/${this.asset.id}`);
      } catch (error) {
        this.fail(error);
      }
    },
    fail(error: unknown) {
      if (error instanceof Stopped) {
        this.word = "Stopped; nothing was changed";
        void this.refreshQuietly();
        return;
      }
      this.error = error instanceof Error ? error.message : String(error);
      if (error instanceof Refusal && error.status === 409)
        void this.refreshQuietly();
    },
    async refreshQuietly() {
      if (this.asset)
        this.asset = await call<AssetState>(
          "GET",
          `assets/${this.asset.id}`,
        ).catch(() => this.asset);
    },
    /** Runs an operation on the asset as it is shown. */
    async run(
      operation: string,
      options: object,
      uploads: { id: string; name: string }[] = [],
    ) {
      if (!this.asset || this.busy) return;
      this.busy = true;
      this.error = "";
      const signal = this.stoppable();
      const telling = setTimeout(
        () =>
          (this.slow =
            this.operations.find((each) => each.id === operation)?.title ??
            "Working"),
        SLOW,
      );
      try {
        const { asset, job } = await call<{
          asset: AssetState;
          job: Job | null;
        }>(
          "POST",
          `assets/${this.asset.id}/run`,
          {
            revision: this.asset.revision,
            operation,
            options,
            uploads,
          },
          signal,
        );
        this.asset = asset;
        if (!job) this.word = asset.title;
      } catch (error) {
        this.fail(error);
      } finally {
        clearTimeout(telling);
        this.slow = "";
        this.stop = null;
        this.busy = false;
      }
    },
    /** The signal of what begins now; `stop` gives it. */
    stoppable(): AbortSignal {
      const abort = new AbortController();
      this.stop = () => abort.abort();
      return abort.signal;
    },
    /** Sends files, then runs the operation that takes them. */
    async send(operation: string, files: File[], options: object) {
      this.error = "";
      const sent: { id: string; name: string }[] = [];
      const signal = this.stoppable();
      try {
        for (const file of files) {
          this.sending = { name: file.name, share: 0 };
          sent.push(
            await upload(
              file,
              (share) => (this.sending = { name: file.name, share }),
              signal,
            ),
          );
        }
      } catch (error) {
        this.fail(error);
        return;
      } finally {
        this.sending = null;
        this.stop = null;
      }
      await this.run(operation, options, sent);
    },
    async step(way: "undo" | "redo" | "up-to-date") {
      if (!this.asset || this.locked) return;
      this.error = "";
      try {
        const answer = await call<AssetState | { asset: AssetState }>(
          "POST",
          `assets/${this.asset.id}/${way}`,
          { revision: this.asset.revision },
        );
        this.asset = "asset" in answer ? answer.asset : answer;
        if (way !== "up-to-date")
          this.word = `${way === "undo" ? "Back" : "Forward"} to: ${this.asset.title}`;
      } catch (error) {
        this.fail(error);
      }
    },
    /** Makes an older revision the newest one again. */
    async restore(revision: number) {
      if (!this.asset || this.locked) return;
      this.error = "";
      try {
        this.asset = await call<AssetState>(
          "POST",
          `assets/${this.asset.id}/restore`,
          { revision: this.asset.revision, to: revision },
        );
        this.word = this.asset.title;
      } catch (error) {
        this.fail(error);
      }
    },
    async cancel(job: number) {
      await call("POST", `jobs/${job}/cancel`).catch((error: unknown) =>
        this.fail(error),
      );
    },
    async again(job: number) {
      this.error = "";
      await call("POST", `jobs/${job}/again`).catch((error: unknown) =>
        this.fail(error),
      );
      await this.refresh();
    },
  },
});
