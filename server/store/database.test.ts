import { spawnSync } from "node:child_process";
import {
  copyFileSync,
  existsSync,
  mkdtempSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
  readFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import knexFactory from "knex";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { DeliveryProfile } from "../../core/asset/profile";
import { createAsset, createPart } from "../../core/asset/asset";
import { seededRandom } from "../../core/base/random";
import { cube, sphere } from "../../tests/shapes";
import { committedFrames } from "../../tests/write-ahead-log";
import { DiskFullError, NotFoundError } from "./errors";
import { checkStore } from "./check";
import { FolderLock } from "./folder-lock";
import { migrationSource } from "./migrations";
import { repairStore } from "./repair";
import { Store, storeFile } from "./store";

let folder = "";
let store: Store;
const box = createAsset("Box", [createPart("box", 0, { source: cube() })]);
const ball = (size: number) =>
  createAsset("Ball", [createPart("ball", 0, { source: sphere(8, 10, size) })]);

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "arnik-database-"));
  store = await Store.open(folder, "a test");
});
afterEach(async () => {
  await store.close();
  rmSync(folder, { recursive: true, force: true });
});

describe("one way into the data", () => {
  it("a process that has loaded two copies of the SQLite library refuses to run", () => {
    const own = join(
      process.cwd(),
      "node_modules/better-sqlite3/build/Release/better_sqlite3.node",
    );
    const copy = join(folder, "better_sqlite3.node");
    copyFileSync(own, copy);
    const script = join(process.cwd(), "dist/store-thread.mjs");
    const starter = join(folder, "start.mjs");
    writeFileSync(
      starter,
      `import { Worker } from "node:worker_threads";
       import { createRequire } from "node:module";
       const Database = createRequire(${JSON.stringify(join(process.cwd(), "x.js"))})("better-sqlite3");
       new Database(":memory:", { nativeBinding: ${JSON.stringify(copy)} });
       const workerData = { folder: ${JSON.stringify(join(folder, "two"))}, what: "x", joins: false };
       const worker = new Worker(${JSON.stringify(script)}, { workerData });
       worker.on("message", (m) => { console.log(JSON.stringify(m)); process.exit(); });
       worker.postMessage({ call: 1, method: "list", args: [] });`,
    );
    const started = spawnSync(process.execPath, [starter], {
      encoding: "utf8",
    });
    expect(started.stdout + started.stderr).toMatch(
      /loaded 2 copies of the SQLite library/,
    );
  });

  it("a folder has one user, and the second is told who", async () => {
    await expect(FolderLock.take(folder, "another")).rejects.toThrow(
      new RegExp(`in use by a test \\(process ${process.pid}, since .* UTC\\)`),
    );
    await store.close();
    const lock = await FolderLock.take(folder, "another");
    await lock.release();
    store = await Store.open(folder);
  });

  it("a store of a newer Arnik is left alone", async () => {
    await store.database.write((trx) =>
      trx("knex_migrations").insert({
        name: "999-tomorrow",
        batch: 9,
        migration_time: 0,
      }),
    );
    await expect(Store.join(folder, null)).rejects.toThrow(/newer Arnik/);
    await store.database.write((trx) =>
      trx("knex_migrations").where({ name: "999-tomorrow" }).delete(),
    );
  });
});

describe("writers", () => {
  it("of several connections wait for each other, and lose nothing", async () => {
    const others = [
      await Store.join(folder, store.owner),
      await Store.join(folder, store.owner),
    ];
    const rows = await Promise.all(
      [store, ...others].map((each) => each.createAsset(box, "began")),
    );
    await Promise.all(
      [store, ...others].map(async (each, k) => {
        let head = rows[k].head;
        for (let n = 0; n < 30; n++) {
          // Reads first and writes then: this is what a late BEGIN could not do.
          await each.asset(rows[(k + 1) % 3].id);
          head = await each.commit(
            rows[k].id,
            head,
            { ...box, name: `${k}.${n}` },
            "renamed",
          );
        }
      }),
    );
    for (const other of others) await other.close();
    expect((await store.list()).map(({ name }) => name)).toEqual([
      "0.29",
      "1.29",
      "2.29",
    ]);
  });

  it("of a server that has ended are turned away", async () => {
    const row = await store.createAsset(box, "began");
    const late = await Store.join(folder, "the owner before");
    await expect(
      late.commit(row.id, row.head, ball(1), "late"),
    ).rejects.toThrow(/has ended meanwhile/);
    await late.close();
    expect((await store.asset(row.id)).head).toBe(row.head);
  });

  it("say that the disk is full, write nothing, and go on when there is room", async () => {
    const row = await store.createAsset(box, "began");
    const pages = store.database.pragma("page_count", "page_count");
    store.database.pragma(`max_page_count = ${pages}`, "max_page_count");
    await expect(
      store.commit(
        row.id,
        row.head,
        createAsset("Large", [
          createPart("large", 0, { source: sphere(90, 90) }),
        ]),
        "grew",
      ),
    ).rejects.toBeInstanceOf(DiskFullError);
    expect((await store.asset(row.id)).head).toBe(row.head);
    store.database.pragma("max_page_count = 1000000", "max_page_count");
    const head = await store.commit(row.id, row.head, ball(1), "grew");
    expect((await store.asset(row.id)).head).toBe(head);
  });
});

describe("streams", () => {
  const named = async () =>
    Number(
      (
        (await store.database
          .read("streams")
          .count({ n: "*" })
          .first()) as unknown as { n: number }
      ).n,
    );

  it("are cleaned away with the last revision that names them, and no sooner", async () => {
    const first = await store.createAsset(box, "began");
    const second = await store.createAsset(box, "began");
    const all = await named();
    await store.deleteAsset(first.id);
    expect(await named()).toBe(all);
    expect((await store.load(second.head)).parts).toHaveLength(1);
    await store.deleteAsset(second.id);
    expect(await named()).toBe(0);
  });

  it("put ahead and cleaned away before their revision came are stored again", async () => {
    const row = await store.createAsset(box, "began");
    const other = await Store.join(folder, store.owner);
    const put = other.streams.putAhead.bind(other.streams);
    other.streams.putAhead = async (blobs) => {
      await put(blobs);
      expect(await store.streams.dropAllUnnamed()).toBeGreaterThan(0);
    };
    const head = await other.commit(row.id, row.head, ball(2), "became a ball");
    await other.close();
    const back = await store.load(head);
    expect(back.parts[0].source!.positions).toEqual(
      ball(2).parts[0].source!.positions,
    );
  });

  it("named by a revision can't be taken away", async () => {
    await store.createAsset(box, "began");
    await expect(
      store.database.write((trx) => trx("streams").delete()),
    ).rejects.toThrow(/FOREIGN KEY/);
  });

  it("give their room back to the disk", async () => {
    const row = await store.createAsset(
      createAsset("Large", [
        createPart("large", 0, { source: sphere(300, 300) }),
      ]),
      "began",
    );
    store.database.checkpoint();
    const before = statSync(storeFile(folder)).size;
    await store.deleteAsset(row.id);
    await store.database.giveBack();
    store.database.checkpoint();
    expect(statSync(storeFile(folder)).size).toBeLessThan(before / 2);
  });
});

describe("the list of assets", () => {
  it("follows commits, undo and restoring without reading documents", async () => {
    const row = await store.createAsset(box, "began");
    const head = await store.commit(row.id, row.head, ball(1), "ball");
    const shown = async () => (await store.list())[0];
    expect(await shown()).toMatchObject({
      name: "Ball",
      summary: { parts: 1, source: 140 },
    });
    await store.step(row.id, head, "undo");
    expect(await shown()).toMatchObject({
      name: "Box",
      summary: { source: 12 },
    });
    await store.restore(row.id, row.head, head);
    expect(await shown()).toMatchObject({ name: "Ball" });
  });
});

describe("a store of the first layout", () => {
  it("is brought up to date with everything in it", async () => {
    const old = mkdtempSync(join(tmpdir(), "arnik-old-"));
    const migrations = (await migrationSource.getMigrations([])).slice(0, 2);
    const knex = knexFactory({
      client: "better-sqlite3",
      connection: { filename: storeFile(old) },
      useNullAsDefault: true,
    });
    await knex.migrate.latest({
      migrationSource: {
        ...migrationSource,
        getMigrations: () => Promise.resolve(migrations),
      },
    });
    const row = await store.createAsset(box, "began");
    const second = await store.commit(row.id, row.head, ball(1), "ball");
    const { read } = store.database;
    for (const { hash, bytes } of (await read("streams")) as {
      hash: string;
      bytes: Buffer;
    }[])
      await knex("streams").insert({ hash, bytes });
    await knex("assets").insert({
      id: row.id,
      name: "Ball",
      head: second,
      tip: second,
      changed: "then",
    });
    for (const revision of (await read("revisions").select(
      "id",
      "asset_id",
      "parent_id",
      "title",
      "document",
      "made",
    )) as object[])
      await knex("revisions").insert(revision);
    await knex.destroy();
    const opened = await Store.open(old);
    expect(await opened.list()).toMatchObject([
      { name: "Ball", head: second, summary: { parts: 1, source: 140 } },
    ]);
    expect((await opened.revision(second)).number).toBe(2);
    expect((await opened.load(second)).parts[0].source!.positions).toEqual(
      ball(1).parts[0].source!.positions,
    );
    expect((await checkStore(opened.database, true)).troubles).toEqual([]);
    await opened.deleteAsset(row.id);
    expect(await opened.list()).toEqual([]);
    await opened.close();
    rmSync(old, { recursive: true });
  });
});

describe("a power cut", () => {
  /** The files as a power cut would leave them, cut at a length of the log. */
  function cut(at: number): string {
    const to = mkdtempSync(join(tmpdir(), "arnik-cut-"));
    copyFileSync(storeFile(folder), storeFile(to));
    copyFileSync(`${storeFile(folder)}-wal`, `${storeFile(to)}-wal`);
    truncateSync(`${storeFile(to)}-wal`, at);
    return to;
  }

  it("at any length of the log keeps every revision that was acknowledged before it", async () => {
    const random = seededRandom(7);
    const row = await store.createAsset(box, "began");
    let head = row.head;
    const wal = `${storeFile(folder)}-wal`;
    for (let n = 0; n < 12; n++) {
      const acknowledged = committedFrames(wal);
      const before = head;
      head = await store.commit(
        row.id,
        head,
        { ...ball(1 + n), name: `${n}` },
        "next",
      );
      const after = committedFrames(wal);
      // A log that was begun anew in between holds nothing of before.
      if (after < acknowledged) continue;
      for (let k = 0; k < 3; k++) {
        const at = Math.floor(
          acknowledged + random() * (after - acknowledged + 1),
        );
        const left = cut(at);
        const opened = await Store.open(left);
        const found = (await opened.asset(row.id)).head;
        expect(at >= after ? [head] : [before, head]).toContain(found);
        await opened.load(found);
        expect((await checkStore(opened.database, true)).troubles).toEqual([]);
        await opened.close();
        rmSync(left, { recursive: true });
      }
    }
  });
});

const own: DeliveryProfile = {
  name: "Harbour engine",
  upAxis: "z",
  unit: 0.01,
  greenUp: false,
  ship: { obj: false },
};

describe("care of the store", () => {
  it("finds nothing wrong with a sound one, and says what could be given back", async () => {
    await store.createAsset(box, "began");
    expect(await checkStore(store.database, true)).toMatchObject({
      assets: 1,
      revisions: 1,
      unnamedStreams: 0,
      troubles: [],
    });
  });

  it("names damaged streams and the revisions that miss them; repairing keeps the rest", async () => {
    const row = await store.createAsset(box, "began");
    const other = await store.createAsset({ ...box, name: "Other" }, "began");
    const head = await store.commit(row.id, row.head, ball(1), "ball");
    await store.snapshots.add(row.id, row.head, "kept", null);
    await store.profiles.keep(own);
    const { positions } = (await store.documentOf(head)).parts[0].source!
      .streams;
    await store.database.write((trx) =>
      trx("streams")
        .where({ hash: positions!.hash })
        .update({ bytes: Buffer.from("other bytes") }),
    );
    const { troubles } = await checkStore(store.database, true);
    expect(troubles.map(({ kind }) => kind)).toEqual(["damaged", "missing"]);
    expect(troubles[1].what).toContain(`revision ${head} of asset ${row.id}`);
    await store.close();
    const { kept, lost, before } = await repairStore(folder);
    expect(kept).toMatchObject({ assets: 2, revisions: 2, snapshots: 1 });
    expect(lost.join("; ")).toMatch(
      new RegExp(`goes back from revision ${head} to ${row.head}`),
    );
    expect(existsSync(before)).toBe(true);
    store = await Store.open(folder);
    expect(await store.profiles.list()).toEqual([own]);
    expect((await checkStore(store.database, true)).troubles).toEqual([]);
    expect(await store.list()).toMatchObject([
      { id: row.id, name: "Box", head: row.head },
      { id: other.id, name: "Other" },
    ]);
    await expect(store.revision(head)).rejects.toBeInstanceOf(NotFoundError);
  });

  it("repairs a file with pages overwritten, keeping what can still be read", async () => {
    for (let n = 0; n < 6; n++)
      await store.createAsset(
        createAsset(`Ball ${n}`, [
          createPart("ball", 0, { source: sphere(20 + n, 30 + n) }),
        ]),
        "began",
      );
    await store.close();
    const file = storeFile(folder);
    const bytes = readFileSync(file);
    // The last pages hold streams; the first ones what names them.
    bytes.fill(0x5a, bytes.length - 8 * 4096, bytes.length - 4 * 4096);
    writeFileSync(file, bytes);
    const { kept, lost } = await repairStore(folder);
    expect(lost.length).toBeGreaterThan(0);
    expect(kept.assets).toBeGreaterThan(0);
    store = await Store.open(folder);
    expect((await checkStore(store.database, true)).troubles).toEqual([]);
  });

  it("copies the store while it is written, as of one moment", async () => {
    const row = await store.createAsset(box, "began");
    let head = row.head;
    let going = true;
    const writing = (async () => {
      while (going) {
        head = await store.commit(
          row.id,
          head,
          { ...box, name: `${head}` },
          "on",
        );
        await new Promise((resolve) => setImmediate(resolve));
      }
    })();
    const reader = await Store.join(folder, null);
    const copy = mkdtempSync(join(tmpdir(), "arnik-copy-"));
    await reader.database.backup(storeFile(copy));
    going = false;
    await writing;
    await reader.close();
    const opened = await Store.open(copy);
    expect((await checkStore(opened.database, true)).troubles).toEqual([]);
    expect(await opened.list()).toHaveLength(1);
    await opened.close();
    rmSync(copy, { recursive: true });
  });
});
