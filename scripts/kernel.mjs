// Compiles the ray kernel and writes it as a module of base64, so that the core needs no file at run time.
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));

export function compileKernel() {
  const out = join(mkdtempSync(join(tmpdir(), "arnik-")), "rays.wasm");
  execFileSync(
    process.execPath,
    [
      join(root, "node_modules/assemblyscript/bin/asc.js"),
      join(root, "core/space/kernel/rays.ts"),
      "-O3",
      "--runtime",
      "stub",
      "--enable",
      "simd",
      "--importMemory",
      "--noExportMemory",
      "-o",
      out,
    ],
    { stdio: ["ignore", "inherit", "inherit"] },
  );
  const base64 = readFileSync(out).toString("base64");
  const lines = base64.match(/.{1,76}/g).map((line) => `  "${line}"`);
  return `/** Made from kernel/rays.ts by \`npm run kernel\`. */\nexport const RAY_KERNEL =\n${lines.join(" +\n")};\n`;
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  writeFileSync(join(root, "core/space/ray-kernel.ts"), compileKernel());
