import type { Migration } from "./migration";
import type { Knex } from "knex";
import { countedStreams } from "./counted-streams";

/** In order; a migration that has been released is never changed. */
const MIGRATIONS: readonly Migration[] = [
  {
    name: "001-assets-revisions-streams-jobs",
    async up(knex) {
      await knex.schema.createTable("streams", (table) => {
        table.string("hash", 64).primary();
        table.binary("bytes").notNullable();
      });
      await knex.schema.createTable("assets", (table) => {
        table.increments("id");
        table.string("name").notNullable();
        table.integer("head").notNullable().defaultTo(0);
        table.integer("tip").notNullable().defaultTo(0);
        table.binary("picture");
        table.string("changed").notNullable();
      });
      await knex.schema.createTable("revisions", (table) => {
        table.increments("id");
        table
          .integer("asset_id")
          .notNullable()
          .references("assets.id")
          .onDelete("CASCADE")
          .index();
        table.integer("parent_id");
        table.string("title").notNullable();
        table.text("document").notNullable();
        table.string("made").notNullable();
      });
      await knex.schema.createTable("jobs", (table) => {
        table.increments("id");
        table
          .integer("asset_id")
          .notNullable()
          .references("assets.id")
          .onDelete("CASCADE")
          .index();
        table.integer("revision_id").notNullable();
        table.string("operation").notNullable();
        table.text("options").notNullable();
        table.text("uploads").notNullable();
        table.string("state").notNullable();
        table.text("error");
        table.text("report");
        table.string("made").notNullable();
        table.string("ended");
      });
      await knex.schema.createTable("deliveries", (table) => {
        table
          .integer("job_id")
          .primary()
          .references("jobs.id")
          .onDelete("CASCADE");
        table.string("name").notNullable();
        table.binary("bytes").notNullable();
      });
    },
    async down(knex) {
      for (const table of [
        "deliveries",
        "jobs",
        "revisions",
        "assets",
        "streams",
      ])
        await knex.schema.dropTable(table);
    },
  },
  {
    name: "002-snapshots",
    async up(knex) {
      await knex.schema.createTable("snapshots", (table) => {
        table.increments("id");
        table
          .integer("asset_id")
          .notNullable()
          .references("assets.id")
          .onDelete("CASCADE")
          .index();
        table.integer("revision_id").notNullable();
        table.string("name").notNullable();
        table.binary("picture");
        table.string("made").notNullable();
      });
    },
    async down(knex) {
      await knex.schema.dropTable("snapshots");
    },
  },
  countedStreams,
  {
    name: "004-profiles",
    async up(knex) {
      await knex.schema.createTable("profiles", (table) => {
        table.increments("id");
        table.string("name").notNullable().unique();
        table.text("profile").notNullable();
        table.string("changed").notNullable();
      });
    },
    async down(knex) {
      await knex.schema.dropTable("profiles");
    },
  },
];

export const migrationSource: Knex.MigrationSource<Migration> = {
  getMigrations: () => Promise.resolve([...MIGRATIONS]),
  getMigrationName: (migration) => migration.name,
  getMigration: (migration) => Promise.resolve(migration),
};
