import { readFileSync } from "node:fs";
import { parentPort, workerData } from "node:worker_threads";
import { encode } from "fast-png";
import type { Asset } from "../../core/asset/asset";
import { ArnikError, CancelledError } from "../../core/errors";
import type { GivenFile } from "../../core/formats/index";
import type { Context, OperationResult } from "../../core/operation";
import { findOperation } from "../../core/operations";
import { bringUpToDate, runOperation } from "../../core/route";
import { portrait } from "../../core/space/portrait";
import { threadLanes } from "../../host/lanes";
import type { CallMessage } from "../remote";
import { answerCalls, whenAsked } from "../remote";
import { asStoreError } from "../store/database";
import { Store } from "../store/store";
import { StreamCache } from "../store/stream-cache";
import type { Upload } from "../store/rows";
import { uploadPath } from "../uploads";
import type { JobProcessData, Work, WorkDone, WorkProgress } from "./messages";
import { UP_TO_DATE } from "./messages";

const { folder, owner, cancel } = workerData as JobProcessData & {
  cancel: SharedArrayBuffer;
};
const flag = new Int32Array(cancel);
const opened = whenAsked(() => Store.join(folder, owner));
const lanes = threadLanes(new URL("./lane-worker.mjs", import.meta.url));
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
  context: Context,
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
  const said = headline || (report.summary as string | undefined);
  return {
    asset,
    title: said ? `${operation.title}: ${said}` : operation.title,
    report,
    files: files ?? [],
  };
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
  const context: Context = {
    check,
    lanes,
    assetById: async (id) => store.load((await store.asset(id)).head),
    files: work.uploads.map(givenFile),
    progress(share, step) {
      if (Date.now() - said < 80) return;
      said = Date.now();
      tell({ share, step });
    },
  };
  const before = await store.load(work.revision, kept);
  check();
  const { asset, title, report, files } = await compute(work, before, context);
  check();
  tell({ share: 0.97, step: "storing the result" });
  const revision = await store.commit(
    work.assetId,
    work.revision,
    asset,
    title,
    async (trx) => {
      if (work.job)
        await store.jobs.finish(trx, work.job, { title, ...report }, files[0]);
    },
  );
  if (meshesChanged(before, asset))
    setImmediate(() => void paint(work.assetId, asset));
  return { revision, report, title };
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
