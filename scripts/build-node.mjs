// Bundles what runs in Node besides the web server: command line, worker threads, demo generator, bench.
import { build } from "esbuild";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));

export const buildNode = () =>
  build({
    absWorkingDir: root,
    entryPoints: {
      arnik: "cli/main.ts",
      "kernel-worker": "host/kernel-worker.ts",
      "job-process": "server/jobs/job-process.ts",
      "job-worker": "server/jobs/job-worker.ts",
      "store-thread": "server/store/store-thread.ts",
      "make-demo": "demo/make-demo.ts",
      bench: "bench/main.ts",
      "bench-page": "bench/page.ts",
      "bench-store": "bench/store.ts",
      torture: "tests/torture/main.ts",
    },
    bundle: true,
    splitting: true,
    platform: "node",
    target: "node20",
    format: "esm",
    packages: "external",
    outdir: "dist",
    outExtension: { ".js": ".mjs" },
    sourcemap: false,
    logLevel: "warning",
    tsconfigRaw: {
      compilerOptions: {
        experimentalDecorators: true,
        useDefineForClassFields: false,
      },
    },
  });

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildNode();
