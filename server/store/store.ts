import { mkdirSync } from "node:fs";
import { join } from "node:path";
import type { Knex } from "knex";
import knexFactory from "knex";
import type { Asset } from "../../core/asset/asset";
import type { AssetDocument } from "../../core/asset/document";
import {
  fillDocument,
  fromDocument,
  toDocument,
} from "../../core/asset/document";
import { ArnikError } from "../../core/errors";
import { migrationSource } from "./migrations";

export type JobState =
  "queued" | "running" | "done" | "failed" | "cancelled" | "interrupted";

export interface AssetRow {
  id: number;
  name: string;
  head: number;
  tip: number;
  changed: string;
}

export interface RevisionRow {
  id: number;
  asset_id: number;
  parent_id: number | null;
  title: string;
  document: string;
  made: string;
}

export interface SnapshotRow {
  id: number;
  revision_id: number;
  name: string;
  made: string;
}

export interface JobRow {
  id: number;
  asset_id: number;
  revision_id: number;
  operation: string;
  options: string;
  uploads: string;
  state: JobState;
  error: string | null;
  report: string | null;
  made: string;
  ended: string | null;
}

/** The state of an asset went on while somebody worked on an older one. */
export class ConflictError extends ArnikError {
  override name = "ConflictError";
}

export class NotFoundError extends ArnikError {
  override name = "NotFoundError";
}

const now = () => new Date().toISOString();

/** Everything Arnik keeps, in one SQLite file. Each thread opens its own. */
export class Store {
  private constructor(private readonly knex: Knex) {}

  /** Opens the file in a folder, made where missing, and brings its tables up to date. */
  static async open(folder: string): Promise<Store> {
    mkdirSync(folder, { recursive: true });
    const knex = knexFactory({
      client: "better-sqlite3",
      connection: { filename: join(folder, "arnik.sqlite") },
      useNullAsDefault: true,
      pool: {
        min: 1,
        max: 1,
        afterCreate(
          connection: { pragma(text: string): void },
          done: (error: Error | null, connection: unknown) => void,
        ) {
          connection.pragma("journal_mode = WAL");
          connection.pragma("synchronous = NORMAL");
          connection.pragma("foreign_keys = ON");
          connection.pragma("busy_timeout = 10000");
          done(null, connection);
        },
      },
    });
    await knex.migrate.latest({ migrationSource });
    return new Store(knex);
  }

  close(): Promise<void> {
    return this.knex.destroy();
  }

  assets(): Promise<AssetRow[]> {
    return this.knex("assets")
      .select("id", "name", "head", "tip", "changed")
      .orderBy("id");
  }

  async asset(id: number): Promise<AssetRow> {
    const row = (await this.knex("assets")
      .select("id", "name", "head", "tip", "changed")
      .where({ id })
      .first()) as AssetRow | undefined;
    if (!row) throw new NotFoundError(`there is no asset ${id}`);
    return row;
  }

  async revision(id: number): Promise<RevisionRow> {
    const row = (await this.knex("revisions").where({ id }).first()) as
      RevisionRow | undefined;
    if (!row) throw new NotFoundError(`there is no revision ${id}`);
    return row;
  }

  async documentOf(revision: number): Promise<AssetDocument> {
    return fillDocument(
      JSON.parse((await this.revision(revision)).document) as AssetDocument,
    );
  }

  /** How many revisions lead to this one. */
  async depth(revision: number): Promise<number> {
    const [{ depth }] = (await this.knex.raw(
      "WITH RECURSIVE line(id, parent) AS (SELECT id, parent_id FROM revisions WHERE id = ? UNION ALL " +
        "SELECT r.id, r.parent_id FROM revisions r JOIN line ON r.id = line.parent) SELECT COUNT(*) AS depth FROM line",
      [revision],
    )) as { depth: number }[];
    return depth;
  }

  /** Makes an asset with its first revision. */
  async createAsset(asset: Asset, title: string): Promise<AssetRow> {
    const id = await this.knex.transaction(async (trx) => {
      const [made] = await trx("assets").insert({
        name: asset.name,
        changed: now(),
      });
      const revision = await this.writeRevision(trx, made, null, asset, title);
      await trx("assets")
        .where({ id: made })
        .update({ head: revision, tip: revision });
      return made;
    });
    return this.asset(id);
  }

  async deleteAsset(id: number): Promise<void> {
    await this.asset(id);
    await this.knex.transaction(async (trx) => {
      await trx("assets").where({ id }).delete();
    });
    await this.dropUnusedStreams();
  }

  /** Streams that no revision names any more. */
  private async dropUnusedStreams(): Promise<void> {
    const used = new Set<string>();
    for (const { document } of (await this.knex("revisions").select(
      "document",
    )) as { document: string }[])
      for (const [, hash] of document.matchAll(/"hash":"([0-9a-f]{64})"/g))
        used.add(hash);
    const all = (await this.knex("streams").select("hash")) as {
      hash: string;
    }[];
    for (const { hash } of all)
      if (!used.has(hash)) await this.knex("streams").where({ hash }).delete();
  }

  /**
   * Adds a revision after `base` and moves the asset to it, in one transaction.
   * @param more further writes of the same transaction
   * @throws ConflictError where the asset is no longer at `base`
   */
  async commit(
    assetId: number,
    base: number,
    asset: Asset,
    title: string,
    more?: (trx: Knex.Transaction) => Promise<void>,
  ): Promise<number> {
    return this.knex.transaction(async (trx) => {
      const row = (await trx("assets").where({ id: assetId }).first()) as
        AssetRow | undefined;
      if (!row) throw new NotFoundError("the asset has been deleted meanwhile");
      if (row.head !== base)
        throw new ConflictError(
          "the asset was changed elsewhere meanwhile; nothing was overwritten: look at the new state and try again",
        );
      const revision = await this.writeRevision(
        trx,
        assetId,
        base,
        asset,
        title,
      );
      await trx("assets").where({ id: assetId }).update({
        name: asset.name,
        head: revision,
        tip: revision,
        changed: now(),
      });
      await more?.(trx);
      return revision;
    });
  }

  private async writeRevision(
    trx: Knex.Transaction,
    assetId: number,
    parent: number | null,
    asset: Asset,
    title: string,
  ): Promise<number> {
    const blobs = new Map<string, Uint8Array>();
    const document = toDocument(asset, (hash, bytes) => blobs.set(hash, bytes));
    for (const [hash, bytes] of blobs) {
      const there = (await trx("streams")
        .select("hash")
        .where({ hash })
        .first()) as unknown;
      if (!there)
        await trx("streams").insert({
          hash,
          bytes: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
        });
    }
    const [id] = await trx("revisions").insert({
      asset_id: assetId,
      parent_id: parent,
      title,
      document: JSON.stringify(document),
      made: now(),
    });
    return id;
  }

  /** Moves the asset to the revision before or after the present one. @throws ConflictError, NotFoundError */
  async step(
    assetId: number,
    base: number,
    way: "undo" | "redo",
  ): Promise<void> {
    await this.knex.transaction(async (trx) => {
      const row = (await trx("assets").where({ id: assetId }).first()) as
        AssetRow | undefined;
      if (!row) throw new NotFoundError(`there is no asset ${assetId}`);
      if (row.head !== base)
        throw new ConflictError("the asset was changed elsewhere meanwhile");
      let target: number | null = null;
      if (way === "undo")
        target = (
          (await trx("revisions")
            .where({ id: row.head })
            .first()) as RevisionRow
        ).parent_id;
      else
        for (let at: number | null = row.tip; at !== null && at !== row.head;) {
          target = at;
          at = (
            (await trx("revisions").where({ id: at }).first()) as RevisionRow
          ).parent_id;
        }
      if (target === null)
        throw new NotFoundError(
          way === "undo"
            ? "this is the first revision"
            : "this is the newest revision",
        );
      const { document } = (await trx("revisions")
        .where({ id: target })
        .first()) as RevisionRow;
      await trx("assets")
        .where({ id: assetId })
        .update({
          head: target,
          name: (JSON.parse(document) as AssetDocument).name,
          changed: now(),
        });
    });
  }

  async stream(hash: string): Promise<Buffer> {
    const row = (await this.knex("streams").where({ hash }).first()) as
      { bytes: Buffer } | undefined;
    if (!row) throw new NotFoundError(`there is no stream ${hash.slice(0, 8)}`);
    return row.bytes;
  }

  /** A revision with all its streams in memory. `kept` holds streams already loaded. */
  async load(revision: number, kept: Map<string, Uint8Array>): Promise<Asset> {
    const document = await this.documentOf(revision);
    const wanted = new Set(
      [...JSON.stringify(document).matchAll(/"hash":"([0-9a-f]{64})"/g)].map(
        ([, hash]) => hash,
      ),
    );
    for (const hash of kept.keys()) if (!wanted.has(hash)) kept.delete(hash);
    for (const hash of wanted)
      if (!kept.has(hash)) kept.set(hash, await this.stream(hash));
    return fromDocument(document, (hash) => kept.get(hash)!);
  }

  /** Makes an older revision the newest one again, as a revision of its own. @throws ConflictError, NotFoundError */
  async restore(assetId: number, base: number, to: number): Promise<void> {
    await this.knex.transaction(async (trx) => {
      const row = (await trx("assets").where({ id: assetId }).first()) as
        AssetRow | undefined;
      const old = (await trx("revisions")
        .where({ id: to, asset_id: assetId })
        .first()) as RevisionRow | undefined;
      if (!row || !old)
        throw new NotFoundError(`there is no revision ${to} of this asset`);
      if (row.head !== base)
        throw new ConflictError("the asset was changed elsewhere meanwhile");
      const [revision] = await trx("revisions").insert({
        asset_id: assetId,
        parent_id: base,
        title: `Restored: ${old.title}`,
        document: old.document,
        made: now(),
      });
      await trx("assets")
        .where({ id: assetId })
        .update({
          head: revision,
          tip: revision,
          name: (JSON.parse(old.document) as AssetDocument).name,
          changed: now(),
        });
    });
  }

  /** The newest revisions of an asset, newest first. */
  async revisions(
    assetId: number,
    most = 60,
  ): Promise<Pick<RevisionRow, "id" | "title" | "made">[]> {
    return this.knex("revisions")
      .select("id", "title", "made")
      .where({ asset_id: assetId })
      .orderBy("id", "desc")
      .limit(most);
  }

  /** Gives a revision a name, and a picture if there is one. @throws NotFoundError */
  async addSnapshot(
    assetId: number,
    revision: number,
    name: string,
    picture: Uint8Array | null,
  ): Promise<void> {
    if ((await this.revision(revision)).asset_id !== assetId)
      throw new NotFoundError(`there is no revision ${revision} of this asset`);
    await this.knex("snapshots").insert({
      asset_id: assetId,
      revision_id: revision,
      name,
      picture: picture && Buffer.from(picture),
      made: now(),
    });
  }

  snapshots(assetId: number): Promise<SnapshotRow[]> {
    return this.knex("snapshots")
      .select("id", "revision_id", "name", "made")
      .where({ asset_id: assetId })
      .orderBy("id", "desc");
  }

  async snapshotPicture(id: number): Promise<Buffer | null> {
    const row = (await this.knex("snapshots")
      .select("picture")
      .where({ id })
      .first()) as { picture: Buffer | null } | undefined;
    return row?.picture ?? null;
  }

  async deleteSnapshot(assetId: number, id: number): Promise<void> {
    await this.knex("snapshots").where({ id, asset_id: assetId }).delete();
  }

  async setPicture(assetId: number, png: Uint8Array): Promise<void> {
    await this.knex("assets")
      .where({ id: assetId })
      .update({ picture: Buffer.from(png) });
  }

  async picture(assetId: number): Promise<Buffer | null> {
    const row = (await this.knex("assets")
      .select("picture")
      .where({ id: assetId })
      .first()) as { picture: Buffer | null } | undefined;
    return row?.picture ?? null;
  }

  async addJob(
    job: Pick<
      JobRow,
      "asset_id" | "revision_id" | "operation" | "options" | "uploads"
    >,
  ): Promise<JobRow> {
    const [id] = await this.knex("jobs").insert({
      ...job,
      state: "queued",
      made: now(),
    });
    return this.job(id);
  }

  async job(id: number): Promise<JobRow> {
    const row = (await this.knex("jobs").where({ id }).first()) as
      JobRow | undefined;
    if (!row) throw new NotFoundError(`there is no job ${id}`);
    return row;
  }

  /** The newest jobs, of one asset or of all. */
  jobs(assetId?: number): Promise<JobRow[]> {
    const query = this.knex("jobs").orderBy("id", "desc").limit(50);
    return assetId === undefined ? query : query.where({ asset_id: assetId });
  }

  async nextJob(): Promise<JobRow | null> {
    return (
      ((await this.knex("jobs")
        .where({ state: "queued" })
        .orderBy("id")
        .first()) as JobRow | undefined) ?? null
    );
  }

  async setJob(id: number, change: Partial<JobRow>): Promise<void> {
    const ended =
      change.state && !["queued", "running"].includes(change.state)
        ? { ended: now() }
        : {};
    await this.knex("jobs")
      .where({ id })
      .update({ ...change, ...ended });
  }

  /** Called at start: whatever was running when the process died is interrupted, whatever waited too. */
  async markInterrupted(): Promise<number> {
    return this.knex("jobs").whereIn("state", ["running", "queued"]).update({
      state: "interrupted",
      ended: now(),
      error: "the server stopped while this was under way; it can be run again",
    });
  }

  async delivery(jobId: number): Promise<{ name: string; bytes: Buffer }> {
    const row = (await this.knex("deliveries")
      .where({ job_id: jobId })
      .first()) as { name: string; bytes: Buffer } | undefined;
    if (!row) throw new NotFoundError(`job ${jobId} left no file`);
    return row;
  }
}
