// Starts Arnik on this machine with the Sorrel Quay set; makes what is missing first.
import { spawn, spawnSync } from "node:child_process";
import { fileURLToPath } from "node:url";
import { setup } from "./setup.mjs";

const root = fileURLToPath(new URL("..", import.meta.url));
await setup();
const env = {
  ...process.env,
  ARNIK_ROOT: root,
  ARNIK_DATA: process.env.ARNIK_DATA ?? `${root}data`,
};
const made = spawnSync(process.execPath, ["dist/make-demo.mjs"], {
  cwd: root,
  env,
  stdio: "inherit",
});
if (made.status !== 0) process.exit(made.status ?? 1);
const server = spawn(process.execPath, ["scripts/serve.mjs"], {
  cwd: root,
  env,
  stdio: "inherit",
});
for (const signal of ["SIGINT", "SIGTERM"])
  process.on(signal, () => server.kill(signal));
server.on("exit", (code) => process.exit(code ?? 0));
