// Bundles what runs in Node besides the web server: command line, worker threads, demo generator, bench.
import { build } from "esbuild";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("..", import.meta.url));

/**
 * Packages stay where they are, but for the validator: it is bundled, with the rules that are used alone. Loading all of
 * it (telephone numbers, postal codes) took longer than all else at the start of a call.
 */
const packages = {
  name: "packages",
  setup({ onResolve }) {
    // What begins with # is ours, named in package.json.
    onResolve({ filter: /^[^./#]/ }, ({ path, importer }) =>
      path === "class-validator" || /class-validator/.test(importer)
        ? undefined
        : { path, external: true },
    );
  },
};

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
      fingerprints: "bench/fingerprints.ts",
      "bench-page": "bench/page.ts",
      "bench-store": "bench/store.ts",
      torture: "tests/torture/main.ts",
    },
    bundle: true,
    splitting: true,
    platform: "node",
    target: "node20",
    format: "esm",
    plugins: [packages],
    mainFields: ["module", "main"],
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
