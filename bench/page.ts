import { spawn } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { writeMeshFile } from "../core/formats/index";
import { meshFromTriangles } from "../core/mesh/change-faces";
import { megabytes } from "../tests/processes";
import { launchBrowser } from "../scripts/browser.mjs";

/**
 * From a large file to its picture: the longest task of the page's main thread, the time, and the server's memory.
 * `page` takes a GLB of a million triangles, `scan` a PLY of five million.
 */

const scan = process.argv.includes("scan");
const SIDE = scan ? 1582 : 708;
const NAME = scan ? "sea.ply" : "sea.glb";
const PORT = "3457";

function rollingSea() {
  const positions = new Float32Array(3 * SIDE * SIDE);
  const triangles = new Uint32Array(6 * (SIDE - 1) ** 2);
  let at = 0;
  for (let j = 0; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++)
      positions.set(
        [
          i / SIDE,
          0.04 * Math.sin(i / 40) * Math.cos(j / 53) + 0.004 * Math.sin(i / 3),
          j / SIDE,
        ],
        3 * (j * SIDE + i),
      );
  for (let j = 0; j + 1 < SIDE; j++)
    for (let i = 0; i + 1 < SIDE; i++) {
      const a = j * SIDE + i;
      triangles.set([a, a + SIDE, a + SIDE + 1, a, a + SIDE + 1, a + 1], at);
      at += 6;
    }
  return meshFromTriangles(positions, triangles);
}

const folder = mkdtempSync(join(tmpdir(), "arnik-bench-"));
const file = join(folder, NAME);
const mesh = rollingSea();
writeFileSync(file, await writeMeshFile(NAME, [{ name: "sea", mesh }]));
const server = spawn(process.execPath, ["scripts/serve.mjs"], {
  env: {
    ...process.env,
    ARNIK_ROOT: process.cwd(),
    ARNIK_DATA: join(folder, "data"),
    PORT,
  },
  stdio: "ignore",
});
const browser = await launchBrowser();
try {
  const page = await browser.newPage();
  for (let tries = 0; tries < 100; tries++) {
    const up = await page.goto(`http://127.0.0.1:${PORT}/`).then(
      () => true,
      () => false,
    );
    if (up) break;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  await page.evaluate(() =>
    fetch("/api/assets", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ name: "Sea" }),
    }),
  );
  await page.goto(`http://127.0.0.1:${PORT}/asset/1`);
  const input = (await page.waitForSelector("input[type=file]")) as unknown as {
    uploadFile(path: string): Promise<void>;
  };
  await page.waitForSelector("canvas[data-ready=true]");
  await page.evaluate(() => {
    const seen = { longest: 0, progress: 0 };
    Object.assign(window, { seen });
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries())
        seen.longest = Math.max(seen.longest, entry.duration);
    }).observe({ entryTypes: ["longtask"] });
    new MutationObserver(() => {
      if (document.querySelector("[role=progressbar]")) seen.progress++;
    }).observe(document.body, {
      subtree: true,
      childList: true,
      attributes: true,
    });
  });
  const start = Date.now();
  await input.uploadFile(file);
  await page.waitForFunction(() => document.body.innerText.includes("sea"), {
    timeout: 240_000,
    polling: 100,
  });
  await page.waitForFunction(
    () =>
      document.querySelector("canvas[data-ready=true]") !== null &&
      document.body.innerText.includes("source ·"),
    { timeout: 240_000, polling: 100 },
  );
  await new Promise((resolve) => setTimeout(resolve, 3000));
  const seconds = (Date.now() - start) / 1000 - 3;
  const seen = await page.evaluate(
    () =>
      (window as unknown as { seen: { longest: number; progress: number } })
        .seen,
  );
  const found = {
    triangles: mesh.corners.length / 3,
    seconds,
    longestTaskMs: seen.longest,
    progressShown: seen.progress > 0,
    serverMegabytes: Math.round(megabytes(server.pid ?? 0, "VmHWM")),
  };
  if (process.argv.includes("--json"))
    process.stdout.write(`${JSON.stringify(found)}\n`);
  else
    for (const [key, value] of Object.entries(found))
      process.stdout.write(`${key}: ${String(value)}\n`);
} finally {
  await browser.close();
  server.kill("SIGKILL");
  rmSync(folder, { recursive: true, force: true });
}
