import type { Tell } from "./tell";
import { spawn } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { writeMeshFile } from "../core/formats/index";
import type { Mesh } from "../core/mesh/mesh";
import { megabytes } from "../tests/processes";
type Report = Record<string, Record<string, number>>;

/** `arnik make` on a dirty scan: what comes out, how long it takes and how much memory it holds at most. */
export async function dirtyRoute(
  tell: Tell,
  mesh: Mesh,
  on: string,
): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), "arnik-bench-"));
  try {
    const file = join(folder, "scan.ply");
    writeFileSync(file, await writeMeshFile(file, [{ name: "scan", mesh }]));
    const start = performance.now();
    const { report, most } = await make(file, join(folder, "out"));
    tell("make → 5 000 at 2048, s", on, seconds(start), "≤ 75");
    tell("memory at most, GB", on, most / 1024, "≤ 1.2");
    tell("triangles", on, report.reduce.triangles, "≤ 5000");
    tell("islands", on, report.unwrap.islands, "≤ 60");
    tell("fill", on, report.unwrap.fill, "≥ 0.72");
    tell("flipped", on, report.unwrap.flipped, "0");
    tell("texels missed, %", on, 100 * report.bake.missed, "≤ 0.02");
    tell("of which bake, s", on, report.bake.seconds, "");
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const seconds = (start: number) => (performance.now() - start) / 1000;

function make(
  file: string,
  out: string,
): Promise<{ report: Report; most: number }> {
  const options = ["--triangles", "5000", "--size", "2048", "--samples", "64"];
  const maps = ["--maps", "normal,ao", "--out", out, "--json"];
  const child = spawn(
    process.execPath,
    ["bin/arnik.mjs", "make", file, ...options, ...maps],
    { stdio: ["ignore", "pipe", "inherit"] },
  );
  let most = 0;
  const watch = setInterval(() => {
    most = Math.max(most, megabytes(child.pid!, "VmHWM"));
  }, 250);
  const parts: Buffer[] = [];
  child.stdout.on("data", (part: Buffer) => parts.push(part));
  return new Promise((resolve, reject) => {
    child.on("error", reject);
    child.on("close", () => {
      clearInterval(watch);
      const report = JSON.parse(Buffer.concat(parts).toString()) as Report;
      resolve({ report, most });
    });
  });
}
