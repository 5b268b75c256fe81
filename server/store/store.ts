import { assetRow, headAt, nextOnWay } from "./asset-rows";
import { randomUUID } from "node:crypto";
import { join } from "node:path";
import type { Knex } from "knex";
import type { Asset } from "../../core/asset/asset";
import type { AssetDocument } from "../../core/asset/document";
import { toDocument } from "../../core/asset/document";
import { fillDocument, fromDocument } from "../../core/asset/read-document";
import type { StageStanding } from "../../core/asset/stale";
import { stageStates } from "../../core/asset/stale";
import { BusyError, NotFoundError } from "./errors";
import { Database } from "./database";
import { FolderLock } from "./folder-lock";
import { JobRows } from "./job-rows";
import type { AssetRow, JobRow, RevisionRow } from "./rows";
import { now } from "./rows";
import { ProfileRows } from "./profile-rows";
import { SnapshotRows } from "./snapshot-rows";
import { StreamCache } from "./stream-cache";
import { StreamRows, hashesIn } from "./stream-rows";
import type { Summary } from "./summary";
import { SUMMARY_VERSION, summaryOf } from "./summary";

/** The one file that holds everything, in its data folder. */
export const storeFile = (folder: string) => join(folder, "arnik.sqlite");

/** An asset as a page shows it, read at one moment. */
export interface AssetView {
  row: AssetRow;
  revision: Omit<RevisionRow, "document" | "asset_id">;
  document: AssetDocument;
  standing: StageStanding[];
  jobs: JobRow[];
}

/** Everything Arnik keeps. Assets and their revisions are here, all else in files of its own. */
export class Store {
  readonly streams: StreamRows;
  readonly jobs: JobRows;
  readonly snapshots: SnapshotRows;
  readonly profiles: ProfileRows;

  private constructor(
    readonly database: Database,
    private readonly lock: FolderLock | null,
    /** Proves that the server which asked for work is still the one that uses the store. */
    readonly owner: string | null,
  ) {
    this.streams = new StreamRows(database);
    this.jobs = new JobRows(database);
    this.snapshots = new SnapshotRows(database);
    this.profiles = new ProfileRows(database);
  }

  /**
   * Opens the store of a folder as its one user, made where missing, its tables brought up to date.
   * @throws StoreError where somebody else uses it, naming who
   */
  static async open(folder: string, what = "a process of Arnik's") {
    const lock = await FolderLock.take(folder, what);
    try {
      const database = await Database.open(storeFile(folder), true);
      const owner = randomUUID();
      const store = new Store(database, lock, owner);
      await database.write((trx) =>
        trx("settings")
          .insert({ name: "owner", value: owner })
          .onConflict("name")
          .merge(),
      );
      await store.streams.dropAllUnnamed();
      await store.renewSummaries();
      store.giveBack();
      return store;
    } catch (error) {
      await lock.release();
      throw error;
    }
  }

  /**
   * Joins a store that somebody else has opened.
   * @param owner of whoever asked; what he asks is no longer stored once another has opened it. Null only reads
   */
  static async join(folder: string, owner: string | null): Promise<Store> {
    return new Store(
      await Database.open(storeFile(folder), false),
      null,
      owner,
    );
  }

  async close(): Promise<void> {
    await this.database.close();
    await this.lock?.release();
  }

  /** All assets with what a list shows of them; no document is read. */
  async list(): Promise<(AssetRow & { summary: Summary })[]> {
    const rows = (await this.database
      .read("assets")
      .select("id", "name", "head", "tip", "changed", "summary")
      .orderBy("id")) as (AssetRow & { summary: string })[];
    return rows.map((row) => ({
      ...row,
      summary: JSON.parse(row.summary) as Summary,
    }));
  }

  asset(id: number): Promise<AssetRow> {
    return assetRow(this.database.read, id);
  }

  async revision(id: number): Promise<RevisionRow> {
    const row = (await this.database
      .read("revisions")
      .where({ id })
      .first()) as RevisionRow | undefined;
    if (!row) throw new NotFoundError(`there is no revision ${id}`);
    return row;
  }

  async documentOf(revision: number): Promise<AssetDocument> {
    return parse((await this.revision(revision)).document);
  }

  async view(id: number): Promise<AssetView> {
    const row = await this.asset(id);
    const { document: text, ...revision } = await this.revision(row.head);
    const document = parse(text);
    return {
      row,
      revision,
      document,
      standing: stageStates(document),
      jobs: await this.jobs.of(id, 8),
    };
  }

  /** Makes an asset with its first revision. */
  async createAsset(asset: Asset, title: string): Promise<AssetRow> {
    const made = serialise(asset);
    await this.streams.putAhead(made.blobs);
    const id = await this.database.write(async (trx) => {
      const changed = now();
      const [id] = await trx("assets").insert({
        name: asset.name,
        head: 0,
        tip: 0,
        summary: made.summary,
        changed,
      });
      const revision = await this.addRevision(trx, id, null, 1, made, title);
      await trx("assets")
        .where({ id })
        .update({ head: revision, tip: revision });
      return id;
    });
    return this.asset(id);
  }

  /** Removes an asset with its revisions, and the streams that no other one names. */
  async deleteAsset(id: number): Promise<void> {
    await this.database.write(async (trx) => {
      await assetRow(trx, id);
      const named = (await trx("revision_streams")
        .distinct("stream_id")
        .whereIn(
          "revision_id",
          trx("revisions").select("id").where({ asset_id: id }),
        )) as { stream_id: number }[];
      await trx("assets").where({ id }).delete();
      await this.streams.dropUnnamed(
        trx,
        named.map(({ stream_id }) => stream_id),
      );
    });
    this.giveBack();
  }

  /**
   * Adds a revision after `base` and moves the asset to it, in one transaction. Hashing, serialising and most of the
   * writing is done before.
   * @param more further writes of the same transaction
   * @throws ConflictError where the asset is no longer at `base`
   */
  async commit(
    assetId: number,
    base: number,
    asset: Asset,
    title: string,
    more?: (trx: Knex) => Promise<void>,
  ): Promise<number> {
    const made = serialise(asset);
    await this.streams.putAhead(made.blobs);
    return this.database.write(async (trx) => {
      await this.checkOwner(trx);
      const { number } = await headAt(trx, assetId, base);
      const revision = await this.addRevision(
        trx,
        assetId,
        base,
        number + 1,
        made,
        title,
      );
      await trx("assets").where({ id: assetId }).update({
        name: asset.name,
        head: revision,
        tip: revision,
        summary: made.summary,
        changed: now(),
      });
      await more?.(trx);
      return revision;
    });
  }

  /** Ends a job that changed nothing, with the file it left. @throws NotFoundError where it is not running */
  async finishJob(
    id: number,
    report: object,
    file?: { name: string; bytes: Uint8Array },
  ): Promise<void> {
    await this.database.write(async (trx) => {
      await this.checkOwner(trx);
      await this.jobs.finish(trx, id, report, file);
    });
  }

  /** Moves the asset to the revision before or after the present one. @throws ConflictError, NotFoundError */
  async step(
    assetId: number,
    base: number,
    way: "undo" | "redo",
  ): Promise<void> {
    await this.database.write(async (trx) => {
      const { row, parent } = await headAt(trx, assetId, base);
      const target = way === "undo" ? parent : await nextOnWay(trx, row);
      if (target === null)
        throw new NotFoundError(
          way === "undo"
            ? "this is the first revision"
            : "this is the newest revision",
        );
      const { document } = (await trx("revisions")
        .select("document")
        .where({ id: target })
        .first()) as RevisionRow;
      await trx("assets")
        .where({ id: assetId })
        .update({ head: target, ...shownOf(document) });
    });
  }

  /** Makes an older revision the newest one again, as a revision of its own. @throws ConflictError, NotFoundError */
  async restore(assetId: number, base: number, to: number): Promise<void> {
    await this.database.write(async (trx) => {
      const { number } = await headAt(trx, assetId, base);
      const old = (await trx("revisions")
        .where({ id: to, asset_id: assetId })
        .first()) as RevisionRow | undefined;
      if (!old)
        throw new NotFoundError(`there is no revision ${to} of this asset`);
      const [revision] = await trx("revisions").insert({
        asset_id: assetId,
        parent_id: base,
        number: number + 1,
        title: `Restored: ${old.title}`,
        document: old.document,
        made: now(),
      });
      await trx.raw(
        "INSERT INTO revision_streams SELECT ?, stream_id FROM revision_streams WHERE revision_id = ?",
        [revision, to],
      );
      await trx("assets")
        .where({ id: assetId })
        .update({ head: revision, tip: revision, ...shownOf(old.document) });
    });
  }

  /** A revision with all its streams in memory. @param kept streams already loaded */
  async load(revision: number, kept = new StreamCache(0)): Promise<Asset> {
    const { document } = await this.revision(revision);
    const wanted = new Set(hashesIn(document));
    for (const hash of wanted)
      if (!kept.get(hash)) kept.set(hash, await this.streams.bytes(hash));
    kept.trim(wanted);
    return fromDocument(parse(document), (hash) => kept.get(hash)!);
  }

  /** The newest revisions of an asset, newest first. */
  async revisions(
    assetId: number,
    most = 60,
  ): Promise<Pick<RevisionRow, "id" | "title" | "made">[]> {
    return this.database
      .read("revisions")
      .select("id", "title", "made")
      .where({ asset_id: assetId })
      .orderBy("id", "desc")
      .limit(most);
  }

  async setPicture(assetId: number, png: Uint8Array): Promise<void> {
    await this.database.write((trx) =>
      trx("assets")
        .where({ id: assetId })
        .update({ picture: Buffer.from(png) }),
    );
  }

  async picture(assetId: number): Promise<Buffer | null> {
    const row = (await this.database
      .read("assets")
      .select("picture")
      .where({ id: assetId })
      .first()) as { picture: Buffer | null } | undefined;
    return row?.picture ?? null;
  }

  /** Gives room back to the disk beside whatever else is done; what is left is given back the next time. */
  private giveBack(): void {
    this.database.giveBack().catch(() => {});
  }

  private async addRevision(
    trx: Knex,
    assetId: number,
    parent: number | null,
    number: number,
    made: Serialised,
    title: string,
  ): Promise<number> {
    const [id] = await trx("revisions").insert({
      asset_id: assetId,
      parent_id: parent,
      number,
      title,
      document: made.document,
      made: now(),
    });
    await this.streams.count(trx, id, made.hashes, made.blobs);
    return id;
  }

  /** @throws BusyError where the server that asked for this work has ended and another one uses the store */
  private async checkOwner(trx: Knex): Promise<void> {
    const row = (await trx("settings").where({ name: "owner" }).first()) as
      { value: string } | undefined;
    if (row?.value !== this.owner)
      throw new BusyError("the server that asked for this has ended meanwhile");
  }

  /** What the list shows, made anew where an older Arnik made it. */
  private async renewSummaries(): Promise<void> {
    for (const { id, head, summary } of await this.list()) {
      if (summary.version === SUMMARY_VERSION) continue;
      const fresh = JSON.stringify(summaryOf(await this.documentOf(head)));
      await this.database.write((trx) =>
        trx("assets").where({ id }).update({ summary: fresh }),
      );
    }
  }
}

interface Serialised {
  document: string;
  summary: string;
  hashes: string[];
  blobs: Map<string, Uint8Array>;
}

function serialise(asset: Asset): Serialised {
  const blobs = new Map<string, Uint8Array>();
  const tree = toDocument(asset, (hash, bytes) => blobs.set(hash, bytes));
  const document = JSON.stringify(tree);
  return {
    document,
    summary: JSON.stringify(summaryOf(tree)),
    hashes: hashesIn(document),
    blobs,
  };
}

const parse = (document: string): AssetDocument =>
  fillDocument(JSON.parse(document) as AssetDocument);

/** What is shown of an asset at a revision, and that it changed. */
function shownOf(document: string) {
  const tree = parse(document);
  return {
    name: tree.name,
    summary: JSON.stringify(summaryOf(tree)),
    changed: now(),
  };
}
