import { defineConfig } from "vitest/config";

export default defineConfig({
  oxc: false,
  esbuild: {
    tsconfigRaw: {
      compilerOptions: {
        experimentalDecorators: true,
        useDefineForClassFields: false,
      },
    },
  },
  test: {
    include: ["**/*.test.ts"],
    exclude: ["node_modules", ".output", ".nuxt", "dist"],
    testTimeout: 120000,
    pool: "forks",
  },
} as object);
