import type { Knex } from "knex";
import { StoreError, NotFoundError } from "./errors";
import type { Database } from "./database";

/** Names in one question to SQLite. */
const AT_ONCE = 500;
/** Bytes written in one transaction before a revision names them. */
const BATCH = 16 * 1024 * 1024;

/** Hashes of the streams that a document in JSON names. */
export const hashesIn = (document: string): string[] => [
  ...new Set(
    [...document.matchAll(/"hash":"([0-9a-f]{64})"/g)].map(([, hash]) => hash),
  ),
];

export function* inChunks<T>(all: readonly T[]): Generator<T[]> {
  for (let at = 0; at < all.length; at += AT_ONCE)
    yield all.slice(at, at + AT_ONCE);
}

/** Immutable bytes under their SHA-256, and which revision names which. */
export class StreamRows {
  constructor(private readonly database: Database) {}

  /** @throws NotFoundError */
  async bytes(hash: string): Promise<Buffer> {
    const row = (await this.database
      .read("streams")
      .select("bytes")
      .where({ hash })
      .first()) as { bytes: Buffer } | undefined;
    if (!row) throw new NotFoundError(`there is no stream ${hash.slice(0, 8)}`);
    return row.bytes;
  }

  /**
   * Stores what is not there yet, in transactions of its own, so that the one which makes the revision is short.
   * Until a revision names them, streams may be cleaned away again: `count` stores those once more.
   */
  async putAhead(blobs: ReadonlyMap<string, Uint8Array>): Promise<void> {
    const there = await this.idsOf(this.database.read, [...blobs.keys()]);
    let batch: [string, Uint8Array][] = [];
    let size = 0;
    const store = async () => {
      const storing = batch;
      batch = [];
      size = 0;
      if (storing.length)
        await this.database.write(async (trx) => {
          for (const [hash, bytes] of storing) await insert(trx, hash, bytes);
        });
    };
    for (const [hash, bytes] of blobs) {
      if (there.has(hash)) continue;
      batch.push([hash, bytes]);
      size += bytes.byteLength;
      if (size >= BATCH) await store();
    }
    await store();
  }

  /**
   * Says, within a transaction, that a revision names these streams.
   * @throws StoreError where one is neither there nor given
   */
  async count(
    trx: Knex,
    revision: number,
    hashes: readonly string[],
    blobs: ReadonlyMap<string, Uint8Array>,
  ): Promise<void> {
    let ids = await this.idsOf(trx, hashes);
    for (const hash of hashes) {
      if (ids.has(hash)) continue;
      const bytes = blobs.get(hash);
      if (!bytes)
        throw new StoreError(
          `stream ${hash.slice(0, 8)} is not there: the revision would not open`,
        );
      await insert(trx, hash, bytes);
    }
    if (ids.size < hashes.length) ids = await this.idsOf(trx, hashes);
    for (const some of inChunks([...ids.values()]))
      await trx("revision_streams").insert(
        some.map((stream_id) => ({ revision_id: revision, stream_id })),
      );
  }

  private async idsOf(
    knex: Knex,
    hashes: readonly string[],
  ): Promise<Map<string, number>> {
    const found = new Map<string, number>();
    for (const some of inChunks(hashes))
      for (const { id, hash } of (await knex("streams")
        .select("id", "hash")
        .whereIn("hash", some)) as { id: number; hash: string }[])
        found.set(hash, id);
    return found;
  }

  /** Removes, within a transaction, those of the given streams that no revision names. */
  async dropUnnamed(trx: Knex, ids: readonly number[]): Promise<number> {
    let dropped = 0;
    for (const some of inChunks(ids))
      dropped += await trx("streams")
        .whereIn("id", some)
        .whereNotExists(
          trx("revision_streams").whereRaw("stream_id = streams.id"),
        )
        .delete();
    return dropped;
  }

  /** Removes all streams that no revision names, in one transaction. */
  dropAllUnnamed(): Promise<number> {
    return this.database.write((trx) =>
      trx("streams")
        .whereNotExists(
          trx("revision_streams").whereRaw("stream_id = streams.id"),
        )
        .delete(),
    );
  }
}

const insert = (trx: Knex, hash: string, bytes: Uint8Array) =>
  trx("streams")
    .insert({
      hash,
      bytes: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
    })
    .onConflict("hash")
    .ignore();
