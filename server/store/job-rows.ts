import type { Knex } from "knex";
import { NotFoundError } from "./errors";
import type { Database } from "./database";
import type { JobRow, NewJob } from "./rows";
import { now } from "./rows";

/** Heavy operations, one row each, from being accepted to their end. */
export class JobRows {
  constructor(private readonly database: Database) {}

  async add(job: NewJob): Promise<JobRow> {
    const row = { ...job, state: "queued" as const, made: now() };
    const [id] = await this.database.write((trx) => trx("jobs").insert(row));
    return { ...row, id, error: null, report: null, ended: null };
  }

  async get(id: number): Promise<JobRow> {
    const row = (await this.database.read("jobs").where({ id }).first()) as
      JobRow | undefined;
    if (!row) throw new NotFoundError(`there is no job ${id}`);
    return row;
  }

  /** The newest jobs of an asset. */
  async of(assetId: number, most = 50): Promise<JobRow[]> {
    return this.database
      .read("jobs")
      .where({ asset_id: assetId })
      .orderBy("id", "desc")
      .limit(most);
  }

  /** All jobs with files that did not end before a time. */
  async withUploads(
    since: string,
  ): Promise<Pick<JobRow, "id" | "uploads" | "state">[]> {
    return this.database
      .read("jobs")
      .select("id", "uploads", "state")
      .whereNot({ uploads: "[]" })
      .where((query) => query.whereNull("ended").orWhere("ended", ">", since));
  }

  /** Changes a job that is still under way; one that has ended stays as it ended. */
  async set(id: number, change: Partial<JobRow>): Promise<boolean> {
    const ended =
      change.state && !["queued", "running"].includes(change.state)
        ? { ended: now() }
        : {};
    const changed = await this.database.write((trx) =>
      trx("jobs")
        .where({ id })
        .whereIn("state", ["queued", "running"])
        .update({ ...change, ...ended }),
    );
    return changed > 0;
  }

  /** Called at start: whatever was running when the process died is interrupted, whatever waited too. */
  async markInterrupted(): Promise<number> {
    return this.database.write((trx) =>
      trx("jobs").whereIn("state", ["running", "queued"]).update({
        state: "interrupted",
        ended: now(),
        error:
          "the server stopped while this was under way; it can be run again",
      }),
    );
  }

  /** Ends a job as done within the transaction that stores its result. @throws NotFoundError where it is not running */
  async finish(
    trx: Knex,
    id: number,
    report: object,
    file?: { name: string; bytes: Uint8Array },
  ): Promise<void> {
    const changed = await trx("jobs")
      .where({ id, state: "running" })
      .update({ state: "done", report: JSON.stringify(report), ended: now() });
    if (!changed) throw new NotFoundError(`job ${id} is no longer running`);
    if (file)
      await trx("deliveries").insert({
        job_id: id,
        name: file.name,
        bytes: Buffer.from(file.bytes),
      });
  }

  async delivery(jobId: number): Promise<{ name: string; bytes: Buffer }> {
    const row = (await this.database
      .read("deliveries")
      .select("name", "bytes")
      .where({ job_id: jobId })
      .first()) as { name: string; bytes: Buffer } | undefined;
    if (!row) throw new NotFoundError(`job ${jobId} left no file`);
    return row;
  }
}
