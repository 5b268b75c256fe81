import { defineStore } from "pinia";
import { willRedo } from "../../core/asset/stale";
import type { Stage } from "../../core/asset/stages";
import { Refusal, Stopped, call, upload } from "./api";
import type { AssetState, Job, OperationInfo } from "../shared/types";

/** An answer that takes longer than this is told, with a way to stop it, milliseconds. */
const SLOW = 300;
export const LIVE = new Set(["queued", "running"]);

/** Files on their way to the server, and the asset they were chosen for. */
export interface Sending {
  id: number;
  asset: number;
  /** Name of that asset. */
  to: string;
  /** What is done: pictures are taken, or files sent. */
  doing: string;
  /** The file that is being sent, and the share of it that has gone. */
  name: string;
  share: number;
  stop: () => void;
}

/** An action that was asked for and has no answer yet. */
interface Pending {
  id: number;
  asset: number;
  /** The action with its options as JSON: the same asked twice is done once. */
  key: string;
}

/** Makes files that are sent with a call, for as long as that is not stopped. @throws Stopped */
type Maker = (
  told: (share: number) => void,
  signal: AbortSignal,
) => Promise<File[]>;

type Reference = Pick<AssetState, "id"> & { name: string };

/**
 * The asset on the table, its jobs, and what can be done to it.
 *
 * Each call belongs to the asset it was made for: an answer for another one
 * never reaches the table. Own actions follow one another, each on the
 * revision that the one before it made; where one fails, those that waited
 * for it are dropped.
 */
export const useWorkshop = defineStore("workshop", {
  state: () => ({
    asset: null as AssetState | null,
    operations: [] as OperationInfo[],
    word: "" as string,
    error: "" as string,
    /** Files that were dropped where no asset was open yet. */
    dropped: [] as File[],
    /** All that is being sent, for this asset or another. */
    sent: [] as Sending[],
    pending: [] as Pending[],
    /** Title of an operation whose answer takes long enough to be told. */
    slow: "",
    /** Stops what is being answered. */
    stop: null as (() => void) | null,
    source: null as EventSource | null,
    /** How the view takes the pictures that go with an operation; null where it takes none. */
    portray: null as
      ((operation: string, options: object) => Maker | null) | null,
    /** News that have come, of any asset. */
    heard: 0,
    /** Ends when the last own action has. */
    last: Promise.resolve(),
    /** Counts calls; the newest whose answer is shown. */
    asked: 0,
    shown: 0,
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
    /** The stage that is worked at. */
    workedAt(): Stage | null {
      const { job } = this;
      if (!job) return null;
      const own = this.operations.find((each) => each.id === job.operation);
      return own?.stage ?? job.progress?.stage ?? null;
    },
    /** Whether "Run the route" has something to do. */
    canRunRoute: (state): boolean => {
      if (!state.asset) return false;
      const { document, standing } = state.asset;
      const empty = (stage: Stage) =>
        standing.find((each) => each.stage === stage)?.state === "empty";
      return (
        document.parts.some((part) => part.source) &&
        (["unwrap", "bake", "collide", "ship"] as const).some(empty)
      );
    },
    /** The newest job that left an archive. */
    shipped: (state): Job | null =>
      state.asset?.jobs.find(
        ({ operation, state: end, report }) =>
          end === "done" &&
          (operation === "ship/archive" ||
            [report?.ran, report?.redone].some(
              (stages) => Array.isArray(stages) && stages.includes("ship"),
            )),
      ) ?? null,
    /** The newest job that left the asset packed as a project. */
    packed: (state): Job | null =>
      state.asset?.jobs.find(
        ({ operation, state: end }) =>
          end === "done" && operation === "ship/project",
      ) ?? null,
    /** The newest job that left a turntable. */
    turned: (state): Job | null =>
      state.asset?.jobs.find(
        ({ operation, state: end }) =>
          end === "done" && operation === "ship/turntable",
      ) ?? null,
    /** All that bringing up to date will redo. */
    willRedo: (state): Stage[] =>
      state.asset ? willRedo(state.asset.document) : [],
    /** What is being sent for the asset that is shown. */
    sending: (state): Sending | null =>
      state.sent.find((each) => each.asset === state.asset?.id) ?? null,
    /** What is being sent for another one. */
    sendingElsewhere: (state): Sending | null =>
      state.sent.find((each) => each.asset !== state.asset?.id) ?? null,
    busy: (state): boolean =>
      state.pending.some((each) => each.asset === state.asset?.id),
    locked(): boolean {
      return this.busy || this.sending !== null || this.job !== null;
    },
  },
  actions: {
    async open(id: number) {
      this.word = "";
      this.error = "";
      const ticket = ++this.asked;
      const [asset, operations] = await Promise.all([
        call<AssetState>("GET", `assets/${id}`),
        this.operations.length
          ? this.operations
          : call<OperationInfo[]>("GET", "operations"),
      ]);
      // The page may have gone on to another asset meanwhile.
      if (ticket < this.shown) return;
      this.shown = ticket;
      this.asset = asset;
      this.operations = operations;
      this.listen();
    },
    listen() {
      this.source?.close();
      const source = new EventSource("/api/events");
      source.onmessage = (event: MessageEvent<string>) =>
        void this.receive(event.data);
      source.onopen = () => void this.refresh();
      this.source = source;
    },
    close() {
      this.source?.close();
      this.source = null;
      this.asset = null;
      this.shown = ++this.asked;
    },
    async receive(data: string) {
      const { asset } = this;
      const told = JSON.parse(data) as
        | { kind: "job"; job: Job }
        | { kind: "asset"; asset: number }
        | { kind: "hello" };
      if (!asset || told.kind === "hello") return;
      this.heard++;
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
        this.say(String(told.job.report?.title ?? "done"));
      if (told.job.state === "cancelled")
        this.say(
          told.job.operation === "route/run"
            ? "Cancelled; the stages made before are kept"
            : "Cancelled; nothing was changed",
        );
      // An answer that was on its way may still tell the job as running, and no other news would follow.
      if (!LIVE.has(told.job.state)) await this.refresh();
    },
    /** News; what went wrong before it is over. */
    say(word: string) {
      this.word = word;
      this.error = "";
    },
    /** Shows the answer of an action, unless another asset is on the table by now. */
    show(answer: AssetState): boolean {
      if (this.asset?.id !== answer.id) return false;
      this.shown = ++this.asked;
      this.asset = answer;
      return true;
    },
    /** Looks at the asset again. @throws Refusal */
    async look() {
      if (!this.asset) return;
      const { id } = this.asset;
      const ticket = ++this.asked;
      const answer = await call<AssetState>("GET", `assets/${id}`);
      // What was asked for before a newer answer came knows less than that.
      if (this.asset?.id !== id || ticket < this.shown) return;
      this.shown = ticket;
      this.asset = answer;
    },
    async refresh() {
      const on = this.reference();
      await this.look().catch((error: unknown) => this.fail(error, on));
    },
    /** What went wrong with an action on an asset: the one that is shown, if no other is named. */
    fail(error: unknown, by?: Reference | null) {
      const on = by ?? this.reference();
      if (!on) return;
      const here = this.asset?.id === on.id;
      const where = here ? "" : `${on.name}: `;
      if (error instanceof Stopped) {
        this.word = `${where}Stopped; nothing was changed`;
        if (here) void this.look().catch(() => undefined);
        return;
      }
      this.error = where + (error instanceof Error ? error.message : error);
      if (here && error instanceof Refusal && error.status === 409)
        void this.look().catch(() => undefined);
    },
    /** Does something to an asset after all that was asked before. `again`: also where the same is asked already. */
    async act(
      on: Reference,
      key: string,
      what: (revision: number) => Promise<void>,
      again = false,
    ) {
      const ofAsset = (each: Pending) => each.asset === on.id;
      if (!again && this.pending.some((p) => ofAsset(p) && p.key === key))
        return;
      const id = ++this.asked;
      this.pending.push({ id, asset: on.id, key });
      this.last = this.last.then(async () => {
        // Dropped, as what came before it failed.
        if (!this.pending.some((each) => each.id === id)) return;
        this.error = "";
        const { heard } = this;
        try {
          await what(
            this.asset?.id === on.id
              ? this.asset.revision
              : (await call<AssetState>("GET", `assets/${on.id}`)).revision,
          );
          // News that came while the answer was on its way may be newer than it, and no other would follow.
          if (this.heard !== heard) await this.refresh();
        } catch (error) {
          this.pending = this.pending.filter((each) => !ofAsset(each));
          this.fail(error, on);
        }
        this.pending = this.pending.filter((each) => each.id !== id);
      });
      await this.last;
    },
    /** Runs an operation on the asset that is shown, with pictures of the view where it takes some. */
    async run(operation: string, options: object) {
      const on = this.reference();
      const maker = on && this.portray?.(operation, options);
      if (maker) await this.send(operation, maker, options);
      else if (on) await this.begin(operation, options, [], on);
    },
    /** Runs an operation on an asset with what was sent for it. */
    async begin(
      operation: string,
      options: object,
      uploads: { id: string; name: string }[],
      on: Reference,
    ) {
      const title =
        this.operations.find((each) => each.id === operation)?.title ??
        "Working";
      await this.act(
        on,
        JSON.stringify([operation, options, uploads]),
        async (revision) => {
          const abort = new AbortController();
          const telling = setTimeout(() => {
            if (this.asset?.id === on.id) this.slow = title;
          }, SLOW);
          this.stop = () => abort.abort();
          try {
            const { asset, job } = await call<{
              asset: AssetState;
              job: Job | null;
            }>(
              "POST",
              `assets/${on.id}/run`,
              { revision, operation, options, uploads },
              abort.signal,
            );
            if (!this.show(asset)) this.say(`${on.name}: ${asset.title}`);
            else if (!job) this.say(asset.title);
          } finally {
            clearTimeout(telling);
            this.slow = "";
            this.stop = null;
          }
        },
      );
    },
    reference(): Reference | null {
      return this.asset
        ? { id: this.asset.id, name: this.asset.document.name }
        : null;
    },
    /** Sends files for the asset that is shown, once they are made, then runs the operation that takes them on it, whatever is shown by then. */
    async send(operation: string, files: File[] | Maker, options: object) {
      const on = this.reference();
      if (!on || this.sending) return;
      this.error = "";
      const abort = new AbortController();
      const id = ++this.asked;
      this.sent.push({
        id,
        asset: on.id,
        to: on.name,
        doing: "Sending",
        name: "",
        share: 0,
        stop: () => abort.abort(),
      });
      const mine = () => this.sent.findIndex((each) => each.id === id);
      const uploads: { id: string; name: string }[] = [];
      try {
        const made = Array.isArray(files)
          ? files
          : await this.made(files, this.sent[mine()]!, abort.signal);
        for (const file of made) {
          Object.assign(this.sent[mine()], { name: file.name, share: 0 });
          uploads.push(
            await upload(
              file,
              (share) => (this.sent[mine()].share = share),
              abort.signal,
            ),
          );
        }
      } catch (error) {
        this.fail(error, on);
        return;
      } finally {
        this.sent.splice(mine(), 1);
      }
      await this.begin(operation, options, uploads, on);
    },
    /** Files that have yet to be made, and that an operation can do without. @throws Stopped */
    async made(
      files: Maker,
      sending: Sending,
      signal: AbortSignal,
    ): Promise<File[]> {
      Object.assign(sending, { doing: "Taking pictures", name: "of the view" });
      try {
        return await files((share) => (sending.share = share), signal);
      } catch (error) {
        if (error instanceof Stopped) throw error;
        return [];
      } finally {
        sending.doing = "Sending";
      }
    },
    /** One step through the revisions, all stale stages anew, or the whole route. Undo and redo asked again before the answer are a further step. */
    async step(way: "undo" | "redo" | "up-to-date" | "route") {
      const on = this.reference();
      if (!on || this.sending || this.job) return;
      const further = way === "undo" || way === "redo";
      await this.act(
        on,
        way,
        async (revision) => {
          if (this.asset?.id === on.id) {
            const { canUndo, canRedo } = this.asset;
            if (this.job || (further && !(way === "undo" ? canUndo : canRedo)))
              return;
          }
          const answer = await call<AssetState | { asset: AssetState }>(
            "POST",
            `assets/${on.id}/${way}`,
            { revision },
          );
          const asset = "asset" in answer ? answer.asset : answer;
          if (this.show(asset) && further)
            this.say(
              `${way === "undo" ? "Back" : "Forward"} to: ${asset.title}`,
            );
        },
        further,
      );
    },
    /** Makes an older revision the newest one again. */
    async restore(to: number) {
      const on = this.reference();
      if (!on || this.sending || this.job) return;
      await this.act(on, `restore ${to}`, async (revision) => {
        const asset = await call<AssetState>(
          "POST",
          `assets/${on.id}/restore`,
          { revision, to },
        );
        if (this.show(asset)) this.say(asset.title);
      });
    },
    async cancel(job: number) {
      const on = this.reference();
      await call("POST", `jobs/${job}/cancel`).catch((error: unknown) =>
        this.fail(error, on),
      );
    },
    async again(job: number) {
      const on = this.reference();
      this.error = "";
      await call("POST", `jobs/${job}/again`).catch((error: unknown) =>
        this.fail(error, on),
      );
      await this.refresh();
    },
  },
});
