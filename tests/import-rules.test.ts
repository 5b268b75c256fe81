import { readFileSync, readdirSync, statSync } from "node:fs";
import { dirname, join, normalize } from "node:path";
import { describe, expect, it } from "vitest";
import { STAGES } from "../core/asset/stages";

const SOURCES = ["core", "server", "cli", "app", "demo", "bench", "host"]
  .flatMap((folder) => walk(folder))
  .filter(
    (file) =>
      /\.(ts|vue)$/.test(file) &&
      !file.endsWith(".test.ts") &&
      !file.includes("core/space/kernel/"),
  );

function walk(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    return statSync(path).isDirectory() ? walk(path) : [path];
  });
}

/** Every import of a file: a path from the root for its own files, the package's name for others. */
function importsOf(file: string): string[] {
  const found = readFileSync(file, "utf8").matchAll(
    /(?:from|import)\s*\(?\s*"([^"]+)"/g,
  );
  return [...found].map(([, name]) =>
    name.startsWith(".") ? normalize(join(dirname(file), name)) : name,
  );
}

const folderOf = (path: string) => path.split("/")[0];

describe("imports run one way", () => {
  it("from the rims into core, never back", () => {
    const allowed: Record<string, string[]> = {
      core: ["core"],
      host: ["core", "host"],
      server: ["core", "host", "server"],
      cli: ["core", "host", "server", "cli"],
      app: ["core", "app"],
      demo: ["core", "host", "server", "demo"],
      bench: ["core", "host", "server", "demo", "bench"],
    };
    for (const file of SOURCES)
      for (const target of importsOf(file)) {
        if (!Object.keys(allowed).includes(folderOf(target))) continue;
        expect(allowed[folderOf(file)], `${file} imports ${target}`).toContain(
          folderOf(target),
        );
        // Of the server others use the store alone.
        if (folderOf(target) === "server" && folderOf(file) !== "server")
          expect(target, file).toMatch(/^server\/store\//);
      }
  });

  it("nothing but the store opens the store", () => {
    for (const file of SOURCES)
      if (importsOf(file).some((name) => /^(knex|better-sqlite3)$/.test(name)))
        expect(file).toMatch(/^server\/store\//);
  });

  it("core knows no interface, no file system, no renderer", () => {
    for (const file of SOURCES.filter((each) => each.startsWith("core/")))
      for (const target of importsOf(file))
        expect(target, file).not.toMatch(
          /^(vue|nuxt|pinia|primevue|three|knex|h3|node:|fs|path)/,
        );
  });

  it("a stage never imports another, and what lies below stages imports none", () => {
    for (const file of SOURCES.filter((each) => each.startsWith("core/"))) {
      const own = file.split("/")[1];
      for (const target of importsOf(file)) {
        const other = target.split("/")[1] ?? "";
        if (
          folderOf(target) !== "core" ||
          !(STAGES as readonly string[]).includes(other)
        )
          continue;
        if ((STAGES as readonly string[]).includes(own))
          expect(other, `${file} imports ${target}`).toBe(own);
        else
          expect(
            ["operations.ts", "route.ts"],
            `${file} imports ${target}`,
          ).toContain(own);
      }
    }
  });

  it("every operation of a stage stands in that stage's index", () => {
    for (const stage of STAGES) {
      const index = readFileSync(join("core", stage, "index.ts"), "utf8");
      const files = readdirSync(join("core", stage));
      for (const file of files.filter((each) => each.endsWith(".ts"))) {
        const text = readFileSync(join("core", stage, file), "utf8");
        for (const [, name] of text.matchAll(
          /export const (\w+) = defineOperation/g,
        ))
          expect(index, file).toContain(name);
      }
    }
  });
});
