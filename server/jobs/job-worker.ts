import { readFileSync } from "node:fs";
import { parentPort, workerData } from "node:worker_threads";
import { encode } from "fast-png";
import type { Asset } from "../../core/asset/asset";
import { ArnikError, CancelledError } from "../../core/base/errors";
import type { GivenFile } from "../../core/formats/index";
import type { Stage } from "../../core/asset/stages";
import type { Operation, OperationResult } from "../../core/asset/operation";
import type { OperationContext } from "../../core/asset/operation";
import { findOperation } from "../../core/operations";
import { bringUpToDate, runOperation } from "../../core/route";
import { runRoute } from "../../core/run-route";
import { portrait } from "../../core/asset/portrait";
import { threadWorkers } from "../../host/workers";
import type { CallMessage } from "../store/remote";
import { answerCalls, whenAsked } from "../store/remote";
import { asStoreError } from "../store/database";
import { Store } from "../store/store";
import { StreamCache } from "../store/stream-cache";
import type { Upload } from "../store/rows";
import { uploadPath } from "../uploads";
import type { JobProcessData, Work, WorkDone, WorkProgress } from "./messages";
import { RUN_ROUTE, UP_TO_DATE } from "./messages";

const { folder, owner, cancel } = workerData as JobProcessData & {
  cancel: SharedArrayBuffer;
};
const flag = new Int32Array(cancel);
const opened = whenAsked(() => Store.join(folder, owner));
const workers = threadWorkers(new URL("./kernel-worker.mjs", import.meta.url));
/** Bytes of streams kept between calls. */
const KEPT = 384 * 1024 * 1024;
const kept = new StreamCache(KEPT);

interface Outcome {
  asset: Asset;
  title: string;
  report: Record<string, unknown>;
  files: NonNullable<OperationResult["files"]>;
}

async function compute(
  work: Work,
  before: Asset,
  context: OperationContext,
): Promise<Outcome> {
  if (work.operation === UP_TO_DATE) {
    const { asset, redone, files } = await bringUpToDate(before, context);
    return {
      asset,
      title: `Brought ${redone.join(", ")} up to date`,
      report: { redone },
      files,
    };
  }
  const operation = findOperation(work.operation);
  const { asset, report, headline, files } = await runOperation(
    operation,
    before,
    work.options,
    context,
  );
  return {
    asset,
    title: titleOf(operation, { headline, report }),
    report,
    files: files ?? [],
  };
}

/** What a revision is called: the operation and what came of it. */
function titleOf(
  { title }: Pick<Operation, "title">,
  { headline, report }: Pick<OperationResult, "headline" | "report">,
): string {
  const said = headline || (report.summary as string | undefined);
  return said ? `${title}: ${said}` : title;
}

async function handle(
  call: number,
  work: Work,
  tell: (news: WorkProgress) => void,
): Promise<WorkDone> {
  const store = await opened();
  const check = () => {
    if (Atomics.load(flag, 0) === call) throw new CancelledError();
  };
  let said = 0;
  let stage: Stage | undefined;
  const context: OperationContext = {
    check,
    workers,
    assetById: async (id) => store.load((await store.asset(id)).head),
    files: work.uploads.map(givenFile),
    progress(share, step) {
      if (Date.now() - said < 80) return;
      said = Date.now();
      tell({ share, step, stage });
    },
  };
  const before = await store.load(work.revision, kept);
  check();
  let revision = work.revision;
  /** Stores what was made; with the last of it the job is done. */
  const keep = async (
    { asset, title, report, files }: Outcome,
    last: boolean,
  ) => {
    check();
    if (work.job && last && onlyHandsOut(work)) {
      await store.finishJob(work.job, { title, ...report }, files[0]);
      return;
    }
    // Of several results only the last one is near the end.
    tell({ share: last ? 0.97 : 0, step: "storing the result", stage });
    revision = await store.commit(
      work.assetId,
      revision,
      asset,
      title,
      async (trx) => {
        if (work.job && last)
          await store.jobs.finish(
            trx,
            work.job,
            { title, ...report },
            files[0],
          );
      },
    );
  };
  if (work.operation === RUN_ROUTE) {
    const { outcome, failed } = await goThrough(
      before,
      context,
      keep,
      (next) => {
        stage = next;
        tell({ share: 0, step: "starting", stage, stored: true });
      },
    );
    if (meshesChanged(before, outcome.asset))
      setImmediate(() => void paint(work.assetId, outcome.asset));
    if (failed) throw failed;
    return { revision, report: outcome.report, title: outcome.title };
  }
  const outcome = await compute(work, before, context);
  await keep(outcome, true);
  if (meshesChanged(before, outcome.asset))
    setImmediate(() => void paint(work.assetId, outcome.asset));
  return { revision, report: outcome.report, title: outcome.title };
}

/** The whole route: every stage becomes a revision of its own, so that what was made is seen, and stays. */
async function goThrough(
  before: Asset,
  context: OperationContext,
  keep: (outcome: Outcome, last: boolean) => Promise<void>,
  at: (stage: Stage) => void,
): Promise<{ outcome: Outcome; failed: unknown }> {
  const ran: Stage[] = [];
  let outcome: Outcome = {
    asset: before,
    title: "Ran the route: all is current",
    report: { ran },
    files: [],
  };
  try {
    await runRoute(before, context, {
      begins: at,
      async made(result, step, last) {
        ran.push(step.stage);
        const title = titleOf(findOperation(step.operation), result);
        const stored = {
          asset: result.asset,
          title: last ? `Ran the route. ${title}` : title,
          report: { ran: [...ran] },
          files: result.files ?? [],
        };
        await keep(stored, last && typeof result.report.failed !== "string");
        outcome = stored;
      },
    });
    if (!ran.length) await keep(outcome, true);
    return { outcome, failed: null };
  } catch (failed) {
    return { outcome, failed };
  }
}

/** @throws ArnikError where the file is no longer there */
function givenFile({ id, name }: Upload): GivenFile {
  try {
    return { name, bytes: readFileSync(uploadPath(folder, id)) };
  } catch {
    throw new ArnikError(
      `${name} is no longer kept by the server: bring it in again`,
    );
  }
}

/** Whether all that comes of it is a file. */
const onlyHandsOut = ({ operation }: Work) =>
  operation !== UP_TO_DATE &&
  operation !== RUN_ROUTE &&
  findOperation(operation).changesNothing === true;

const meshesChanged = (a: Asset, b: Asset) =>
  a.parts.length !== b.parts.length ||
  b.parts.some(
    (part, i) =>
      part.source?.positions !== a.parts[i].source?.positions ||
      part.game?.positions !== a.parts[i].game?.positions,
  );

/** The picture of the first page. It can fail without anything being lost. */
async function paint(assetId: number, asset: Asset): Promise<void> {
  try {
    const pixels = portrait(asset, 320, 240);
    if (!pixels) return;
    const png = encode({
      width: 320,
      height: 240,
      data: pixels,
      channels: 3,
      depth: 8,
    });
    await (await opened()).setPicture(assetId, png);
  } catch {
    // The page shows the picture before.
  }
}

let line: Promise<unknown> = Promise.resolve();
parentPort!.on(
  "message",
  answerCalls(
    (message) => parentPort!.postMessage(message),
    ({ call, args }: CallMessage, news) => {
      const done = line.then(async () => {
        try {
          return { value: await handle(call, args[0] as Work, news) };
        } catch (error) {
          throw named(error);
        }
      });
      line = done.catch(() => {});
      return done;
    },
  ),
);

/** What is no error of ours is a fault of ours, and says so. */
function named(error: unknown): Error {
  const known = asStoreError(error);
  return known instanceof ArnikError
    ? known
    : new Error(`unexpected: ${known.message}`);
}
