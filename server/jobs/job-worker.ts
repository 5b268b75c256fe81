import { readFileSync } from "node:fs";
import { parentPort, workerData } from "node:worker_threads";
import { encode } from "fast-png";
import type { Asset } from "../../core/asset/asset";
import { CancelledError, ArnikError } from "../../core/errors";
import type { Context, OperationResult } from "../../core/operation";
import { checkFlag } from "../../core/operation";
import { findOperation } from "../../core/operations";
import { bringUpToDate, runOperation } from "../../core/route";
import { portrait } from "../../core/space/portrait";
import { threadLanes } from "../../host/lanes";
import { ConflictError, Store } from "../store/store";
import type { JobAnswer, JobCall } from "./messages";
import { UP_TO_DATE } from "./messages";

const { folder } = workerData as { folder: string };
const store = await Store.open(folder);
const lanes = threadLanes(new URL("./lane-worker.mjs", import.meta.url));
const kept = new Map<string, Uint8Array>();
const answer = (message: JobAnswer) => parentPort!.postMessage(message);

interface Outcome {
  asset: Asset;
  title: string;
  report: Record<string, unknown>;
  files: NonNullable<OperationResult["files"]>;
}

async function work(
  call: JobCall,
  before: Asset,
  context: Context,
): Promise<Outcome> {
  if (call.operation === UP_TO_DATE) {
    const { asset, redone, files } = await bringUpToDate(before, context);
    return {
      asset,
      title: `Brought ${redone.join(", ")} up to date`,
      report: { redone },
      files,
    };
  }
  const operation = findOperation(call.operation);
  const { asset, report, headline, files } = await runOperation(
    operation,
    before,
    call.options,
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

async function handle(call: JobCall): Promise<void> {
  const flag = new Int32Array(call.cancel);
  const check = checkFlag(flag);
  let said = 0;
  const context: Context = {
    check,
    lanes,
    assetById: async (id) =>
      store.load((await store.asset(id)).head, new Map()),
    files: call.uploads.map(({ name, path }) => ({
      name,
      bytes: readFileSync(path),
    })),
    progress(share, step) {
      if (Date.now() - said < 80) return;
      said = Date.now();
      answer({ call: call.call, kind: "progress", share, step });
    },
  };
  const before = await store.load(call.revision, kept);
  const { asset, title, report, files } = await work(call, before, context);
  check();
  answer({
    call: call.call,
    kind: "progress",
    share: 0.97,
    step: "storing the result",
  });
  const revision = await store.commit(
    call.assetId,
    call.revision,
    asset,
    title,
    async (trx) => {
      if (!call.job) return;
      const [file] = files;
      if (file)
        await trx("deliveries").insert({
          job_id: call.job,
          name: file.name,
          bytes: Buffer.from(file.bytes),
        });
      await trx("jobs")
        .where({ id: call.job })
        .update({
          state: "done",
          report: JSON.stringify({ title, ...report }),
          ended: new Date().toISOString(),
        });
    },
  );
  answer({ call: call.call, kind: "done", revision, report, summary: title });
  if (meshesChanged(before, asset)) await paint(call.assetId, asset);
}

const meshesChanged = (a: Asset, b: Asset) =>
  a.parts.length !== b.parts.length ||
  b.parts.some(
    (part, i) =>
      part.source?.positions !== a.parts[i].source?.positions ||
      part.game?.positions !== a.parts[i].game?.positions,
  );

async function paint(assetId: number, asset: Asset): Promise<void> {
  const pixels = portrait(asset, 320, 240);
  if (pixels)
    await store.setPicture(
      assetId,
      encode({ width: 320, height: 240, data: pixels, channels: 3, depth: 8 }),
    );
}

let queue = Promise.resolve();
parentPort!.on("message", (call: JobCall) => {
  queue = queue.then(() =>
    handle(call).catch((error: unknown) => {
      const known = error instanceof ArnikError;
      const message = error instanceof Error ? error.message : String(error);
      answer({
        call: call.call,
        kind: "failed",
        message: known ? message : `unexpected: ${message}`,
        cancelled: error instanceof CancelledError,
        status: error instanceof ConflictError ? 409 : known ? 422 : 500,
      });
    }),
  );
});
