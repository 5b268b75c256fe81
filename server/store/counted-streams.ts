import type { Knex } from "knex";
import type { Migration } from "./migration";

const TABLES = `
CREATE TABLE new_streams (
  id INTEGER PRIMARY KEY,
  hash TEXT NOT NULL UNIQUE,
  bytes BLOB NOT NULL
);
INSERT INTO new_streams (hash, bytes) SELECT hash, bytes FROM streams;
DROP TABLE streams;
ALTER TABLE new_streams RENAME TO streams;

CREATE TABLE new_assets (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL,
  head INTEGER NOT NULL REFERENCES revisions (id) DEFERRABLE INITIALLY DEFERRED,
  tip INTEGER NOT NULL REFERENCES revisions (id) DEFERRABLE INITIALLY DEFERRED,
  summary TEXT NOT NULL DEFAULT '{}',
  picture BLOB,
  changed TEXT NOT NULL
);
INSERT INTO new_assets (id, name, head, tip, picture, changed) SELECT id, name, head, tip, picture, changed FROM assets;
DROP TABLE assets;
ALTER TABLE new_assets RENAME TO assets;
CREATE INDEX assets_head ON assets (head);
CREATE INDEX assets_tip ON assets (tip);

CREATE INDEX revisions_old_parent ON revisions (parent_id);
CREATE TABLE new_revisions (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  asset_id INTEGER NOT NULL REFERENCES assets (id) ON DELETE CASCADE,
  parent_id INTEGER REFERENCES revisions (id) DEFERRABLE INITIALLY DEFERRED,
  number INTEGER NOT NULL,
  title TEXT NOT NULL,
  document TEXT NOT NULL,
  made TEXT NOT NULL
);
WITH RECURSIVE line (id, number) AS (
  SELECT id, 1 FROM revisions WHERE parent_id IS NULL
  UNION ALL SELECT r.id, line.number + 1 FROM revisions r JOIN line ON r.parent_id = line.id
)
INSERT INTO new_revisions (id, asset_id, parent_id, number, title, document, made)
  SELECT r.id, r.asset_id, r.parent_id, COALESCE(line.number, 1), r.title, r.document, r.made
  FROM revisions r LEFT JOIN line ON line.id = r.id;
DROP TABLE revisions;
ALTER TABLE new_revisions RENAME TO revisions;
CREATE INDEX revisions_asset ON revisions (asset_id);
CREATE INDEX revisions_parent ON revisions (parent_id);

CREATE TABLE new_jobs (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  asset_id INTEGER NOT NULL REFERENCES assets (id) ON DELETE CASCADE,
  revision_id INTEGER NOT NULL REFERENCES revisions (id) ON DELETE CASCADE,
  operation TEXT NOT NULL,
  options TEXT NOT NULL,
  uploads TEXT NOT NULL,
  state TEXT NOT NULL,
  error TEXT,
  report TEXT,
  made TEXT NOT NULL,
  ended TEXT
);
INSERT INTO new_jobs SELECT id, asset_id, revision_id, operation, options, '[]', state, error, report, made, ended FROM jobs;
DROP TABLE jobs;
ALTER TABLE new_jobs RENAME TO jobs;
CREATE INDEX jobs_asset ON jobs (asset_id);
CREATE INDEX jobs_revision ON jobs (revision_id);
CREATE INDEX jobs_state ON jobs (state);

CREATE TABLE new_snapshots (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  asset_id INTEGER NOT NULL REFERENCES assets (id) ON DELETE CASCADE,
  revision_id INTEGER NOT NULL REFERENCES revisions (id) ON DELETE CASCADE,
  name TEXT NOT NULL,
  picture BLOB,
  made TEXT NOT NULL
);
INSERT INTO new_snapshots SELECT id, asset_id, revision_id, name, picture, made FROM snapshots;
DROP TABLE snapshots;
ALTER TABLE new_snapshots RENAME TO snapshots;
CREATE INDEX snapshots_asset ON snapshots (asset_id);
CREATE INDEX snapshots_revision ON snapshots (revision_id);

CREATE TABLE revision_streams (
  revision_id INTEGER NOT NULL REFERENCES revisions (id) ON DELETE CASCADE,
  stream_id INTEGER NOT NULL REFERENCES streams (id),
  PRIMARY KEY (revision_id, stream_id)
) WITHOUT ROWID;
CREATE INDEX revision_streams_stream ON revision_streams (stream_id);

CREATE TABLE settings (
  name TEXT PRIMARY KEY,
  value TEXT NOT NULL
);
`;

/** Which revision names which stream, as rows of that table; streams that are not there are left to the check. */
async function count(knex: Knex): Promise<void> {
  const revisions = (await knex("revisions").select("id")) as { id: number }[];
  for (const { id } of revisions) {
    const { document } = (await knex("revisions")
      .select("document")
      .where({ id })
      .first()) as { document: string };
    const hashes = new Set(
      [...document.matchAll(/"hash":"([0-9a-f]{64})"/g)].map(
        ([, hash]) => hash,
      ),
    );
    for (const hash of hashes)
      await knex.raw(
        "INSERT INTO revision_streams SELECT ?, id FROM streams WHERE hash = ?",
        [id, hash],
      );
  }
}

/**
 * A table of which revision names which stream, numbers of revisions, what the list of assets shows, foreign keys
 * throughout, and room that is given back. Tables are built anew, as SQLite adds no foreign keys to old ones.
 */
export const countedStreams: Migration = {
  name: "003-counted-streams",
  config: { transaction: false },
  async up(knex) {
    await knex.raw("PRAGMA foreign_keys = OFF");
    await knex.raw("BEGIN IMMEDIATE");
    try {
      for (const statement of TABLES.split(";\n"))
        if (statement.trim()) await knex.raw(statement);
      await count(knex);
      await knex.raw("COMMIT");
    } catch (error) {
      await knex.raw("ROLLBACK");
      throw error;
    } finally {
      await knex.raw("PRAGMA foreign_keys = ON");
    }
    const [{ auto_vacuum }] = (await knex.raw("PRAGMA auto_vacuum")) as {
      auto_vacuum: number;
    }[];
    if (auto_vacuum === 2) return;
    // A file that could not give room back before learns it by being written anew.
    await knex.raw("PRAGMA auto_vacuum = INCREMENTAL");
    await knex.raw("VACUUM");
  },
  down() {
    return Promise.reject(
      new Error("a store whose streams are counted does not go back"),
    );
  },
};
