import type { Knex } from "knex";
import { ConflictError, NotFoundError } from "./errors";
import type { AssetRow, RevisionRow } from "./rows";

export async function assetRow(knex: Knex, id: number): Promise<AssetRow> {
  const row = (await knex("assets")
    .select("id", "name", "head", "tip", "changed")
    .where({ id })
    .first()) as AssetRow | undefined;
  if (!row) throw new NotFoundError(`there is no asset ${id}`);
  return row;
}

/** An asset that is still where whoever changes it saw it. @throws ConflictError, NotFoundError */
export async function headAt(trx: Knex, assetId: number, base: number) {
  const row = await assetRow(trx, assetId);
  if (row.head !== base) throw new ConflictError();
  const { number, parent_id: parent } = (await trx("revisions")
    .select("number", "parent_id")
    .where({ id: row.head })
    .first()) as RevisionRow;
  return { row, number, parent };
}

/** The revision after the present one on the way to the newest. */
export async function nextOnWay(
  trx: Knex,
  row: AssetRow,
): Promise<number | null> {
  const [next] = (await trx.raw(
    "WITH RECURSIVE line (id, parent) AS (SELECT id, parent_id FROM revisions WHERE id = ? UNION ALL " +
      "SELECT r.id, r.parent_id FROM revisions r JOIN line ON r.id = line.parent WHERE line.parent <> ?) " +
      "SELECT id FROM line WHERE parent = ? LIMIT 1",
    [row.tip, row.head, row.head],
  )) as { id: number }[];
  return next?.id ?? null;
}
