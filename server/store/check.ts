import { createHash } from "node:crypto";
import { existsSync, statSync } from "node:fs";
import type { AssetDocument } from "../../core/asset/document";
import { streamsOf } from "../../core/asset/document";
import { fillDocument } from "../../core/asset/read-document";
import type { Database } from "./database";
import { asStoreError } from "./database";
import { hashesIn } from "./stream-rows";

export interface Trouble {
  /** `damaged` bytes, `missing` ones, `dangling` names, `open` jobs of a server that has ended. */
  kind: "damaged" | "missing" | "dangling" | "open";
  what: string;
}

export interface StoreCheck {
  assets: number;
  revisions: number;
  streams: number;
  jobs: number;
  /** Bytes of the file and its log, and of what compacting would give back. */
  bytes: number;
  freeBytes: number;
  unnamedStreams: number;
  unnamedBytes: number;
  troubles: Trouble[];
}

/** Bytes of a store on the disk. */
export const bytesOf = (file: string): number =>
  [file, `${file}-wal`].reduce(
    (sum, each) => sum + (existsSync(each) ? statSync(each).size : 0),
    0,
  );

/**
 * Reads everything in a store and says what is damaged, missing or left dangling. Nothing is changed.
 * @param running whether a server uses it, so that jobs may be under way
 */
export async function checkStore(
  database: Database,
  running: boolean,
  progress: (share: number, step: string) => void = () => {},
): Promise<StoreCheck> {
  const { read } = database;
  const troubles: Trouble[] = [];
  const note = (kind: Trouble["kind"], what: string) =>
    troubles.push({ kind, what });
  progress(0, "the file");
  for (const what of database.integrity()) note("damaged", what);
  const dangling = (await read.raw("PRAGMA foreign_key_check")) as {
    table: string;
    rowid: number;
    parent: string;
  }[];
  for (const { table, rowid, parent } of dangling.slice(0, 20))
    note("dangling", `row ${rowid} of ${table} names none of ${parent}`);

  const count = async (table: string) =>
    Number(((await read(table).count({ n: "*" }).first()) as { n: number }).n);
  const counts = {
    assets: await count("assets"),
    revisions: await count("revisions"),
    streams: await count("streams"),
    jobs: await count("jobs"),
  };
  const whole = await wholeStreams(database, counts.streams, note, progress);
  await checkRevisions(database, whole, note, progress);

  const heads = (await read("assets as a")
    .leftJoin("revisions as r", "r.id", "a.head")
    .select("a.id", "a.name", "r.asset_id")) as {
    id: number;
    name: string;
    asset_id: number | null;
  }[];
  for (const { id, name, asset_id } of heads)
    if (asset_id !== id)
      note("dangling", `asset ${id} (${name}) has no revision of its own`);
  if (!running)
    for (const { id } of (await read("jobs")
      .select("id")
      .whereIn("state", ["queued", "running"])) as { id: number }[])
      note("open", `job ${id} is open, and no server works on it`);

  const unnamed = (await read("streams")
    .whereNotExists(read("revision_streams").whereRaw("stream_id = streams.id"))
    .select(read.raw("COUNT(*) AS n, COALESCE(SUM(LENGTH(bytes)), 0) AS size"))
    .first()) as unknown as { n: number; size: number };
  return {
    ...counts,
    bytes: bytesOf(database.file),
    freeBytes:
      database.pragma("freelist_count", "freelist_count") *
      database.pragma("page_size", "page_size"),
    unnamedStreams: unnamed.n,
    unnamedBytes: unnamed.size,
    troubles,
  };
}

type Note = (kind: Trouble["kind"], what: string) => void;

/** Hashes of the streams whose bytes are what their name says. */
async function wholeStreams(
  { read }: Database,
  total: number,
  note: Note,
  progress: (share: number, step: string) => void,
): Promise<Set<string>> {
  const whole = new Set<string>();
  let done = 0;
  for (let last = 0; ;) {
    let row: { id: number; hash: string; bytes: Buffer } | undefined;
    try {
      row = (await read("streams")
        .where("id", ">", last)
        .orderBy("id")
        .first()) as typeof row;
    } catch (error) {
      note(
        "damaged",
        `stream after row ${last}: ${asStoreError(error).message}`,
      );
      last++;
      if (last > total * 2 + 1000) return whole;
      continue;
    }
    if (!row || row.id <= last) return whole;
    last = row.id;
    progress((0.8 * ++done) / Math.max(1, total), "streams");
    if (createHash("sha256").update(row.bytes).digest("hex") === row.hash)
      whole.add(row.hash);
    else
      note(
        "damaged",
        `stream ${row.hash.slice(0, 8)} has other bytes than its name says`,
      );
  }
}

async function checkRevisions(
  { read }: Database,
  whole: ReadonlySet<string>,
  note: Note,
  progress: (share: number, step: string) => void,
): Promise<void> {
  const ids = (await read("revisions").select("id", "asset_id")) as {
    id: number;
    asset_id: number;
  }[];
  let done = 0;
  for (const { id, asset_id } of ids) {
    const name = `revision ${id} of asset ${asset_id}`;
    progress(0.8 + (0.2 * ++done) / ids.length, "revisions");
    const { document } = (await read("revisions")
      .select("document")
      .where({ id })
      .first()) as { document: string };
    const hashes = namedBy(document);
    if (!hashes) {
      note("damaged", `${name}: its document can't be read`);
      continue;
    }
    const lacking = hashes.filter((hash) => !whole.has(hash));
    if (lacking.length)
      note(
        "missing",
        `${name}: ${lacking.length} of ${hashes.length} streams are not there or damaged, ${lacking[0].slice(0, 8)} among them`,
      );
    const rows = (await read("revision_streams")
      .where({ revision_id: id })
      .count({ n: "*" })
      .first()) as unknown as { n: number };
    if (!lacking.length && Number(rows.n) !== hashes.length)
      note(
        "dangling",
        `${name}: ${rows.n} streams are counted for it, it names ${hashes.length}`,
      );
  }
}

/** Hashes that a document names, or null where it is no document. */
export function namedBy(document: string): string[] | null {
  try {
    const tree = fillDocument(JSON.parse(document) as AssetDocument);
    streamsOf(tree);
    return hashesIn(document);
  } catch {
    return null;
  }
}
