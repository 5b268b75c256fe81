// Everything that must hold: lint, types, unit tests, browser tests against the built app.
import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { setup } from "./setup.mjs";

const root = fileURLToPath(new URL("..", import.meta.url));
const reports = mkdtempSync(join(tmpdir(), "arnik-reports-"));
let passed = 0;
let failed = 0;

function run(what, command, args, env = {}) {
  process.stdout.write(`\n== ${what}\n`);
  const { status } = spawnSync(command, args, {
    cwd: root,
    stdio: "inherit",
    env: { ...process.env, ...env },
  });
  return status === 0;
}

/** Runs tools of one thread side by side, and prints what each said when all are done. */
async function checkTogether(checks) {
  const results = await Promise.all(
    checks.map(
      ([what, ...args]) =>
        new Promise((resolve) => {
          const child = spawn(process.execPath, args, { cwd: root });
          let said = "";
          child.stdout.on("data", (text) => (said += text));
          child.stderr.on("data", (text) => (said += text));
          child.on("close", (status) => resolve({ what, said, status }));
        }),
    ),
  );
  for (const { what, said, status } of results) {
    process.stdout.write(`\n== ${what}\n${said}`);
    if (status === 0) passed++;
    else failed++;
  }
}

function vitest(what, name, env) {
  const file = join(reports, `${name}.json`);
  const ok = run(
    what,
    process.execPath,
    [
      "node_modules/vitest/vitest.mjs",
      "run",
      "--reporter=default",
      "--reporter=json",
      `--outputFile=${file}`,
    ],
    env,
  );
  if (!existsSync(file)) {
    failed++;
    return;
  }
  const { numPassedTests, numFailedTests } = JSON.parse(
    readFileSync(file, "utf8"),
  );
  passed += numPassedTests;
  failed += Math.max(numFailedTests, ok ? 0 : 1);
}

const checks = () =>
  checkTogether([
    ["lint", "node_modules/eslint/bin/eslint.js", "."],
    [
      "format",
      "node_modules/prettier/bin/prettier.cjs",
      "--check",
      "--log-level=warn",
      ".",
    ],
    [
      "types",
      "node_modules/vue-tsc/bin/vue-tsc.js",
      "--noEmit",
      "-p",
      "tsconfig.json",
    ],
  ]);
await setup(checks);
if (!existsSync(process.env.CHROMIUM ?? "/usr/bin/chromium")) {
  run("package lists", "apt-get", ["update", "-qq"]);
  run("Chromium", "apt-get", [
    "install",
    "-y",
    "-qq",
    "--no-install-recommends",
    "chromium",
  ]);
}
vitest("unit tests", "unit", {});
vitest("browser tests", "browser", { ARNIK_BROWSER: "1" });
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exitCode = failed ? 1 : 0;
