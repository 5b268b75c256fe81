import { createPinia, setActivePinia } from "pinia";
import { beforeEach, describe, expect, it, vi } from "vitest";
import * as api from "./api";
import { Refusal } from "./api";
import type { AssetState } from "../shared/types";
import { useWorkshop } from "./workshop";

/** A call that waits for its answer. */
interface Held {
  line: string;
  body: { revision?: number; operation?: string } | undefined;
  answer: (value: unknown) => void;
  refuse: (error: Error) => void;
}
let held: Held[] = [];
/** Sends one file to its end, or the wrong way. */
let arrived: (() => void)[] = [];

const settle = () => new Promise((resolve) => setTimeout(resolve));
/** Lets what waits go on, then the newest call of a line, which must have been made. */
async function next(line: string): Promise<Held> {
  await settle();
  const at = held.findIndex((each) => each.line === line);
  expect(at, `${line} of ${held.map((each) => each.line)}`).not.toBe(-1);
  return held.splice(at, 1)[0];
}
const asset = (id: number, revision: number, more: Partial<AssetState> = {}) =>
  ({
    id,
    revision,
    title: `state ${revision}`,
    canUndo: true,
    canRedo: true,
    document: { name: `asset ${id}` },
    standing: [],
    jobs: [],
    ...more,
  }) as unknown as AssetState;

class Events {
  close() {}
}

/** The workshop with an asset on the table. */
async function opened(id: number, revision: number) {
  const workshop = useWorkshop();
  const opening = workshop.open(id);
  (await next(`GET assets/${id}`)).answer(asset(id, revision));
  if (!workshop.operations.length) (await next("GET operations")).answer([]);
  await opening;
  return workshop;
}

beforeEach(() => {
  held = [];
  arrived = [];
  setActivePinia(createPinia());
  vi.stubGlobal("EventSource", Events);
  vi.spyOn(api, "call").mockImplementation(
    ((method: string, path: string, body: Held["body"]) =>
      new Promise((answer, refuse) =>
        held.push({
          line: `${method} ${path}`,
          body,
          answer: answer as Held["answer"],
          refuse,
        }),
      )) as typeof api.call,
  );
  vi.spyOn(api, "upload").mockImplementation(
    (file, progress) =>
      new Promise((resolve) => {
        progress(0.5);
        arrived.push(() =>
          resolve({ id: `sent ${file.name}`, name: file.name }),
        );
      }),
  );
});

describe("own actions follow one another", () => {
  it("undo asked three times is three steps, each from what the one before made", async () => {
    const workshop = await opened(1, 30);
    for (let times = 0; times < 3; times++) void workshop.step("undo");
    for (const revision of [30, 29, 28]) {
      const call = await next("POST assets/1/undo");
      expect(call.body?.revision).toBe(revision);
      expect(held).toEqual([]);
      expect(workshop.busy).toBe(true);
      call.answer(asset(1, revision - 1));
    }
    await settle();
    expect(workshop.asset?.revision).toBe(27);
    expect(workshop.word).toBe("Back to: state 27");
    expect(workshop.busy).toBe(false);
  });

  it("what waited for one that failed is not done, and the next one is", async () => {
    const workshop = await opened(1, 30);
    void workshop.step("undo");
    void workshop.step("undo");
    (await next("POST assets/1/undo")).refuse(
      new Refusal("changed elsewhere", 409),
    );
    (await next("GET assets/1")).answer(asset(1, 31));
    await settle();
    expect(held).toEqual([]);
    expect(workshop.error).toBe("changed elsewhere");
    expect(workshop.busy).toBe(false);
    void workshop.step("undo");
    const call = await next("POST assets/1/undo");
    expect(call.body?.revision).toBe(31);
    expect(workshop.error).toBe("");
    call.answer(asset(1, 30));
  });

  it("nothing to undo or redo is no trouble", async () => {
    const workshop = await opened(1, 1);
    workshop.asset = asset(1, 1, { canUndo: false, canRedo: false });
    await workshop.step("undo");
    await workshop.step("redo");
    expect(held).toEqual([]);
    expect(workshop.error).toBe("");
  });

  it("the same operation asked twice runs once; another one comes after it", async () => {
    const workshop = await opened(1, 30);
    void workshop.run("reduce/lock", { parts: "a" });
    void workshop.run("reduce/lock", { parts: "a" });
    void workshop.run("reduce/lock", { parts: "b" });
    (await next("POST assets/1/run")).answer({
      asset: asset(1, 31),
      job: null,
    });
    const call = await next("POST assets/1/run");
    expect(call.body).toMatchObject({ revision: 31, options: { parts: "b" } });
    call.answer({ asset: asset(1, 32), job: null });
    await settle();
    expect(held).toEqual([]);
  });
});

describe("an answer belongs to its asset", () => {
  it("of an asset that was left before it came is not shown", async () => {
    const workshop = useWorkshop();
    void workshop.open(1);
    const late = await next("GET assets/1");
    const operations = await next("GET operations");
    await opened(2, 7);
    late.answer(asset(1, 3));
    operations.answer([]);
    await settle();
    expect(workshop.asset?.id).toBe(2);
  });

  it("of an action on an asset that was left says what it did there", async () => {
    const workshop = await opened(1, 30);
    void workshop.run("reduce/lock", {});
    const call = await next("POST assets/1/run");
    workshop.close();
    await opened(2, 7);
    expect(workshop.locked).toBe(false);
    void workshop.step("undo");
    call.answer({ asset: asset(1, 31), job: null });
    const undo = await next("POST assets/2/undo");
    expect(undo.body?.revision).toBe(7);
    expect(workshop.word).toBe("asset 1: state 31");
    undo.answer(asset(2, 6));
    await settle();
    expect(workshop.asset).toMatchObject({ id: 2, revision: 6 });
  });

  it("that was asked for before a newer one came is not shown", async () => {
    const workshop = await opened(1, 30);
    void workshop.refresh();
    const old = await next("GET assets/1");
    void workshop.step("undo");
    (await next("POST assets/1/undo")).answer(asset(1, 29));
    await settle();
    old.answer(asset(1, 30));
    await settle();
    expect(workshop.asset?.revision).toBe(29);
  });
});

describe("pictures of the view", () => {
  it("go with what takes them, and can be done without", async () => {
    const workshop = await opened(1, 30);
    const made: ((files: File[] | Error) => void)[] = [];
    workshop.portray = (operation) =>
      operation === "ship/archive"
        ? (told) =>
            new Promise((resolve, reject) => {
              told(0.5);
              made.push((files) =>
                Array.isArray(files) ? resolve(files) : reject(files),
              );
            })
        : null;
    void workshop.run("survey/count", {});
    (await next("POST assets/1/run")).answer({
      asset: asset(1, 31),
      job: null,
    });
    await settle();
    void workshop.run("ship/archive", {});
    await settle();
    expect(workshop.sending).toMatchObject({
      doing: "Taking pictures",
      share: 0.5,
    });
    made[0]([{ name: "pictures.zip" } as File]);
    await settle();
    expect(workshop.sending).toMatchObject({ doing: "Sending" });
    arrived[0]();
    const call = await next("POST assets/1/run");
    expect(call.body).toMatchObject({
      uploads: [{ id: "sent pictures.zip", name: "pictures.zip" }],
    });
    call.answer({ asset: asset(1, 32), job: null });
    await settle();
    void workshop.run("ship/archive", {});
    await settle();
    made[1](new Error("the view has failed"));
    const without = await next("POST assets/1/run");
    expect(without.body).toMatchObject({ uploads: [] });
    without.answer({ asset: asset(1, 33), job: null });
  });

  it("that are stopped stop the rest", async () => {
    const workshop = await opened(1, 30);
    workshop.portray = () => (_, signal) =>
      new Promise((__, reject) =>
        signal.addEventListener("abort", () => reject(new api.Stopped())),
      );
    void workshop.run("ship/archive", {});
    await settle();
    workshop.sending!.stop();
    await settle();
    expect(workshop.sending).toBe(null);
    expect(held.filter(({ line }) => line.startsWith("POST"))).toEqual([]);
    expect(workshop.error).toBe("");
  });
});

describe("files", () => {
  const file = { name: "scan.ply" } as File;

  it("go to the asset they were chosen for, whatever is shown when they have arrived", async () => {
    const workshop = await opened(1, 30);
    void workshop.send("intake/bring-in", [file], {});
    await settle();
    expect(workshop.sending).toMatchObject({ name: "scan.ply", share: 0.5 });
    expect(workshop.locked).toBe(true);
    workshop.close();
    await opened(2, 7);
    expect(workshop.sending).toBe(null);
    expect(workshop.sendingElsewhere).toMatchObject({
      asset: 1,
      to: "asset 1",
    });
    expect(workshop.locked).toBe(false);
    arrived[0]();
    (await next("GET assets/1")).answer(asset(1, 33));
    const call = await next("POST assets/1/run");
    expect(call.body).toMatchObject({
      revision: 33,
      operation: "intake/bring-in",
      uploads: [{ id: "sent scan.ply", name: "scan.ply" }],
    });
    call.answer({ asset: asset(1, 34), job: null });
    await settle();
    expect(workshop.asset?.id).toBe(2);
    expect(workshop.sendingElsewhere).toBe(null);
    expect(workshop.word).toBe("asset 1: state 34");
  });

  it("that could not be taken elsewhere are told with the asset's name", async () => {
    const workshop = await opened(1, 30);
    void workshop.send("intake/bring-in", [file], {});
    await settle();
    workshop.close();
    await opened(2, 7);
    arrived[0]();
    (await next("GET assets/1")).answer(asset(1, 33));
    (await next("POST assets/1/run")).refuse(new Refusal("no faces", 422));
    await settle();
    expect(workshop.error).toBe("asset 1: no faces");
  });
});

it("a job that ends before the answer of what began it arrives is shown as ended", async () => {
  const workshop = await opened(1, 30);
  const job = (state: string) =>
    ({ id: 7, asset: 1, state, operation: "survey/count" }) as never;
  void workshop.run("survey/count", {});
  const begun = await next("POST assets/1/run");
  // The job is short, the answer to the call is long on its way.
  void workshop.receive(JSON.stringify({ kind: "job", job: job("done") }));
  (await next("GET assets/1")).answer(asset(1, 31, { jobs: [job("done")] }));
  await settle();
  begun.answer({
    asset: asset(1, 30, { jobs: [job("queued")] }),
    job: job("queued"),
  });
  (await next("GET assets/1")).answer(asset(1, 31, { jobs: [job("done")] }));
  await settle();
  expect(workshop.job).toBe(null);
  expect(workshop.asset?.revision).toBe(31);
  expect(workshop.locked).toBe(false);
});

it("a job that ends while an older answer is on its way is shown as ended", async () => {
  const workshop = await opened(1, 30);
  const job = (state: string) =>
    ({ id: 7, asset: 1, state, operation: "survey/count" }) as never;
  // News of the revision: its answer, made before the job was closed, comes late.
  void workshop.receive(JSON.stringify({ kind: "asset", asset: 1 }));
  const late = await next("GET assets/1");
  void workshop.receive(JSON.stringify({ kind: "job", job: job("done") }));
  late.answer(asset(1, 31, { jobs: [job("running")] }));
  (await next("GET assets/1")).answer(asset(1, 31, { jobs: [job("done")] }));
  await settle();
  expect(workshop.job).toBe(null);
  expect(workshop.locked).toBe(false);
});

it("a cancelled job says what is true of it: the route keeps the stages that it made", async () => {
  const workshop = await opened(1, 30);
  for (const [operation, said] of [
    ["bake/maps", "nothing was changed"],
    ["route/run", "the stages made before are kept"],
  ]) {
    const job = { id: 7, asset: 1, state: "cancelled", operation } as never;
    void workshop.receive(JSON.stringify({ kind: "job", job }));
    (await next("GET assets/1")).answer(asset(1, 31));
    await settle();
    expect(workshop.word).toBe(`Cancelled; ${said}`);
  }
});
