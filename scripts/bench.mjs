// Measures Arnik against general libraries; see docs/measuring.md. Words: reduce, unwrap, bake, rays, survey, page, scan, store; --json.
import { spawnSync } from "node:child_process";
import { fileURLToPath } from "node:url";
import { setup } from "./setup.mjs";

const root = fileURLToPath(new URL("..", import.meta.url));
await setup();
const words = process.argv.slice(2);
const script =
  words.includes("page") || words.includes("scan")
    ? "dist/bench-page.mjs"
    : words.includes("store")
      ? "dist/bench-store.mjs"
      : "dist/bench.mjs";
process.exitCode =
  spawnSync(process.execPath, [script, ...words], {
    cwd: root,
    stdio: "inherit",
  }).status ?? 1;
