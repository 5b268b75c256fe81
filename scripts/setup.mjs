// Installs and builds what is missing; does nothing where all is there.
import { execFileSync, spawn, spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  renameSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { homedir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));
const BUILT_FROM = [
  "app",
  "bench",
  "cli",
  "core",
  "demo",
  "host",
  "public",
  "server",
  "tests",
  "nuxt.config.ts",
  "package-lock.json",
  "scripts/build-node.mjs",
];

function digest(paths) {
  const hash = createHash("sha256");
  const walk = (path) => {
    const full = join(root, path);
    if (!existsSync(full)) return;
    if (statSync(full).isDirectory())
      for (const name of readdirSync(full).sort()) walk(join(path, name));
    else if (!path.endsWith(".test.ts"))
      hash.update(path).update("\0").update(readFileSync(full));
  };
  paths.forEach(walk);
  return hash.digest("hex");
}

/** Runs a step unless its stamp says that its inputs have not changed since. */
function once(stamp, value, what, step) {
  const file = join(root, stamp);
  if (existsSync(file) && readFileSync(file, "utf8") === value) return;
  process.stdout.write(`${what}\n`);
  rmSync(file, { force: true });
  step();
  mkdirSync(join(file, ".."), { recursive: true });
  writeFileSync(file, value);
}

function call(command, args, env = {}) {
  execFileSync(command, args, {
    cwd: root,
    stdio: "inherit",
    env: { ...process.env, ...env },
  });
}

/**
 * Compiles the database, the one package that is not JavaScript, and keeps what comes out for the next copy of Arnik
 * on this machine: it takes minutes of one core. Nothing is ever downloaded for it.
 */
async function installDatabase() {
  const folder = join(root, "node_modules/better-sqlite3");
  const built = join(folder, "build/Release/better_sqlite3.node");
  const { version } = JSON.parse(
    readFileSync(join(folder, "package.json"), "utf8"),
  );
  const { platform, arch, versions } = process;
  const kept = join(
    process.env.XDG_CACHE_HOME || join(homedir(), ".cache"),
    "arnik",
    `better-sqlite3-${version}-${platform}-${arch}-${versions.modules}.node`,
  );
  const loads = (file) =>
    spawnSync(
      process.execPath,
      [
        "-e",
        "const D = require(process.argv[1]); new D(':memory:', { nativeBinding: process.argv[2] }).exec('SELECT 1')",
        folder,
        file,
      ],
      { stdio: "ignore" },
    ).status === 0;
  if (existsSync(built) && loads(built)) return;
  if (existsSync(kept) && loads(kept)) {
    mkdirSync(dirname(built), { recursive: true });
    copyFileSync(kept, built);
    return;
  }
  process.stdout.write("compiling the database, which takes some minutes\n");
  const status = await new Promise((resolve, reject) =>
    spawn("npm", ["rebuild", "better-sqlite3", "--loglevel=error"], {
      cwd: root,
      stdio: "inherit",
      env: { ...process.env, npm_config_build_from_source: "true" },
    })
      .on("error", reject)
      .on("close", resolve),
  );
  if (status !== 0)
    throw new Error(
      `the database could not be compiled (npm ended with ${status})`,
    );
  try {
    mkdirSync(dirname(kept), { recursive: true });
    // Whole or not at all, whoever else does the same.
    copyFileSync(built, `${kept}.${process.pid}`);
    renameSync(`${kept}.${process.pid}`, kept);
  } catch {
    // Where nothing can be kept it is compiled again another time.
  }
}

/** @param meanwhile what can go on while the database is compiled: all that needs the packages and no database */
export async function setup(meanwhile = async () => {}) {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new Error(
      `Arnik needs Node 20.19 or newer; this is ${process.versions.node}`,
    );
  once(
    "node_modules/.arnik-installed",
    digest(["package-lock.json"]) + process.versions.modules,
    "installing packages",
    () =>
      call("npm", [
        "ci",
        "--ignore-scripts",
        "--no-audit",
        "--no-fund",
        "--loglevel=error",
      ]),
  );
  // What goes wrong is told once all has ended.
  const database = installDatabase().then(
    () => null,
    (error) => error,
  );
  once("dist/.arnik-built", digest(BUILT_FROM), "building", () => {
    call(process.execPath, ["scripts/build-node.mjs"]);
    call(
      process.execPath,
      ["node_modules/nuxt/bin/nuxt.mjs", "build", "--logLevel=silent"],
      {
        NUXT_TELEMETRY_DISABLED: "1",
        NODE_OPTIONS: "--max-old-space-size=4096",
      },
    );
  });
  await meanwhile();
  const error = await database;
  if (error) throw error;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await setup();
