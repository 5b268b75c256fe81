// Attacks store and queue of the built server; see docs/measuring.md. Words: --minutes N, --seeds A,B, --json.
import { spawnSync } from "node:child_process";
import { fileURLToPath } from "node:url";
import { setup } from "./setup.mjs";

await setup();
process.exitCode =
  spawnSync(process.execPath, ["dist/torture.mjs", ...process.argv.slice(2)], {
    cwd: fileURLToPath(new URL("..", import.meta.url)),
    stdio: "inherit",
  }).status ?? 1;
