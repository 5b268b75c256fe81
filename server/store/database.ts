import { setTimeout as pause } from "node:timers/promises";
import type { Knex } from "knex";
import knexFactory from "knex";
import { ArnikError } from "../../core/base/errors";
import { DiskFullError, StoreError, saysFull } from "./errors";
import { migrationSource } from "./migrations";

/** What is used of a connection besides Knex. */
interface Connection {
  readonly inTransaction: boolean;
  pragma(text: string): unknown;
  exec(text: string): unknown;
  backup(
    file: string,
    options: {
      progress(at: { totalPages: number; remainingPages: number }): number;
    },
  ): Promise<unknown>;
}

/** How long a write waits for one of another process, milliseconds. */
const PATIENCE = 60_000;
/** Pages given back in one write: 8 MB. */
const PAGES_AT_ONCE = 2000;

/**
 * One SQLite file: a connection that reads and one that writes.
 *
 * Several processes open the same file (the server's store thread, and each job process), so every write transaction
 * takes the write lock when it begins (BEGIN IMMEDIATE) and waits for it with patience: one that reads first and
 * writes later can't get it any more once another has written, whatever the timeout. Readers see the last commit and
 * wait for nobody (WAL).
 *
 * `synchronous = FULL`: every commit is on the disk before it is acknowledged. With NORMAL a power cut takes the
 * last commits back, which were promised to be kept; a sync a commit costs some milliseconds.
 */
export class Database {
  private turn: Promise<unknown> = Promise.resolve();

  private constructor(
    readonly read: Knex,
    private readonly writer: Knex,
    private readonly connection: Connection,
    readonly file: string,
  ) {}

  /** Opens a file. @param create whether it is made, and its tables brought up to date; only its one user may */
  static async open(file: string, create: boolean): Promise<Database> {
    const made: Connection[] = [];
    const connect = (pragmas: readonly string[]) =>
      knexFactory({
        client: "better-sqlite3",
        connection: { filename: file },
        useNullAsDefault: true,
        pool: {
          min: 1,
          max: 1,
          afterCreate(
            connection: Connection,
            done: (error: Error | null, connection: unknown) => void,
          ) {
            try {
              for (const pragma of pragmas) connection.pragma(pragma);
              made.push(connection);
              done(null, connection);
            } catch (error) {
              done(error as Error, connection);
            }
          },
        },
      });
    const writer = connect([
      // Before the first table: a file learns to give room back when it is made.
      "auto_vacuum = INCREMENTAL",
      "journal_mode = WAL",
      "synchronous = FULL",
      "foreign_keys = ON",
      "busy_timeout = 50",
      "temp_store = MEMORY",
      "journal_size_limit = 67108864",
    ]);
    try {
      await writer.raw("SELECT 1");
      assertOneLibrary();
      if (create) await migrate(writer);
      else await checkVersion(writer);
    } catch (error) {
      await writer.destroy();
      throw asStoreError(error);
    }
    const read = connect([
      "query_only = ON",
      "busy_timeout = 5000",
      "temp_store = MEMORY",
    ]);
    return new Database(read, writer, made[0], file);
  }

  async close(): Promise<void> {
    await this.turn.catch(() => {});
    await this.read.destroy();
    await this.writer.destroy();
  }

  /**
   * One transaction that writes, alone. What it needs is computed before: it is to be short.
   * @throws DiskFullError, StoreError; whatever `work` throws. Nothing is written then.
   */
  write<T>(work: (trx: Knex) => Promise<T>): Promise<T> {
    const next = this.turn.then(() => this.transaction(work));
    this.turn = next.catch(() => {});
    return next;
  }

  private async transaction<T>(work: (trx: Knex) => Promise<T>): Promise<T> {
    try {
      await this.begin();
      const result = await work(this.writer);
      await this.writer.raw("COMMIT");
      return result;
    } catch (error) {
      // SQLite ends a transaction by itself where a disk is full.
      if (this.connection.inTransaction) this.connection.exec("ROLLBACK");
      throw asStoreError(error);
    }
  }

  private async begin(): Promise<void> {
    const until = Date.now() + PATIENCE;
    for (let wait = 2; ; wait = Math.min(50, 2 * wait))
      try {
        await this.writer.raw("BEGIN IMMEDIATE");
        return;
      } catch (error) {
        if (!isBusy(error) || Date.now() > until) throw error;
        await pause(wait);
      }
  }

  /** Gives free room back to the disk, a little at a time, so that nobody waits long. */
  async giveBack(): Promise<void> {
    for (;;) {
      const free = () => this.pragma("freelist_count", "freelist_count");
      const before = free();
      if (before < 256) return;
      // A pragma of its own transaction: Knex would take only its first step.
      const next = this.turn.then(() =>
        this.connection.exec(`PRAGMA incremental_vacuum(${PAGES_AT_ONCE})`),
      );
      this.turn = next.catch(() => {});
      await next;
      if (free() >= before) return;
      await pause(5);
    }
  }

  /** Moves all that is committed into the file itself and cuts the log. */
  checkpoint(): void {
    this.connection.pragma("wal_checkpoint(TRUNCATE)");
  }

  /** Writes the whole file anew without what is free. */
  async vacuum(): Promise<void> {
    const next = this.turn.then(() => this.connection.exec("VACUUM"));
    this.turn = next.catch(() => {});
    await next.catch((error: unknown) => {
      throw asStoreError(error);
    });
    this.checkpoint();
  }

  /** The online backup of SQLite: the state of one moment, while others go on writing. */
  async backup(
    to: string,
    progress: (share: number) => void = () => {},
  ): Promise<void> {
    await this.connection
      .backup(to, {
        progress({ totalPages, remainingPages }) {
          progress(totalPages ? 1 - remainingPages / totalPages : 0);
          // All at once: between steps others may write, and then it begins again.
          return 0x7fffffff;
        },
      })
      .catch((error: unknown) => {
        throw asStoreError(error);
      });
  }

  /** What SQLite itself finds damaged; nothing where all is whole. */
  integrity(): string[] {
    const told = this.connection.pragma("integrity_check(20)") as {
      integrity_check: string;
    }[];
    return told
      .map((each) => each.integrity_check)
      .filter((each) => each !== "ok");
  }

  pragma(name: string, column: string): number {
    const [row] = this.connection.pragma(name) as Record<string, number>[];
    return row[column];
  }
}

const isBusy = (error: unknown) =>
  error instanceof Error &&
  /^SQLITE_(BUSY|LOCKED)/.test((error as NodeJS.ErrnoException).code ?? "");

/** An error of SQLite in words of ours. */
export function asStoreError(error: unknown): Error {
  if (error instanceof ArnikError) return error;
  if (saysFull(error)) return new DiskFullError();
  const code = (error as NodeJS.ErrnoException | undefined)?.code ?? "";
  if (isBusy(error))
    return new StoreError(
      "the store is being written by another process and did not become free within a minute",
    );
  if (code.startsWith("SQLITE_CORRUPT") || code === "SQLITE_NOTADB")
    return new StoreError(
      "the store is damaged: stop Arnik, then see `arnik store check`",
    );
  if (code.startsWith("SQLITE_CANTOPEN"))
    return new StoreError("the store can't be opened or made in its folder");
  if (code.startsWith("SQLITE_READONLY"))
    return new StoreError("the store can't be written: its file is read-only");
  if (code.startsWith("SQLITE_IOERR"))
    return new StoreError(
      `the disk does not write or read the store (${code})`,
    );
  return error instanceof Error ? error : new Error(String(error));
}

async function migrate(knex: Knex): Promise<void> {
  const there = await knex.schema.hasTable("knex_migrations_lock");
  // A kill during a migration leaves Knex's own lock, which the lock on the folder makes needless.
  if (there) await knex.migrate.forceFreeMigrationsLock({ migrationSource });
  await checkVersion(knex, true);
  await knex.migrate.latest({ migrationSource });
}

/** @throws StoreError where the file is from another version of Arnik */
async function checkVersion(knex: Knex, older = false): Promise<void> {
  const known = (await migrationSource.getMigrations([])).map((each) =>
    migrationSource.getMigrationName(each),
  );
  const has = (await knex.schema.hasTable("knex_migrations"))
    ? ((await knex("knex_migrations").select("name")) as { name: string }[])
    : [];
  if (has.some(({ name }) => !known.includes(name)))
    throw new StoreError("the store was made by a newer Arnik than this one");
  if (!older && has.length < known.length)
    throw new StoreError(
      "the store was made by an older Arnik: start the server once, which brings it up to date",
    );
}

/**
 * Locks on a file hold between processes and between connections of one SQLite library, but not between two copies
 * of it in one process: each takes the other's locks away, and the file is damaged within seconds.
 * @throws StoreError where this process has loaded two
 */
export function assertOneLibrary(): void {
  const report = process.report as typeof process.report & {
    excludeNetwork?: boolean;
  };
  report.excludeNetwork = true;
  const { sharedObjects } = report.getReport() as { sharedObjects: string[] };
  const copies = new Set(
    sharedObjects.filter((path) => /better_sqlite3[^/\\]*\.node$/.test(path)),
  );
  if (copies.size > 1)
    throw new StoreError(
      `this process has loaded ${copies.size} copies of the SQLite library (${[...copies].join(", ")}), which would damage the store`,
    );
}
