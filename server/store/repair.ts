import { createHash } from "node:crypto";
import { existsSync, renameSync, rmSync } from "node:fs";
import type { Knex } from "knex";
import type { AssetDocument } from "../../core/asset/document";
import { StoreError } from "./errors";
import { namedBy } from "./check";
import { Database } from "./database";
import type { AssetRow, RevisionRow } from "./rows";
import { storeFile } from "./store";

export interface Repair {
  /** What was kept, by table. */
  kept: Record<string, number>;
  /** What could not be kept, in words. */
  lost: string[];
  /** Where the file as it was lies now. */
  before: string;
}

/** Rows in a row that can't be read before a table is taken to end. */
const GIVE_UP = 5000;

/**
 * Writes a new store of all that is whole in the present one. A revision is whole where its document reads and every
 * stream that it names is there and has the bytes its name says. An asset that stood at a revision which is not goes
 * back to the newest before it. The file as it was is kept beside it.
 */
export async function repairStore(
  folder: string,
  progress: (share: number, step: string) => void = () => {},
): Promise<Repair> {
  const file = storeFile(folder);
  const fresh = `${file}.repaired`;
  removeStore(fresh);
  const from = await Database.open(file, true);
  let to: Database | null = null;
  const repair: Repair = { kept: {}, lost: [], before: "" };
  try {
    to = await Database.open(fresh, true);
    await copyAll(from.read, to, repair, progress);
    to.checkpoint();
    const troubles = to.integrity();
    if (troubles.length)
      throw new StoreError(`the repaired store is damaged too: ${troubles[0]}`);
  } catch (error) {
    await to?.close();
    removeStore(fresh);
    throw error;
  } finally {
    await from.close();
  }
  await to.close();
  repair.before = freeName(`${file}.before-repair`);
  for (const end of ["", "-wal", "-shm"])
    if (existsSync(file + end)) renameSync(file + end, repair.before + end);
  renameSync(fresh, file);
  return repair;
}

const removeStore = (file: string) => {
  for (const end of ["", "-wal", "-shm"]) rmSync(file + end, { force: true });
};

function freeName(wanted: string): string {
  let name = wanted;
  for (let n = 2; existsSync(name); n++) name = `${wanted}-${n}`;
  return name;
}

/**
 * Copies what is sound from one store into an empty one.
 * In one piece: tables in the order in which they need each other.
 */
async function copyAll(
  from: Knex,
  to: Database,
  repair: Repair,
  progress: (share: number, step: string) => void,
): Promise<void> {
  const lose = (what: string) => repair.lost.push(what);
  const streams = await copyStreams(from, to, lose, progress);
  progress(0.8, "revisions");
  const { kept, parents } = await wholeRevisions(from, streams, lose);
  const nearest = (id: number | null): number | null => {
    for (let at = id; at !== null; at = parents.get(at) ?? null)
      if (kept.has(at)) return at;
    return null;
  };
  const newest = new Map<number, number>();
  for (const { id, asset_id } of kept.values())
    newest.set(asset_id, Math.max(id, newest.get(asset_id) ?? 0));
  const assets: AssetRow[] = [];
  for await (const row of rows<AssetRow>(from, "assets", lose)) {
    const head = nearest(row.head) ?? newest.get(row.id) ?? null;
    if (head === null) {
      lose(`asset ${row.id} (${row.name}): none of its revisions is whole`);
      continue;
    }
    if (head !== row.head)
      lose(
        `asset ${row.id} (${row.name}) goes back from revision ${row.head} to ${head}`,
      );
    const { name } = JSON.parse(kept.get(head)!.document) as AssetDocument;
    assets.push({
      ...row,
      name,
      head,
      tip: kept.has(row.tip) ? row.tip : head,
    });
  }
  const owned = new Set(assets.map(({ id }) => id));
  const revisions = [...kept.values()].filter(({ asset_id }) =>
    owned.has(asset_id),
  );
  // One transaction: assets and revisions name each other.
  await to.write(async (trx) => {
    for (const row of assets)
      await trx("assets").insert({ ...row, summary: "{}" });
    for (const row of revisions) {
      await trx("revisions").insert({
        ...row,
        parent_id: nearest(row.parent_id),
      });
      for (const hash of namedBy(row.document)!)
        await trx.raw(
          "INSERT INTO revision_streams SELECT ?, id FROM streams WHERE hash = ?",
          [row.id, hash],
        );
    }
  });
  repair.kept = {
    assets: assets.length,
    revisions: revisions.length,
    streams: streams.size,
  };
  progress(0.95, "jobs and snapshots");
  const stands = new Set(revisions.map(({ id }) => id));
  for (const table of ["jobs", "snapshots"]) {
    const there: Record<string, unknown>[] = [];
    for await (const row of rows<{ id: number; revision_id: number }>(
      from,
      table,
      lose,
    ))
      if (stands.has(row.revision_id)) there.push({ ...row });
    await to.write(async (trx) => {
      for (const row of there) await trx(table).insert(row);
    });
    repair.kept[table] = there.length;
  }
  // Stores of before knew none.
  if (await from.schema.hasTable("profiles").catch(() => false))
    for await (const row of rows<{ id: number }>(from, "profiles", lose))
      await to.write((trx) => trx("profiles").insert(row));
  const jobs = new Set(
    ((await to.read("jobs").select("id")) as { id: number }[]).map(
      ({ id }) => id,
    ),
  );
  for await (const row of rows<{ id: number; job_id: number }>(
    from,
    "deliveries",
    lose,
    "job_id",
  ))
    if (jobs.has(row.job_id))
      await to.write((trx) => trx("deliveries").insert(row));
}

/** Streams whose bytes are what their name says, copied; their hashes. */
async function copyStreams(
  from: Knex,
  to: Database,
  lose: (what: string) => void,
  progress: (share: number, step: string) => void,
): Promise<Set<string>> {
  const whole = new Set<string>();
  let done = 0;
  for await (const { hash, bytes } of rows<{
    id: number;
    hash: string;
    bytes: Buffer;
  }>(from, "streams", lose)) {
    progress(Math.min(0.8, ++done / 5000), "streams");
    if (createHash("sha256").update(bytes).digest("hex") !== hash) {
      lose(`stream ${hash.slice(0, 8)} has other bytes than its name says`);
      continue;
    }
    await to.write((trx) => trx("streams").insert({ hash, bytes }));
    whole.add(hash);
  }
  return whole;
}

async function wholeRevisions(
  from: Knex,
  streams: ReadonlySet<string>,
  lose: (what: string) => void,
) {
  const kept = new Map<number, RevisionRow>();
  const parents = new Map<number, number | null>();
  for await (const row of rows<RevisionRow>(from, "revisions", lose)) {
    parents.set(row.id, row.parent_id);
    const hashes = namedBy(row.document);
    if (hashes?.every((hash) => streams.has(hash))) kept.set(row.id, row);
    else lose(`revision ${row.id} of asset ${row.asset_id} (${row.title})`);
  }
  return { kept, parents };
}

/** The rows of a table that can be read, one by one; what can't is told and passed over. */
async function* rows<T>(
  from: Knex,
  table: string,
  lose: (what: string) => void,
  key = "id",
): AsyncGenerator<T> {
  for (let last = 0, failed = 0; failed < GIVE_UP;) {
    let row: Record<string, number> | undefined;
    try {
      row = (await from(table)
        .where(key, ">", last)
        .orderBy(key)
        .first()) as typeof row;
    } catch {
      if (!failed++) lose(`${table} after row ${last} can't be read`);
      last++;
      continue;
    }
    if (!row) return;
    if (row[key] <= last) {
      // A damaged index leads back to what was read before.
      failed++;
      last++;
      continue;
    }
    failed = 0;
    last = row[key];
    yield row as T;
  }
}
