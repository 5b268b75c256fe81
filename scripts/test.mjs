// Everything that must hold: lint, types, unit tests, browser tests against the built app.
import { spawn } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { constants, setPriority, tmpdir } from "node:os";
import { join, relative } from "node:path";
import { fileURLToPath } from "node:url";
import { setup } from "./setup.mjs";

const root = fileURLToPath(new URL("..", import.meta.url));
const reports = mkdtempSync(join(tmpdir(), "arnik-reports-"));
const failures = [];
let passed = 0;
let failed = 0;

/** Runs a tool that prints as it goes; true where it ended well. */
function run(what, command, args, env = {}) {
  process.stdout.write(`\n== ${what}\n`);
  return new Promise((resolve) =>
    spawn(command, args, {
      cwd: root,
      stdio: "inherit",
      env: { ...process.env, ...env },
    })
      .on("error", () => resolve(false))
      .on("close", (status) => resolve(status === 0)),
  );
}

/**
 * Runs a tool, and prints what it said when it has ended.
 * @param yields whether others go before it where the processor is short
 * @returns its exit status
 */
function runBeside(what, args, yields = false) {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, args, {
      cwd: root,
      detached: yields,
    });
    if (yields && child.pid) giveWay(child.pid);
    let said = "";
    child.stdout.on("data", (text) => (said += text));
    child.stderr.on("data", (text) => (said += text));
    child.on("close", (status) => {
      process.stdout.write(`\n== ${what}\n${said}`);
      resolve(status);
    });
  });
}

/** Lets a process, which leads a group of its own, and all that it starts have only what others leave of the processor. */
function giveWay(pid) {
  setPriority(pid, constants.priority.PRIORITY_LOW);
  try {
    // Linux may share the processor out by sessions first, and by priorities only within each.
    writeFileSync(
      `/proc/${pid}/autogroup`,
      String(constants.priority.PRIORITY_LOW),
    );
  } catch {
    // Elsewhere priorities are enough.
  }
  const end = () => {
    try {
      process.kill(-pid);
    } catch {
      // It has ended.
    }
  };
  process.on("exit", end);
  for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"])
    process.on(signal, () => process.exit(1));
}

async function checkTogether(checks) {
  await Promise.all(
    checks.map(async ([what, ...args]) => {
      if ((await runBeside(what, args)) === 0) passed++;
      else {
        failed++;
        failures.push(what);
      }
    }),
  );
}

/** What a failure says, without where in the code it was said. */
const inShort = (message = "") =>
  message
    .split(/\n\s+at /)[0]
    .replace(/\s+/g, " ")
    .slice(0, 600);

const reportOf = (name) => join(reports, `${name}.json`);
const vitestOf = (name) => [
  "node_modules/vitest/vitest.mjs",
  "run",
  "--reporter=default",
  "--reporter=json",
  `--outputFile=${reportOf(name)}`,
];

/** Counts what a report tells, and keeps the names of what failed, as what was printed of it may be far up by the end. */
function count(name, ok) {
  if (!existsSync(reportOf(name))) {
    failed++;
    failures.push(`${name}: ended without a report`);
    return;
  }
  const report = JSON.parse(readFileSync(reportOf(name), "utf8"));
  passed += report.numPassedTests;
  failed += Math.max(report.numFailedTests, ok ? 0 : 1);
  for (const file of report.testResults) {
    const bad = file.assertionResults.filter((t) => t.status === "failed");
    const from = relative(root, file.name);
    for (const test of bad)
      failures.push(
        `${from}: ${test.fullName}: ${inShort(test.failureMessages[0])}`,
      );
    if (file.status === "failed" && !bad.length)
      failures.push(`${from}: ${inShort(file.message)}`);
  }
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
  await run("package lists", "apt-get", ["update", "-qq"]);
  await run("Chromium", "apt-get", [
    "install",
    "-y",
    "-qq",
    "--no-install-recommends",
    "chromium",
  ]);
}
// Browser tests wait more than they compute: unit tests have the processor whenever those leave it, and after them.
const units = runBeside("unit tests", vitestOf("unit"), true);
count(
  "browser",
  await run("browser tests", process.execPath, vitestOf("browser"), {
    ARNIK_BROWSER: "1",
  }),
);
count("unit", (await units) === 0);
if (failures.length)
  process.stdout.write(`\n== failed\n${failures.join("\n")}\n`);
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exitCode = failed ? 1 : 0;
