import { mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { Knex } from "knex";
import knexFactory from "knex";
import { StoreError } from "./errors";
import { asStoreError } from "./database";

interface User {
  process: number;
  what: string;
  since: string;
}

/**
 * A data folder has one user. The lock is an exclusive transaction on a SQLite file of its own: the system takes it
 * away with the process, however that ends. Who holds it is written beside it, for whoever comes second.
 */
export class FolderLock {
  private constructor(
    private readonly knex: Knex,
    private readonly note: string,
  ) {}

  /** @param what who takes it, such as "the server on port 3000". @throws StoreError that says who has it */
  static async take(folder: string, what: string): Promise<FolderLock> {
    try {
      mkdirSync(folder, { recursive: true });
    } catch (error) {
      throw new StoreError(
        `the data folder ${folder} can't be made (${(error as NodeJS.ErrnoException).code ?? "unknown"})`,
      );
    }
    const note = join(folder, "in-use.json");
    const knex = knexFactory({
      client: "better-sqlite3",
      connection: { filename: join(folder, "in-use.lock") },
      useNullAsDefault: true,
      pool: { min: 1, max: 1 },
    });
    try {
      await knex.raw("PRAGMA busy_timeout = 300");
      await knex.raw("BEGIN EXCLUSIVE");
    } catch (error) {
      await knex.destroy();
      const busy = (error as NodeJS.ErrnoException).code === "SQLITE_BUSY";
      throw busy
        ? new StoreError(`the data folder ${folder} is in use${userOf(note)}`)
        : asStoreError(error);
    }
    const user: User = {
      process: process.pid,
      what,
      since: new Date().toISOString(),
    };
    try {
      writeFileSync(note, JSON.stringify(user));
    } catch {
      // A full disk: the lock holds all the same, only without a name.
    }
    return new FolderLock(knex, note);
  }

  async release(): Promise<void> {
    rmSync(this.note, { force: true });
    await this.knex.destroy();
  }
}

function userOf(note: string): string {
  try {
    const { process, what, since } = JSON.parse(
      readFileSync(note, "utf8"),
    ) as User;
    return ` by ${what} (process ${process}, since ${since.slice(0, 16).replace("T", " ")} UTC): stop it first`;
  } catch {
    return " by another Arnik: stop it first";
  }
}
