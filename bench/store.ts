import {
  copyFileSync,
  mkdtempSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from "node:fs";
import { spawnSync } from "node:child_process";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createAsset, createPart } from "../core/asset/asset";
import { writeMeshFile } from "../core/formats/index";
import { seededRandom } from "../core/base/random";
import { checkStore } from "../server/store/check";
import { Store, storeFile } from "../server/store/store";
import { hostileFiles } from "../tests/hostile-files";
import { megabytes } from "../tests/processes";
import { ServerProcess, pause } from "../tests/server-process";
import { sphere } from "../tests/shapes";
import { committedFrames } from "../tests/write-ahead-log";

/** Figures of store and server: `npm run bench -- store`. Words: kills, cuts, clicks, list, memory, files; --json. */

const KILLS = 200;
const CUTS = 200;
const random = seededRandom(5);

interface Asset {
  id: number;
  revision: number;
  jobs: { state: string }[];
}

const setBudget = (
  server: ServerProcess,
  { id, revision }: Asset,
  triangles: number,
) =>
  server.ask<{ asset: Asset }>(`assets/${id}/run`, "POST", {
    operation: "intake/brief",
    options: { triangles },
    revision,
  });

/** Kills a server at random moments of its work; how many acknowledged revisions are there afterwards. */
async function kills() {
  const server = new ServerProcess();
  let acknowledged = 0;
  let kept = 0;
  await server.start();
  let asset = await server.json<Asset>("assets", "POST", { name: "Killed" });
  try {
    for (let n = 0; n < KILLS; n++) {
      const seen: number[] = [];
      let first = () => {};
      const begun = new Promise<void>((resolve) => (first = resolve));
      const working = (async () => {
        for (let k = 0; ; k++) {
          const answer = await setBudget(server, asset, 1000 + k).catch(
            () => null,
          );
          if (answer?.status !== 200) return;
          asset = answer.value.asset;
          seen.push(asset.revision);
          first();
        }
      })();
      await begun;
      await pause(250 * random());
      await server.kill();
      await working;
      await server.start();
      asset = await server.json<Asset>(`assets/${asset.id}`);
      acknowledged += seen.length;
      for (const revision of seen)
        if (
          (await server.ask(`assets/${asset.id}/revisions/${revision}`))
            .status === 200
        )
          kept++;
    }
    await server.kill("SIGTERM");
    const store = await Store.open(server.data);
    const { troubles } = await checkStore(store.database, false);
    await store.close();
    return { kills: KILLS, acknowledged, kept, troubles: troubles.length };
  } finally {
    await server.remove();
  }
}

/** Cuts copies of the log at random lengths, as a power cut may: acknowledged revisions that open, of all cut. */
async function cuts() {
  const folder = mkdtempSync(join(tmpdir(), "arnik-cuts-"));
  const store = await Store.open(folder);
  const ball = (n: number) =>
    createAsset(`${n}`, [
      createPart("ball", 0, { source: sphere(8 + (n % 9), 10, 1 + n) }),
    ]);
  const wal = `${storeFile(folder)}-wal`;
  const row = await store.createAsset(ball(0), "began");
  let head = row.head;
  let opened = 0;
  let made = 0;
  for (let n = 1; made < CUTS; n++) {
    const begins = committedFrames(wal);
    const before = head;
    head = await store.commit(row.id, head, ball(n), "next");
    const ends = committedFrames(wal);
    if (ends < begins) continue;
    const left = mkdtempSync(join(tmpdir(), "arnik-cut-"));
    const at = Math.floor(begins + random() * (ends - begins + 1));
    copyFileSync(storeFile(folder), storeFile(left));
    copyFileSync(wal, `${storeFile(left)}-wal`);
    truncateSync(`${storeFile(left)}-wal`, at);
    const copy = await Store.open(left);
    const found = (await copy.asset(row.id)).head;
    const right = at >= ends ? found === head : found === before;
    const whole = (await checkStore(copy.database, true)).troubles.length === 0;
    await copy.load(found);
    if (right && whole) opened++;
    await copy.close();
    rmSync(left, { recursive: true });
    made++;
  }
  await store.close();
  rmSync(folder, { recursive: true });
  return { cuts: made, opened };
}

async function waitFor(server: ServerProcess, id: number): Promise<void> {
  for (;;) {
    const { jobs } = await server.json<Asset>(`assets/${id}`);
    if (!["queued", "running"].includes(jobs[0]?.state)) return;
    await pause(50);
  }
}

async function bringIn(server: ServerProcess, name: string): Promise<Asset> {
  const asset = await server.json<Asset>("assets", "POST", { name });
  const mesh = sphere(
    120,
    130,
    0.2,
    (a, t) => 0.01 * Math.sin(8 * a) * Math.cos(5 * t),
  );
  const upload = await server.upload(
    await writeMeshFile("ball.ply", [{ name: "ball", mesh }]),
  );
  await server.ask(`assets/${asset.id}/run`, "POST", {
    operation: "intake/bring-in",
    options: {},
    revision: asset.revision,
    uploads: [{ id: upload, name: "ball.ply" }],
  });
  await waitFor(server, asset.id);
  for (const operation of ["reduce/to-budget", "unwrap/unwrap"]) {
    const { revision } = await server.json<Asset>(`assets/${asset.id}`);
    await server.ask(`assets/${asset.id}/run`, "POST", {
      operation,
      options: {},
      revision,
    });
    await waitFor(server, asset.id);
  }
  return server.json<Asset>(`assets/${asset.id}`);
}

const quantile = (times: number[], share: number) =>
  [...times].sort((a, b) => a - b)[
    Math.min(times.length - 1, Math.floor(share * times.length))
  ];

/** Instant operations on an asset of 5 000 triangles while another one is baked, milliseconds. */
async function clicks() {
  const server = new ServerProcess();
  await server.start();
  try {
    let asset = await bringIn(server, "Clicked");
    const baked = await bringIn(server, "Baked");
    await server.ask(`assets/${baked.id}/run`, "POST", {
      operation: "bake/maps",
      options: { rays: 1024 },
      revision: baked.revision,
    });
    await pause(2000);
    const times: number[] = [];
    for (let n = 0; n < 300; n++) {
      const [operation, options] = [
        ["intake/brief", { triangles: 4000 + n }],
        ["edges/hard-by-angle", { angle: 20 + (n % 60) }],
      ][n % 2] as [string, object];
      const began = performance.now();
      const { status, value } = await server.ask<{ asset: Asset }>(
        `assets/${asset.id}/run`,
        "POST",
        { operation, options, revision: asset.revision },
      );
      if (status !== 200) throw new Error(JSON.stringify(value));
      times.push(performance.now() - began);
      ({ asset } = value);
    }
    const { jobs } = await server.json<Asset>(`assets/${baked.id}`);
    return {
      bakeRanThroughout: jobs[0].state === "running",
      medianMs: quantile(times, 0.5),
      ninetyNineMs: quantile(times, 0.99),
    };
  } finally {
    await server.remove();
  }
}

/** The list of 500 assets, milliseconds, from request to answer. */
async function list() {
  const server = new ServerProcess();
  const store = await Store.open(server.data);
  for (let n = 0; n < 500; n++)
    await store.createAsset(
      createAsset(
        `Asset ${n}`,
        Array.from({ length: 20 }, (_, k) =>
          createPart(`part ${k}`, k, { source: sphere(6, 8, 1 + k) }),
        ),
      ),
      "began",
    );
  await store.close();
  await server.start();
  try {
    const times: number[] = [];
    for (let n = 0; n < 40; n++) {
      const began = performance.now();
      await server.ask("assets");
      times.push(performance.now() - began);
    }
    return {
      assets: 500,
      firstMs: times[0],
      medianMs: quantile(times, 0.5),
      worstMs: Math.max(...times.slice(1)),
    };
  } finally {
    await server.remove();
  }
}

/** Memory of the server and its processes after 100 and after 1 000 operations, megabytes. */
async function memory() {
  const server = new ServerProcess();
  await server.start();
  try {
    let asset = await bringIn(server, "Remembered");
    let first = 0;
    for (let n = 1; n <= 1000; n++) {
      const { status, value } = await server.ask<{ asset: Asset }>(
        `assets/${asset.id}/run`,
        "POST",
        n % 5
          ? {
              operation: "intake/brief",
              options: { triangles: 4000 + n },
              revision: asset.revision,
            }
          : {
              operation: "edges/hard-by-angle",
              options: { angle: 20 + (n % 60) },
              revision: asset.revision,
            },
      );
      if (status !== 200) throw new Error(JSON.stringify(value));
      ({ asset } = value);
      if (n === 100) first = megabytes(server.pid, "VmRSS");
    }
    const last = megabytes(server.pid, "VmRSS");
    return { after100: first, after1000: last, ratio: last / first };
  } finally {
    await server.remove();
  }
}

/** Every hostile file through the command line: longest time and most memory until it is refused. */
function files() {
  const folder = mkdtempSync(join(tmpdir(), "arnik-hostile-"));
  const report = `data:text/javascript,process.on("exit",()=>process.stdout.write("\\n"+process.resourceUsage().maxRSS+" "+process.uptime()))`;
  let [slowest, largest] = ["", ""];
  let [seconds, most, refused] = [0, 0, 0];
  const all = hostileFiles();
  for (const { name, bytes, says } of all) {
    const path = join(folder, name);
    writeFileSync(path, bytes);
    const done = spawnSync(
      process.execPath,
      ["--import", report, "bin/arnik.mjs", "survey", path],
      { encoding: "utf8" },
    );
    const [kilobytes, uptime] = done.stdout
      .trim()
      .split("\n")
      .pop()!
      .split(" ")
      .map(Number);
    if (done.status === 1 && says.test(done.stderr)) refused++;
    if (uptime > seconds) [seconds, slowest] = [uptime, name];
    if (kilobytes > most) [most, largest] = [kilobytes, name];
  }
  rmSync(folder, { recursive: true });
  return {
    files: all.length,
    refused,
    longestSeconds: seconds,
    slowest,
    mostMegabytes: most / 1024,
    largest,
  };
}

const PARTS: Record<string, () => Promise<object> | object> = {
  kills,
  cuts,
  clicks,
  list,
  memory,
  files,
};
const wanted = process.argv.slice(2).filter((word) => PARTS[word]);
const found: Record<string, object> = {};
for (const [name, measure] of Object.entries(PARTS)) {
  if (wanted.length && !wanted.includes(name)) continue;
  found[name] = await measure();
  if (!process.argv.includes("--json"))
    process.stdout.write(
      `${name}: ${Object.entries(found[name])
        .map(
          ([key, value]) =>
            `${key} ${typeof value === "number" ? Math.round(value * 100) / 100 : String(value)}`,
        )
        .join(", ")}\n`,
    );
}
if (process.argv.includes("--json"))
  process.stdout.write(`${JSON.stringify(found)}\n`);
