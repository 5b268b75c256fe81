import { spawnSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { expect } from "vitest";
import { writeMeshFile } from "../core/formats/index";
import { cube, moved, sphere } from "./shapes";

/** Calls the command line as it is built. */
export function arnik(...words: string[]) {
  const done = spawnSync(process.execPath, ["bin/arnik.mjs", ...words], {
    encoding: "utf8",
  });
  return { code: done.status, out: done.stdout, err: done.stderr };
}

/** What a call that works prints as JSON: one line, and nothing else. */
export function arnikJson(...words: string[]): Record<string, unknown> {
  const done = arnik(...words, "--json");
  expect(done.err).toBe("");
  expect(done.code).toBe(0);
  expect(done.out.trim().split("\n")).toHaveLength(1);
  return JSON.parse(done.out) as Record<string, unknown>;
}

/** A folder with a bumpy ball of 3 360 triangles, and two cubes of quads. */
export async function folderOfMeshes() {
  const folder = mkdtempSync(join(tmpdir(), "arnik-cli-"));
  const [source, two] = [join(folder, "ball.ply"), join(folder, "two.obj")];
  const bumps = (a: number, t: number) =>
    0.006 * Math.sin(8 * a) * Math.cos(5 * t);
  writeFileSync(
    source,
    await writeMeshFile("ball.ply", [
      { name: "ball", mesh: sphere(36, 48, 0.2, bumps) },
    ]),
  );
  writeFileSync(
    two,
    await writeMeshFile("two.obj", [
      { name: "a", mesh: cube() },
      { name: "b", mesh: moved(cube(), 4, 0, 0) },
    ]),
  );
  return { folder, source, two };
}
