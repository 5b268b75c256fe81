import { defineNuxtConfig } from "nuxt/config";
import { WorkshopPreset } from "./app/theme/preset";

const decorators = {
  compilerOptions: {
    experimentalDecorators: true,
    useDefineForClassFields: false,
  },
};

export default defineNuxtConfig({
  compatibilityDate: "2026-06-01",
  ssr: false,
  telemetry: false,
  devtools: { enabled: false },
  modules: ["@pinia/nuxt", "@primevue/nuxt-module"],
  srcDir: "app/",
  serverDir: "server/",
  css: [
    "@fontsource/zilla-slab/500.css",
    "@fontsource/zilla-slab/600.css",
    "@fontsource/source-sans-3/400.css",
    "@fontsource/source-sans-3/600.css",
    "@fontsource/ibm-plex-mono/400.css",
    "@fontsource/ibm-plex-mono/500.css",
    "primeicons/primeicons.css",
    "~/theme/workshop.css",
  ],
  app: {
    head: {
      title: "Arnik",
      htmlAttrs: { lang: "en" },
      link: [{ rel: "icon", type: "image/svg+xml", href: "/icon.svg" }],
    },
  },
  primevue: {
    options: {
      theme: { preset: WorkshopPreset, options: { darkModeSelector: ".dark" } },
    },
  },
  nitro: {
    // scripts/serve.mjs listens: it opens the data folder first, and says why where that or the port is taken.
    preset: "node-listener",
    serveStatic: true,
    esbuild: { options: { target: "es2022", tsconfigRaw: decorators } },
  },
  hooks: {
    // The router's plugin for types of route blocks can't be found from here, and nobody writes such blocks; Nuxt names
    // it all the same, in a hook that is there only once all is ready.
    ready: (nuxt) =>
      void nuxt.hook("prepare:types", ({ tsConfig }) => {
        const options = tsConfig.vueCompilerOptions as
          { plugins?: unknown[] } | undefined;
        if (options?.plugins)
          options.plugins = options.plugins.filter(
            (plugin) => !String(plugin).startsWith("vue-router/volar/"),
          );
      }),
  },
  vite: { worker: { format: "es" } },
  typescript: {
    strict: true,
    tsConfig: { compilerOptions: { experimentalDecorators: true } },
  },
});
