import { readFileSync, readdirSync } from "node:fs";
import { dirname, join, normalize } from "node:path";
import { describe, expect, it } from "vitest";
import { STAGES } from "../core/asset/stages";
import { filesIn, sourceFiles } from "./source-files";

const SOURCES = [
  "core",
  "server",
  "cli",
  "app",
  "demo",
  "bench",
  "host",
].flatMap((folder) => sourceFiles(folder));

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

  it("downwards in the table of docs/architecture.md, types included, and to no neighbour", () => {
    const rows = [
      ...readFileSync("docs/architecture.md", "utf8").matchAll(
        /^\| (`(?:core|host|server|cli|demo|bench|app)[^|]*?) \|/gm,
      ),
    ].map(([, cell]) => [...cell.matchAll(/`([^`]+)`/g)].map(([, at]) => at));
    expect(rows.length).toBeGreaterThan(15);
    const layers = rows.flatMap((at, row) => at.map((path) => ({ path, row })));
    /** The layer that a file belongs to: the longest path of the table that it lies in. */
    const layerOf = (file: string) =>
      layers
        .filter(({ path }) => file.startsWith(`${path}/`))
        .sort((a, b) => b.path.length - a.path.length)[0];
    for (const file of SOURCES)
      for (const target of importsOf(file)) {
        const [from, to] = [layerOf(file), layerOf(target)];
        if (!from || !to || from.path === to.path) continue;
        expect(to.row, `${file} imports ${target}`).toBeLessThan(from.row);
      }
    const unplaced = SOURCES.filter(
      (file) => /^(core|app)\/[^/]+\//.test(file) && !layerOf(file),
    );
    expect(unplaced.filter((file) => !file.startsWith("app/theme/"))).toEqual(
      [],
    );
    for (const folder of readdirSync("core", { withFileTypes: true }))
      if (folder.isDirectory())
        expect(layers.map(({ path }) => path)).toContain(`core/${folder.name}`);
  });

  it("never in a ring of files", () => {
    const files = new Set(SOURCES);
    const next = new Map(
      SOURCES.map((file) => [
        file,
        importsOf(file).flatMap(
          (name) =>
            [name, `${name}.ts`, `${name}/index.ts`].find((each) =>
              files.has(each),
            ) ?? [],
        ),
      ]),
    );
    const done = new Set<string>();
    const path: string[] = [];
    const walkFrom = (file: string): void => {
      if (path.includes(file))
        expect.fail([...path.slice(path.indexOf(file)), file].join(" → "));
      if (done.has(file)) return;
      path.push(file);
      for (const each of next.get(file)!) walkFrom(each);
      path.pop();
      done.add(file);
    };
    SOURCES.forEach(walkFrom);
    expect(done.size).toBe(SOURCES.length);
  });

  it("every operation of a stage stands in that stage's index", () => {
    for (const stage of STAGES) {
      const index = readFileSync(join("core", stage, "index.ts"), "utf8");
      for (const file of SOURCES.filter((each) =>
        each.startsWith(`core/${stage}/`),
      ))
        for (const [, name] of readFileSync(file, "utf8").matchAll(
          /export const (\w+) = defineOperation/g,
        )) {
          expect(file).toContain(`core/${stage}/operations/`);
          expect(index, file).toContain(name);
        }
    }
  });
});

describe("what documents name", () => {
  it("is there: files by the end of their path, folders too", () => {
    const there = [
      ...["core", "server", "cli", "app", "demo", "bench", "host"],
      ...["tests", "scripts"],
    ]
      .flatMap(filesIn)
      .map((file) => `/${file}`);
    const documents = [
      "README.md",
      "CONTRIBUTING.md",
      ...filesIn("docs").filter((file) => file.endsWith(".md")),
    ];
    const missing = documents.flatMap((document) =>
      [
        ...readFileSync(document, "utf8").matchAll(
          /`((?:[\w-]+\/)*[\w.-]+\.(?:ts|vue|mjs)|(?:core|app|server|tests|demo)\/[\w/-]*)`/g,
        ),
      ]
        .map(([, name]) => name)
        .filter(
          (name) =>
            !/^[A-Z]+\./.test(name) &&
            !there.some(
              (file) =>
                file.endsWith(`/${name}`) ||
                file.startsWith(`/${name.replace(/\/?$/, "/")}`),
            ),
        )
        .map((name) => `${document}: ${name}`),
    );
    expect(missing).toEqual([]);
  });
});
