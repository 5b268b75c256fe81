import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { DeliveryProfile } from "../../core/asset/profile";
import { createAsset, createPart } from "../../core/asset/asset";
import { cube, sphere } from "../../tests/shapes";
import { ConflictError, NotFoundError } from "./errors";
import { Store } from "./store";

let folder = "";
let store: Store;
const box = createAsset("Box", [createPart("box", 0, { source: cube() })]);

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "arnik-store-"));
  store = await Store.open(folder);
});
afterEach(async () => {
  await store.close();
  rmSync(folder, { recursive: true, force: true });
});

describe("revisions", () => {
  it("come back as they were stored, with equal streams kept once", async () => {
    const row = await store.createAsset(box, "began");
    const twice = {
      ...box,
      parts: [...box.parts, createPart("copy", 1, { source: cube() })],
    };
    const revision = await store.commit(row.id, row.head, twice, "copied");
    const back = await store.load(revision);
    expect([...back.parts[1].source!.positions]).toEqual([...cube().positions]);
    expect(back.parts[0].source!.positions).toBe(
      back.parts[1].source!.positions,
    );
    expect((await store.revision(revision)).number).toBe(2);
  });

  it("refuse a writer who worked on an older one, whole", async () => {
    const row = await store.createAsset(box, "began");
    await store.commit(row.id, row.head, { ...box, name: "First" }, "one");
    const late = {
      ...box,
      parts: [createPart("late", 0, { source: sphere() })],
    };
    await expect(
      store.commit(row.id, row.head, late, "two"),
    ).rejects.toBeInstanceOf(ConflictError);
    expect((await store.asset(row.id)).name).toBe("First");
  });

  it("go back and forth, and a new one cuts off what was undone", async () => {
    const row = await store.createAsset(box, "began");
    const second = await store.commit(
      row.id,
      row.head,
      { ...box, name: "Two" },
      "two",
    );
    const third = await store.commit(
      row.id,
      second,
      { ...box, name: "Three" },
      "three",
    );
    await store.step(row.id, third, "undo");
    await store.step(row.id, second, "undo");
    expect((await store.asset(row.id)).name).toBe("Box");
    await expect(store.step(row.id, row.head, "undo")).rejects.toBeInstanceOf(
      NotFoundError,
    );
    await store.step(row.id, row.head, "redo");
    expect((await store.asset(row.id)).head).toBe(second);
    const fourth = await store.commit(
      row.id,
      second,
      { ...box, name: "Four" },
      "four",
    );
    await expect(store.step(row.id, fourth, "redo")).rejects.toBeInstanceOf(
      NotFoundError,
    );
    expect(await store.documentOf(third)).toMatchObject({ name: "Three" });
  });

  it("are written whole or not at all", async () => {
    const row = await store.createAsset(box, "began");
    const failing = store.commit(
      row.id,
      row.head,
      { ...box, name: "Half" },
      "half",
      () => Promise.reject(new Error("disk full")),
    );
    await expect(failing).rejects.toThrow("disk full");
    expect(await store.asset(row.id)).toMatchObject({
      name: "Box",
      head: row.head,
    });
  });

  it("leave no stream behind when their asset is deleted", async () => {
    const row = await store.createAsset(box, "began");
    const other = await store.createAsset({ ...box, name: "Other" }, "began");
    const only = await store.commit(
      row.id,
      row.head,
      createAsset("Ball", [createPart("ball", 0, { source: sphere() })]),
      "ball",
    );
    const hash = (await store.documentOf(only)).parts[0].source!.streams
      .positions!.hash;
    await store.deleteAsset(row.id);
    await expect(store.streams.bytes(hash)).rejects.toBeInstanceOf(
      NotFoundError,
    );
    expect((await store.load(other.head)).parts).toHaveLength(1);
  });
});

describe("jobs", () => {
  it("that were under way when the process died are interrupted", async () => {
    const row = await store.createAsset(box, "began");
    const job = {
      asset_id: row.id,
      revision_id: row.head,
      operation: "bake/maps",
      options: "{}",
      uploads: "[]",
    };
    const [running, queued, done] = [
      await store.jobs.add(job),
      await store.jobs.add(job),
      await store.jobs.add(job),
    ];
    await store.jobs.set(running.id, { state: "running" });
    await store.jobs.set(done.id, { state: "done" });
    expect(await store.jobs.markInterrupted()).toBe(2);
    expect((await store.jobs.of(row.id)).map((each) => each.state)).toEqual([
      "done",
      "interrupted",
      "interrupted",
    ]);
    expect((await store.jobs.get(queued.id)).error).toMatch(/run again/);
  });

  it("and pictures and files are asked for by number", async () => {
    const row = await store.createAsset(box, "began");
    expect(await store.picture(row.id)).toBeNull();
    await store.setPicture(row.id, new Uint8Array([1, 2]));
    expect([...(await store.picture(row.id))!]).toEqual([1, 2]);
    await expect(store.jobs.delivery(5)).rejects.toBeInstanceOf(NotFoundError);
    await expect(store.asset(99)).rejects.toThrow(/no asset 99/);
  });
});

describe("delivery profiles", () => {
  it("are kept by their names, exchanged, and taken from the list", async () => {
    const one: DeliveryProfile = {
      name: "Harbour engine",
      upAxis: "z",
      unit: 0.01,
      greenUp: false,
    };
    const other = { ...one, name: "Attic", ship: { obj: false } };
    await store.profiles.keep(one);
    await store.profiles.keep(other);
    expect(await store.profiles.list()).toEqual([other, one]);
    const changed = { ...one, greenUp: true };
    await store.profiles.keep(changed);
    expect(await store.profiles.list()).toEqual([other, changed]);
    await store.profiles.remove("Attic");
    await store.profiles.remove("nobody's");
    expect(await store.profiles.list()).toEqual([changed]);
    for (let n = 1; n < 200; n++)
      await store.profiles.keep({ ...one, name: `profile ${n}` });
    await expect(
      store.profiles.keep({ ...one, name: "one more" }),
    ).rejects.toThrow("200 profiles are kept");
    await store.profiles.keep(one);
  });
});

describe("snapshots", () => {
  it("name a revision, keep its picture, and are restored as a new one", async () => {
    const row = await store.createAsset(box, "began");
    const ball = createAsset("Ball", [
      createPart("ball", 0, { source: sphere() }),
    ]);
    const head = await store.commit(row.id, row.head, ball, "became a ball");
    await store.snapshots.add(
      row.id,
      row.head,
      "the box",
      new Uint8Array([1, 2]),
    );
    const [snapshot] = await store.snapshots.of(row.id);
    expect(snapshot).toMatchObject({ name: "the box", revision_id: row.head });
    expect([...(await store.snapshots.picture(snapshot.id))!]).toEqual([1, 2]);
    await store.restore(row.id, head, snapshot.revision_id);
    const now = await store.asset(row.id);
    expect(now.name).toBe("Box");
    expect((await store.revision(now.head)).number).toBe(3);
    const back = await store.load(now.head);
    expect([...back.parts[0].source!.positions]).toEqual([...cube().positions]);
    expect((await store.revisions(row.id)).map(({ title }) => title)).toEqual([
      "Restored: began",
      "became a ball",
      "began",
    ]);
    await store.step(row.id, now.head, "undo");
    expect((await store.asset(row.id)).name).toBe("Ball");
    await store.snapshots.remove(row.id, snapshot.id);
    expect(await store.snapshots.of(row.id)).toEqual([]);
  });

  it("of another asset, or restoring on an older state, are refused", async () => {
    const [a, b] = [
      await store.createAsset(box, "a"),
      await store.createAsset(box, "b"),
    ];
    await expect(
      store.snapshots.add(a.id, b.head, "x", null),
    ).rejects.toBeInstanceOf(NotFoundError);
    await expect(store.restore(a.id, a.head, b.head)).rejects.toBeInstanceOf(
      NotFoundError,
    );
    await store.commit(a.id, a.head, box, "on");
    await expect(store.restore(a.id, a.head, a.head)).rejects.toBeInstanceOf(
      ConflictError,
    );
  });
});

describe("all that an asset holds", () => {
  it("comes back: marks, IDs, pictures, repeats, reports", async () => {
    const rich = {
      ...box,
      palette: [{ name: "wood", colour: "#aa7744" }],
      references: [
        {
          name: "a.png",
          kind: "png" as const,
          width: 2,
          height: 2,
          plane: "front" as const,
          size: 1,
          at: [0, 0, 0] as const,
          opacity: 0.5,
          bytes: new Uint8Array([9, 8, 7]),
        },
      ],
      parts: [
        createPart("box", 0, {
          group: "case",
          share: 0.25,
          source: {
            ...cube(),
            ids: new Uint16Array(6).fill(1),
            sourceOnly: Uint8Array.from([0, 1, 0, 0, 0, 0]),
            visibility: new Uint8Array(6).fill(128),
            creases: new Uint8Array(24).fill(20),
          },
          dense: sphere(),
        }),
      ],
    };
    const row = await store.createAsset(rich, "rich");
    const back = await store.load(row.head);
    expect(back).toEqual(rich);
  });
});
