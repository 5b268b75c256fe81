import { availableParallelism } from "node:os";
import vue from "@vitejs/plugin-vue";
import unimport from "unimport/unplugin";
import { defineConfig } from "vitest/config";

/** Unit tests beside the core, or with ARNIK_BROWSER=1 those that drive the built app and its server. */
const browser = process.env.ARNIK_BROWSER === "1";

export default defineConfig({
  // Components are mounted as Nuxt builds them, which imports Vue's functions by their names.
  plugins: [vue(), unimport.vite({ presets: ["vue"] })],
  oxc: {
    decorator: { legacy: true },
    typescript: { removeClassFieldsWithoutInitializer: true },
    assumptions: { setPublicClassFields: true },
  },
  test: {
    include: browser
      ? ["tests/browser/**/*.test.ts", "tests/server/**/*.test.ts"]
      : ["**/*.test.ts"],
    exclude: [
      "node_modules",
      ".output",
      ".nuxt",
      "dist",
      ...(browser ? [] : ["tests/browser/**", "tests/server/**"]),
    ],
    testTimeout: 240_000,
    hookTimeout: 120_000,
    fileParallelism: !browser,
    // All cores: by itself vitest leaves one alone, which is half of a small machine.
    maxWorkers: browser ? 1 : availableParallelism(),
    pool: "forks",
    // Loading the core once a process, not once a file, saves a tenth of the time; nothing in it is changed by using it.
    isolate: browser,
  },
});
