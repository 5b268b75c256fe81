import { execFileSync, spawn } from "node:child_process";
import { createHash } from "node:crypto";
import {
  closeSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
  writeSync,
} from "node:fs";
import { request } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Database from "better-sqlite3";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { writeMeshFile } from "../../core/formats/index";
import { hostileFiles } from "../hostile-files";
import { familyOf, megabytes } from "../processes";
import { ServerProcess, pause } from "../server-process";
import { sphere } from "../shapes";

interface Job {
  id: number;
  state: string;
  error: string | null;
}
interface Asset {
  id: number;
  revision: number;
  number: number;
  jobs: Job[];
  document: { parts: unknown[] };
  data?: { message: string };
}
type Ran = { asset: Asset; job: Job | null; data?: { message: string } };

let server: ServerProcess;
let large: Uint8Array;
let medium: Uint8Array;
const small = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n";
const LIVE = ["queued", "running"];

const begin = () => server.json<Asset>("assets", "POST", { name: "Attacked" });
const asset = (id: number) => server.json<Asset>(`assets/${id}`);
const run = async (id: number, operation: string, options: object = {}) =>
  server.ask<Ran>(`assets/${id}/run`, "POST", {
    operation,
    options,
    revision: (await asset(id)).revision,
  });

async function bringIn(id: number, bytes: Uint8Array | string, name = "a.obj") {
  const upload = await server.upload(bytes);
  const { value } = await server.ask<Ran>(`assets/${id}/run`, "POST", {
    operation: "intake/bring-in",
    options: {},
    revision: (await asset(id)).revision,
    uploads: [{ id: upload, name }],
  });
  return { upload, job: value.job! };
}

async function ended(job: Job): Promise<Job> {
  for (let tries = 0; tries < 1500; tries++) {
    const now = await server.json<Job>(`jobs/${job.id}`);
    if (!LIVE.includes(now.state)) return now;
    await pause(20);
  }
  throw new Error(`job ${job.id} does not end`);
}

/** The queue takes a job on a new asset and ends it. */
async function queueGoesOn() {
  const { id } = await begin();
  const { job } = await bringIn(id, small);
  expect((await ended(job)).state).toBe("done");
}

/** Opens the file beside the server, as a reader, and looks at everything in it. */
function wholeStore(folder: string) {
  const db = new Database(join(folder, "arnik.sqlite"), { readonly: true });
  try {
    expect(db.pragma("integrity_check")).toEqual([{ integrity_check: "ok" }]);
    const hashes = new Set(
      (db.prepare("SELECT hash FROM streams").all() as { hash: string }[]).map(
        ({ hash }) => hash,
      ),
    );
    for (const { document } of db
      .prepare("SELECT document FROM revisions")
      .all() as { document: string }[])
      for (const [, hash] of document.matchAll(/"hash":"([0-9a-f]{64})"/g))
        expect(hashes).toContain(hash);
  } finally {
    db.close();
  }
}

beforeAll(async () => {
  large = await writeMeshFile("large.ply", [
    { name: "large", mesh: sphere(158, 160) },
  ]);
  medium = await writeMeshFile("medium.ply", [
    { name: "medium", mesh: sphere(80, 80) },
  ]);
  server = new ServerProcess();
  await server.start();
});
afterAll(() => server.remove());

describe("clients at once", () => {
  it("leave the store whole: changes, undo, deleting and bringing in together, for some seconds", async () => {
    const [a, b] = [await begin(), await begin()];
    const statuses: number[] = [];
    let going = true;
    const loop = async (work: () => Promise<{ status: number }>) => {
      while (going) statuses.push((await work()).status);
    };
    const undoing = async () => {
      const { revision, number } = await asset(b.id);
      if (number < 3) return run(b.id, "intake/brief", { triangles: 100 });
      return server.ask(`assets/${b.id}/undo`, "POST", { revision });
    };
    const all = [
      loop(() => run(a.id, "intake/brief", { triangles: 500 })),
      loop(undoing),
      loop(async () => {
        const { id } = await begin();
        return server.ask(`assets/${id}`, "DELETE");
      }),
      (async () => {
        for (let n = 0; n < 3; n++) {
          const { id } = await begin();
          const { job } = await bringIn(id, large, "large.ply");
          expect((await ended(job)).state).toBe("done");
        }
      })(),
    ];
    await pause(5000);
    await all[3];
    going = false;
    await Promise.all(all);
    expect(statuses.length).toBeGreaterThan(50);
    expect(statuses.filter((status) => status >= 500)).toEqual([]);
    wholeStore(server.data);
  });

  it("meet one SQLite library in every process of the server", () => {
    for (const pid of familyOf(server.pid)) {
      const copies = new Set(
        readFileSync(`/proc/${pid}/maps`, "utf8").match(
          /\S*better_sqlite3\S*\.node/g,
        ),
      );
      expect(copies.size).toBeLessThanOrEqual(1);
    }
  });

  it("scaling an asset while others come and go keep every stream that is named", async () => {
    const { id } = await begin();
    await ended((await bringIn(id, large, "large.ply")).job);
    let going = true;
    const coming = (async () => {
      while (going) {
        const other = await begin();
        await ended((await bringIn(other.id, small)).job);
        await server.ask(`assets/${other.id}`, "DELETE");
      }
    })();
    for (let n = 0; n < 8; n++)
      expect((await run(id, "intake/scale", { factor: 1.1 })).status).toBe(200);
    going = false;
    await coming;
    wholeStore(server.data);
    const text = JSON.stringify((await asset(id)).document);
    for (const [, hash] of text.matchAll(/"hash":"([0-9a-f]{64})"/g)) {
      const answer = await fetch(`${server.url}/api/streams/${hash}`);
      const bytes = Buffer.from(await answer.arrayBuffer());
      expect(createHash("sha256").update(bytes).digest("hex")).toBe(hash);
    }
  });

  it("asking for an instant and a heavy operation on one revision: one is refused before the work", async () => {
    for (let n = 0; n < 6; n++) {
      const { id, revision } = await begin();
      const call = (operation: string, options: object) =>
        server.ask<Ran>(`assets/${id}/run`, "POST", {
          operation,
          options,
          revision,
        });
      const [heavy, instant] = await Promise.all([
        call("survey/count", {}),
        call("intake/brief", { triangles: 90 + n }),
      ]);
      expect([heavy.status, instant.status].sort()).toEqual([200, 409]);
      if (heavy.value.job)
        expect((await ended(heavy.value.job)).error ?? "").not.toMatch(
          /changed elsewhere/,
        );
    }
  });
});

describe("the queue goes on", () => {
  it("after the asset of a job that is done was deleted", async () => {
    for (let n = 0; n < 3; n++) {
      const { id } = await begin();
      await ended((await bringIn(id, small)).job);
      expect((await server.ask(`assets/${id}`, "DELETE")).status).toBe(200);
    }
    await queueGoesOn();
  });

  it("after an asset was deleted while its job ran, which is cancelled", async () => {
    const { id } = await begin();
    await ended((await bringIn(id, large, "large.ply")).job);
    const { value } = await run(id, "reduce/to-budget", { triangles: 900 });
    const began = Date.now();
    expect((await server.ask(`assets/${id}`, "DELETE")).status).toBe(200);
    expect(Date.now() - began).toBeLessThan(2000);
    expect((await server.ask(`jobs/${value.job!.id}`)).status).toBe(404);
    await queueGoesOn();
  });

  it("after the process of a job was killed; the job says so and can be run again", async () => {
    const { id } = await begin();
    await ended((await bringIn(id, medium, "medium.ply")).job);
    const { value } = await run(id, "reduce/to-budget", { triangles: 900 });
    await pause(300);
    const workers = familyOf(server.pid).slice(1);
    expect(workers.length).toBeGreaterThan(0);
    for (const pid of workers) process.kill(pid, "SIGKILL");
    const job = await ended(value.job!);
    expect(job).toMatchObject({
      state: "failed",
      error: expect.stringMatching(/process was ended.*memory/) as string,
    });
    const again = await server.ask<Job>(`jobs/${job.id}/again`, "POST", {});
    expect((await ended(again.value)).state).toBe("done");
  });

  it("after a disk that was full, which every answer says with 507", async () => {
    const folder = mkdtempSync(join(tmpdir(), "arnik-full-"));
    try {
      execFileSync("mount", ["-t", "tmpfs", "-o", "size=24m", "x", folder], {
        stdio: "ignore",
      });
    } catch {
      return; // Only who may mount a small disk can fill it.
    }
    const before = server;
    server = new ServerProcess(folder);
    try {
      await server.start();
      const { id } = await begin();
      await ended((await bringIn(id, medium, "medium.ply")).job);
      const { value } = await run(id, "reduce/to-budget", { triangles: 900 });
      const ballast = openSync(join(folder, "ballast"), "w");
      try {
        for (;;) writeSync(ballast, Buffer.alloc(4096));
      } catch {
        closeSync(ballast);
      }
      const job = await ended(value.job!);
      expect(job).toMatchObject({
        state: "failed",
        error: expect.stringMatching(/the disk is full/) as string,
      });
      const refusals = [
        await run(id, "intake/scale", { factor: 2 }),
        await server.ask<Ran>("assets", "POST", { name: "No room" }),
        await server.ask<Ran>(`assets/${id}`, "DELETE"),
      ];
      for (const { status, value } of refusals) {
        expect(status).toBe(507);
        expect(value.data?.message).toMatch(/the disk is full/);
      }
      rmSync(join(folder, "ballast"));
      await queueGoesOn();
      expect((await run(id, "intake/scale", { factor: 2 })).status).toBe(200);
      expect(server.said).toBe("");
    } finally {
      await server.kill();
      execFileSync("umount", ["-l", folder]);
      rmSync(folder, { recursive: true });
      server = before;
    }
  });
});

describe("limits hold", () => {
  it("for files of hostile counts: refused at once, in little memory", async () => {
    const files = hostileFiles().filter(({ name }) =>
      /count-without-data|^nodes|placed-often|groups/.test(name),
    );
    expect(files).toHaveLength(4);
    await queueGoesOn();
    const before = megabytes(server.pid, "VmHWM");
    for (const { name, bytes, says } of files) {
      const { id } = await begin();
      const began = Date.now();
      const job = await ended((await bringIn(id, bytes, name)).job);
      expect(Date.now() - began).toBeLessThan(2500);
      expect(job.state).toBe("failed");
      expect(job.error).toMatch(says);
    }
    expect(megabytes(server.pid, "VmHWM") - before).toBeLessThan(300);
  });

  it("for a body in chunks that says no length", async () => {
    const { id } = await begin();
    const before = megabytes(server.pid, "VmHWM");
    const status = await new Promise<number>((resolve, reject) => {
      const sending = request(
        `${server.url}/api/assets/${id}/run`,
        { method: "POST", headers: { "Transfer-Encoding": "chunked" } },
        (answer) => {
          answer.resume();
          resolve(answer.statusCode ?? 0);
        },
      );
      sending.on("error", reject);
      const block = Buffer.alloc(1024 * 1024, 32);
      let sent = 0;
      const push = () => {
        while (sent++ < 200) if (!sending.write(block)) return;
        sending.end();
      };
      sending.on("drain", push);
      push();
    }).catch(() => 413);
    expect(status).toBe(413);
    expect(megabytes(server.pid, "VmHWM") - before).toBeLessThan(150);
    await queueGoesOn();
  });

  it("and every answer carries the headers that keep a page to itself", async () => {
    for (const path of ["/", "/api/assets", "/api/assets/999", "/icon.svg"]) {
      const { headers } = await fetch(server.url + path);
      // Refusals are no pages: theirs allows no script at all.
      expect(headers.get("content-security-policy")).toMatch(
        /(default-src|script-src) 'none'.*frame-ancestors 'none'/,
      );
      expect(headers.get("x-content-type-options")).toBe("nosniff");
      expect(headers.get("cross-origin-resource-policy")).toBe("same-origin");
      expect(headers.get("x-powered-by")).toBeNull();
    }
    const page = await (await fetch(server.url)).text();
    for (const [, script] of page.matchAll(/<script([^>]*)>/g))
      expect(script).toMatch(/nonce="[^"]{20,}"/);
  });
});

describe("a second server", () => {
  const started = (data: string, port: number) =>
    new Promise<{ code: number | null; said: string }>((resolve) => {
      let said = "";
      const child = spawn(process.execPath, ["scripts/serve.mjs"], {
        env: {
          ...process.env,
          ARNIK_ROOT: process.cwd(),
          ARNIK_DATA: data,
          PORT: String(port),
        },
        stdio: ["ignore", "ignore", "pipe"],
      });
      child.stderr.on("data", (text: Buffer) => (said += text.toString()));
      child.on("exit", (code) => resolve({ code, said }));
    });

  it("on the same folder says who has it and ends; on the same port it ends too", async () => {
    const { id } = await begin();
    await ended((await bringIn(id, medium, "medium.ply")).job);
    const { value } = await run(id, "reduce/to-budget", { triangles: 900 });
    const second = await started(server.data, 1);
    expect(second.code).toBe(1);
    expect(second.said).toMatch(
      new RegExp(
        `^arnik: the data folder .* is in use by the server on port ${server.port} \\(process ${server.pid}, .*\\n$`,
      ),
    );
    const other = mkdtempSync(join(tmpdir(), "arnik-second-"));
    const third = await started(other, server.port);
    expect(third).toMatchObject({
      code: 1,
      said: expect.stringMatching(/^arnik: port \d+ is in use/) as string,
    });
    rmSync(other, { recursive: true });
    expect((await ended(value.job!)).state).toBe("done");
  });
});

describe("uploads", () => {
  const there = (upload: string) =>
    existsSync(join(server.data, "uploads", upload));

  it("are gone when their job is done, kept for running again when it is not, and say when they are gone", async () => {
    const { id } = await begin();
    const done = await bringIn(id, small);
    await ended(done.job);
    expect(there(done.upload)).toBe(false);
    const failed = await bringIn(id, "v 0 0 0\nf 1 2 3\n");
    await ended(failed.job);
    expect(there(failed.upload)).toBe(true);
    const again = await server.ask<Job>(
      `jobs/${failed.job.id}/again`,
      "POST",
      {},
    );
    expect((await ended(again.value)).error).toMatch(/^a\.obj: line 2/);
    rmSync(join(server.data, "uploads", failed.upload));
    const late = await server.ask<Ran>(
      `jobs/${failed.job.id}/again`,
      "POST",
      {},
    );
    expect(late).toMatchObject({
      status: 422,
      value: {
        data: {
          message: "a.obj is no longer kept by the server: bring it in again",
        },
      },
    });
  });

  it("of a job that was cancelled while it waited can be run again", async () => {
    const busy = await begin();
    await ended((await bringIn(busy.id, medium, "medium.ply")).job);
    const running = await run(busy.id, "reduce/to-budget", { triangles: 900 });
    const { id } = await begin();
    const { job } = await bringIn(id, small);
    await server.ask(`jobs/${job.id}/cancel`, "POST", {});
    expect((await ended(job)).state).toBe("cancelled");
    const again = await server.ask<Job>(`jobs/${job.id}/again`, "POST", {});
    await server.ask(`jobs/${running.value.job!.id}/cancel`, "POST", {});
    expect((await ended(again.value)).state).toBe("done");
  });

  it("that broke off, or were forgotten for a day, are swept away at the next start", async () => {
    const folder = join(server.data, "uploads");
    mkdirSync(folder, { recursive: true });
    await new Promise<void>((resolve) => {
      const sending = request(`${server.url}/api/uploads`, {
        method: "POST",
        headers: { "Content-Length": 1_000_000 },
      });
      sending.on("error", () => resolve());
      sending.write(Buffer.alloc(4000));
      setTimeout(() => sending.destroy(), 200);
    });
    await pause(200);
    expect(
      readdirSync(folder).filter((name) => name.endsWith(".part")),
    ).toEqual([]);
    const forgotten = await server.upload(small);
    const fresh = await server.upload(small);
    const old = new Date(Date.now() - 25 * 3600 * 1000);
    utimesSync(join(folder, forgotten), old, old);
    writeFileSync(join(folder, `${"0".repeat(32)}.part`), "half");
    await server.kill();
    await server.start();
    expect(there(forgotten)).toBe(false);
    expect(there(fresh)).toBe(true);
    expect(readdirSync(folder).some((name) => name.endsWith(".part"))).toBe(
      false,
    );
    expect(statSync(join(folder, fresh)).size).toBe(small.length);
  });
});
