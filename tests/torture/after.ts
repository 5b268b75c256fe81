import { createHash } from "node:crypto";
import { existsSync, readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import Database from "better-sqlite3";
import { pause } from "../server-process";
import type { Model } from "./model";
import type { AssetAnswer, Rig } from "./rig";
import { digest } from "./rig";

/** Longest that jobs which were accepted may take to end, milliseconds. */
const JOBS_END = 90_000;
const LIVE = ["queued", "running"];

/** Asks the server for everything that was promised. */
export async function verify(model: Model, rig: Rig): Promise<void> {
  await rig.settle();
  for (const known of model.assets) {
    const now = await rig.ask<AssetAnswer>(`assets/${known.id}`);
    if (!now) return rig.fault("hang", "the server does not answer");
    if (now.status === 404) {
      if (!known.deleteAsked) rig.fault("lost", `asset ${known.id} is gone`);
      known.deleted = true;
      continue;
    }
    if (known.deleted)
      rig.fault("damaged", `asset ${known.id} was deleted and is there`);
    for (const [revision, seen] of known.revisions) {
      const told = await rig.ask<{ document: unknown }>(
        `assets/${known.id}/revisions/${revision}`,
      );
      rig.figures.revisionsOpened++;
      if (told?.status !== 200)
        rig.fault("lost", `revision ${revision} of asset ${known.id} is gone`);
      else if (digest(told.value.document) !== seen)
        rig.fault("damaged", `revision ${revision} shows another document`);
    }
  }
}

/** Waits until every accepted job has ended, and says which has not. */
async function jobsEnd(model: Model, rig: Rig): Promise<void> {
  const until = Date.now() + JOBS_END;
  for (const [id, job] of model.jobs) {
    for (;;) {
      const known = model.assets.find((each) => each.id === job.asset)!;
      if (known.deleted) break;
      const now = await rig.ask<{ id: number; state: string }>(`jobs/${id}`);
      if (!now?.value || now.status === 404) {
        if (!known.deleteAsked)
          rig.fault(
            "lost",
            `job ${id} of asset ${job.asset} is gone: ${now?.status}`,
          );
        break;
      }
      if (!LIVE.includes(now.value.state)) break;
      if (Date.now() > until) {
        rig.fault("hang", `job ${id} is still ${now.value.state}`);
        break;
      }
      await pause(50);
    }
  }
}

/** The queue must take a job and end it, after whatever happened before. */
async function queueLives(rig: Rig): Promise<void> {
  const made = await rig.ask<AssetAnswer>("assets", "POST", { name: "Last" });
  const upload = await rig.ask<{ id: string }>(
    "uploads",
    "POST",
    new TextEncoder().encode("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"),
  );
  if (made?.status !== 200 || upload?.status !== 200)
    return rig.fault("hang", "no asset can be made at the end");
  const path = `assets/${made.value.id}`;
  await rig.ask(`${path}/run`, "POST", {
    revision: made.value.revision,
    operation: "intake/bring-in",
    options: {},
    uploads: [{ id: upload.value.id, name: "last.obj" }],
  });
  for (let tries = 0; tries < 600; tries++) {
    const now = await rig.ask<AssetAnswer>(path);
    const [job] = now?.value?.jobs ?? [];
    if (job?.state === "done") return;
    if (job && !LIVE.includes(job.state)) {
      rig.fault(
        "hang",
        `the last job ended as ${JSON.stringify(job)}, ${rig.room()} bytes free; ${readdirSync(
          rig.server.data,
          { recursive: true },
        )
          .map(
            (n) =>
              `${String(n)} ${statSync(join(rig.server.data, String(n))).size}`,
          )
          .join(", ")}`,
      );
      return;
    }
    await pause(50);
  }
  rig.fault("hang", "the queue does not go on");
}

/** Stops the server and reads the file itself, by no code of Arnik's. */
export async function inspect(model: Model, rig: Rig): Promise<void> {
  rig.free();
  await verify(model, rig);
  await jobsEnd(model, rig);
  await queueLives(rig);
  await rig.kill("SIGTERM");
  await rig.server.kill("SIGTERM");
  const file = join(rig.server.data, "arnik.sqlite");
  const db = new Database(file, { readonly: true });
  try {
    for (const told of db.pragma("integrity_check") as {
      integrity_check: string;
    }[])
      if (told.integrity_check !== "ok")
        rig.fault("damaged", told.integrity_check);
    const dangling = db.pragma("foreign_key_check") as unknown[];
    if (dangling.length)
      rig.fault("damaged", `${dangling.length} foreign keys dangle`);
    streamsWhole(db, rig);
    promisesKept(db, model, rig);
    const open = db
      .prepare("SELECT id FROM jobs WHERE state IN ('queued', 'running')")
      .all();
    if (open.length) rig.fault("lost", `${open.length} jobs are left open`);
    filesNamed(db, rig);
  } finally {
    db.close();
  }
}

function streamsWhole(db: Database.Database, rig: Rig): void {
  const whole = new Set<string>();
  for (const { hash, bytes } of db
    .prepare("SELECT hash, bytes FROM streams")
    .iterate() as Iterable<{ hash: string; bytes: Buffer }>)
    if (createHash("sha256").update(bytes).digest("hex") === hash)
      whole.add(hash);
    else rig.fault("damaged", `stream ${hash.slice(0, 8)} has other bytes`);
  const named = new Set<string>();
  for (const { id, document } of db
    .prepare("SELECT id, document FROM revisions")
    .iterate() as Iterable<{ id: number; document: string }>)
    for (const [, hash] of document.matchAll(/"hash":"([0-9a-f]{64})"/g)) {
      named.add(hash);
      if (!whole.has(hash))
        rig.fault(
          "missing",
          `revision ${id} misses stream ${hash.slice(0, 8)}`,
        );
    }
  for (const hash of whole)
    if (!named.has(hash))
      rig.fault("left over", `stream ${hash.slice(0, 8)} is named by nobody`);
}

function promisesKept(db: Database.Database, model: Model, rig: Rig): void {
  for (const { id, budgets, deleted } of model.assets) {
    if (deleted) continue;
    const set = new Set(
      (
        db
          .prepare("SELECT document FROM revisions WHERE asset_id = ?")
          .all(id) as { document: string }[]
      ).map(
        ({ document }) =>
          (JSON.parse(document) as { brief: { triangles: number } }).brief
            .triangles,
      ),
    );
    for (const budget of budgets)
      if (!set.has(budget))
        rig.fault("lost", `the budget ${budget} of asset ${id} is not kept`);
  }
}

/** Only files of jobs that may be run again, or that were just sent, may lie about. */
function filesNamed(db: Database.Database, rig: Rig): void {
  const folder = join(rig.server.data, "uploads");
  const named = new Set(
    (
      db.prepare("SELECT uploads FROM jobs WHERE state <> 'done'").all() as {
        uploads: string;
      }[]
    ).flatMap(({ uploads }) =>
      (JSON.parse(uploads) as { id: string }[]).map(({ id }) => id),
    ),
  );
  const done = new Set(
    (
      db.prepare("SELECT uploads FROM jobs WHERE state = 'done'").all() as {
        uploads: string;
      }[]
    ).flatMap(({ uploads }) =>
      (JSON.parse(uploads) as { id: string }[]).map(({ id }) => id),
    ),
  );
  for (const name of existsSync(folder) ? readdirSync(folder) : [])
    if (name.endsWith(".part") || (done.has(name) && !named.has(name)))
      rig.fault("left over", `the upload ${name} lies about`);
}
