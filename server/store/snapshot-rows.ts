import { NotFoundError } from "./errors";
import type { Database } from "./database";
import type { SnapshotRow } from "./rows";
import { now } from "./rows";

/** Names, and pictures where there are any, of revisions. */
export class SnapshotRows {
  constructor(private readonly database: Database) {}

  /** @throws NotFoundError where the asset has no such revision */
  async add(
    assetId: number,
    revision: number,
    name: string,
    picture: Uint8Array | null,
  ): Promise<void> {
    await this.database.write(async (trx) => {
      const there = (await trx("revisions")
        .select("id")
        .where({ id: revision, asset_id: assetId })
        .first()) as unknown;
      if (!there)
        throw new NotFoundError(
          `there is no revision ${revision} of this asset`,
        );
      await trx("snapshots").insert({
        asset_id: assetId,
        revision_id: revision,
        name,
        picture: picture && Buffer.from(picture),
        made: now(),
      });
    });
  }

  async of(assetId: number): Promise<SnapshotRow[]> {
    return this.database
      .read("snapshots")
      .select("id", "revision_id", "name", "made")
      .where({ asset_id: assetId })
      .orderBy("id", "desc");
  }

  async picture(id: number): Promise<Buffer | null> {
    const row = (await this.database
      .read("snapshots")
      .select("picture")
      .where({ id })
      .first()) as { picture: Buffer | null } | undefined;
    return row?.picture ?? null;
  }

  async remove(assetId: number, id: number): Promise<void> {
    await this.database.write((trx) =>
      trx("snapshots").where({ id, asset_id: assetId }).delete(),
    );
  }
}
