#!/usr/bin/env node
import { existsSync } from "node:fs";

const built = new URL("../dist/arnik.mjs", import.meta.url);
if (existsSync(built)) await import(built.href);
else {
  process.stderr.write("arnik: not built yet: run `npm run setup` first\n");
  process.exitCode = 1;
}
