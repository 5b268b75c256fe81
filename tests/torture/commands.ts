import { createHash } from "node:crypto";
import { request } from "node:http";
import fc from "fast-check";
import { writeMeshFile } from "../../core/formats/index";
import { sphere } from "../shapes";
import { pause } from "../server-process";
import { verify } from "./after";
import type { Model } from "./model";
import type { AssetAnswer, Rig } from "./rig";

type Step = fc.AsyncCommand<Model, Rig>;
type RunAnswer = { asset: AssetAnswer; job: { id: number } | null };

const meshes = new Map<string, Promise<Uint8Array>>();
/** A small body, or one of 50 000 triangles. */
function mesh(large: boolean): Promise<Uint8Array> {
  const name = large ? "large.ply" : "small.ply";
  if (!meshes.has(name))
    meshes.set(
      name,
      writeMeshFile(name, [
        { name: "body", mesh: large ? sphere(158, 160) : sphere(12, 16) },
      ]),
    );
  return meshes.get(name)!;
}

/** A step of one client: it is begun, and the next command does not wait for it. */
const step = (
  name: string,
  client: number,
  work: (model: Model, rig: Rig) => Promise<void>,
): Step => ({
  check: () => true,
  run(model, rig) {
    rig.act(client, () => work(model, rig));
    return pause(3);
  },
  toString: () => `${name}(${client})`,
});

const create = (client: number) =>
  step("create", client, async (model, rig) => {
    const made = await rig.ask<AssetAnswer>("assets", "POST", { name: "Torn" });
    if (made?.status === 200) model.saw(rig, made.value);
  });

/** An operation on an asset as it is now; what is acknowledged is promised. */
async function operate(
  model: Model,
  rig: Rig,
  at: number,
  call: (revision: number) => { path: string; body: object },
  then?: (asset: number, answer: RunAnswer) => void,
): Promise<void> {
  const known = model.pick(at);
  if (!known) return;
  const now = await rig.ask<AssetAnswer>(`assets/${known.id}`);
  if (now?.status !== 200) return;
  model.saw(rig, now.value);
  const { path, body } = call(now.value.revision);
  const answer = await rig.ask<RunAnswer & AssetAnswer>(
    `assets/${known.id}/${path}`,
    "POST",
    body,
    [404, 409, 422],
  );
  if (answer?.status !== 200) return;
  rig.figures.acknowledged++;
  model.saw(rig, answer.value.asset ?? answer.value);
  if (answer.value.job) {
    rig.figures.jobs++;
    model.jobs.set(answer.value.job.id, { asset: known.id, ended: null });
  }
  then?.(known.id, answer.value);
}

const setBudget = (client: number, at: number) =>
  step("budget", client, (model, rig) => {
    const triangles = model.nextBudget();
    return operate(
      model,
      rig,
      at,
      (revision) => ({
        path: "run",
        body: { revision, operation: "intake/brief", options: { triangles } },
      }),
      (id) =>
        model.assets.find((each) => each.id === id)!.budgets.add(triangles),
    );
  });

const scale = (client: number, at: number) =>
  step("scale", client, (model, rig) =>
    operate(model, rig, at, (revision) => ({
      path: "run",
      body: { revision, operation: "intake/scale", options: { factor: 1.5 } },
    })),
  );

const walk = (way: "undo" | "redo") => (client: number, at: number) =>
  step(way, client, (model, rig) =>
    operate(model, rig, at, (revision) => ({ path: way, body: { revision } })),
  );

const restore = (client: number, at: number) =>
  step("restore", client, (model, rig) =>
    operate(model, rig, at, (revision) => {
      const seen = [...(model.pick(at)?.revisions.keys() ?? [revision])];
      return {
        path: "restore",
        body: { revision, to: seen[at % seen.length] },
      };
    }),
  );

const bringIn = (large: boolean) => (client: number, at: number) =>
  step("bringIn", client, async (model, rig) => {
    const sent = await rig.ask<{ id: string }>(
      "uploads",
      "POST",
      await mesh(large),
    );
    if (sent?.status !== 200) return;
    await operate(model, rig, at, (revision) => ({
      path: "run",
      body: {
        revision,
        operation: "intake/bring-in",
        options: {},
        uploads: [{ id: sent.value.id, name: "body.ply" }],
      },
    }));
  });

const heavy =
  (operation: string, options: object) => (client: number, at: number) =>
    step(operation, client, (model, rig) =>
      operate(model, rig, at, (revision) => ({
        path: "run",
        body: { revision, operation, options },
      })),
    );

const cancel = (client: number, at: number) =>
  step("cancel", client, async (model, rig) => {
    const job = model.pickJob(at);
    if (!job) return;
    const began = Date.now();
    const disturbed = rig.disturbed;
    await rig.ask(`jobs/${job}/cancel`, "POST", {});
    if (rig.disturbed === disturbed)
      rig.figures.slowestCancelMs = Math.max(
        rig.figures.slowestCancelMs,
        Date.now() - began,
      );
  });

const again = (client: number, at: number) =>
  step("again", client, async (model, rig) => {
    const job = model.pickJob(at);
    if (!job) return;
    const asset = model.jobs.get(job)!.asset;
    const answer = await rig.ask<{ id: number }>(
      `jobs/${job}/again`,
      "POST",
      {},
      [404, 409, 422],
    );
    if (answer?.status === 200)
      model.jobs.set(answer.value.id, { asset, ended: null });
  });

const remove = (client: number, at: number) =>
  step("delete", client, async (model, rig) => {
    const known = model.pick(at);
    if (!known) return;
    known.deleteAsked = true;
    const answer = await rig.ask(`assets/${known.id}`, "DELETE");
    if (answer?.status === 200) known.deleted = true;
  });

const snapshot = (client: number, at: number) =>
  step("snapshot", client, async (model, rig) => {
    const known = model.pick(at);
    const revision = known && [...known.revisions.keys()].pop();
    if (revision)
      await rig.ask(`assets/${known.id}/snapshots`, "POST", {
        revision,
        name: "kept",
      });
  });

/** Looks at an asset and at the bytes of some of its streams. */
const look = (client: number, at: number) =>
  step("look", client, async (model, rig) => {
    await rig.ask("assets");
    const known = model.pick(at);
    if (!known) return;
    const now = await rig.ask<AssetAnswer>(`assets/${known.id}`);
    if (now?.status !== 200) return;
    model.saw(rig, now.value);
    const hashes = [
      ...JSON.stringify(now.value.document).matchAll(
        /"hash":"([0-9a-f]{64})"/g,
      ),
    ].map(([, hash]) => hash);
    for (const hash of hashes.slice(0, 3)) {
      const began = rig.began();
      const answer = await fetch(`${rig.server.url}/api/streams/${hash}`).catch(
        () => null,
      );
      if (!answer || (answer.status === 404 && known.deleteAsked)) continue;
      const bytes = Buffer.from(
        await answer.arrayBuffer().catch(() => new ArrayBuffer(0)),
      );
      if (rig.server.pid === 0) return;
      if (
        createHash("sha256").update(bytes).digest("hex") !== hash &&
        answer.ok &&
        bytes.length
      )
        rig.fault("damaged", `stream ${hash.slice(0, 8)} has other bytes`);
      if (!answer.ok && !rig.isFull(answer.status, began))
        rig.fault("missing", `stream ${hash.slice(0, 8)}: ${answer.status}`);
    }
  });

/** A file that is sent and never asked for, or breaks off in the middle. */
const forget = (client: number, whole: boolean) =>
  step("forget", client, async (_, rig) => {
    if (whole) {
      await rig.ask("uploads", "POST", await mesh(false));
      return;
    }
    await new Promise<void>((resolve) => {
      const sending = request(`${rig.server.url}/api/uploads`, {
        method: "POST",
        headers: { "Content-Length": 1_000_000 },
      });
      sending.on("error", () => resolve());
      sending.on("close", () => resolve());
      sending.write(Buffer.alloc(40_000));
      setTimeout(() => sending.destroy(), 20);
    });
  });

/** Something that happens to the server itself; clients go on meanwhile. */
const event = (
  name: string,
  happen: (model: Model, rig: Rig) => Promise<void>,
): Step => ({
  check: () => true,
  run: happen,
  toString: () => name,
});

const crash = (after: number) =>
  event(`crash(${after})`, async (model, rig) => {
    await pause(after);
    await rig.kill("SIGKILL");
    await verify(model, rig);
  });

const stop = () =>
  event("stop", async (model, rig) => {
    await rig.kill("SIGTERM");
    await verify(model, rig);
  });

const fullDisk = (during: number) =>
  event(`fullDisk(${during})`, async (_, rig) => {
    rig.fill();
    await pause(during);
    await rig.settle();
    rig.free();
  });

const settle = () => event("settle", (_, rig) => rig.settle());

const client = fc.nat(2);
const at = fc.nat(40);
const often = (weight: number, make: (client: number, at: number) => Step) => ({
  weight,
  arbitrary: fc.tuple(client, at).map(([c, a]) => make(c, a)),
});
const seldom = (arbitrary: fc.Arbitrary<Step>, weight = 1) => ({
  weight,
  arbitrary,
});

/** Commands of three clients and of chance, by how often they come. */
export const commands = (count: number): fc.Arbitrary<Step[]> =>
  fc.array(
    fc.oneof(
      often(6, create),
      often(20, setBudget),
      often(8, scale),
      often(8, walk("undo")),
      often(8, walk("redo")),
      often(5, restore),
      often(9, bringIn(false)),
      often(5, bringIn(true)),
      often(5, heavy("survey/count", {})),
      often(6, heavy("reduce/to-budget", { triangles: 900 })),
      often(8, cancel),
      often(5, again),
      often(5, remove),
      often(5, snapshot),
      often(8, look),
      seldom(
        fc.tuple(client, fc.boolean()).map(([c, w]) => forget(c, w)),
        2,
      ),
      seldom(fc.nat(400).map(crash), 2),
      seldom(fc.constant(stop())),
      seldom(fc.integer({ min: 50, max: 1500 }).map(fullDisk), 2),
      seldom(fc.constant(settle()), 2),
    ),
    { minLength: count, maxLength: count, size: "max" },
  );

/** What every round begins with: an asset for each client. */
export const beginning = (): Step[] => [
  create(0),
  create(1),
  create(2),
  settle(),
];
