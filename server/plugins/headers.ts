import { randomBytes } from "node:crypto";
import type { H3Event } from "h3";
import { setResponseHeaders } from "h3";
import { defineNitroPlugin } from "nitropack/runtime";

/**
 * What a page of Arnik's may do: load what this server has, and nothing else. The one script within the page is
 * known by a number made for it; WebAssembly is the ray kernel and physics; blobs are pictures inside a GLB; styles are put in by the components.
 * @param library of the worker that opens KTX2 pictures, which sees nothing else: its library makes functions out of text
 */
const policy = (nonce: string, library: boolean) =>
  [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${library ? " 'unsafe-eval'" : ""}`,
    "worker-src 'self'",
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self' data:",
    "connect-src 'self' blob:",
    "base-uri 'none'",
    "form-action 'none'",
    "frame-ancestors 'none'",
  ].join("; ");

/** The worker's file as it is built. */
const BLOCK_WORKER = /^\/_nuxt\/block-pictures\.worker-[\w-]+\.js$/;

const nonces = new WeakMap<H3Event, string>();

/** Headers of every answer, files and refusals included. */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook("request", (event) => {
    const nonce = randomBytes(16).toString("base64");
    nonces.set(event, nonce);
    setResponseHeaders(event, {
      "Content-Security-Policy": policy(nonce, BLOCK_WORKER.test(event.path)),
      "Cross-Origin-Opener-Policy": "same-origin",
      "Cross-Origin-Resource-Policy": "same-origin",
      "Permissions-Policy":
        "camera=(), microphone=(), geolocation=(), payment=(), usb=()",
      "Referrer-Policy": "no-referrer",
      "X-Content-Type-Options": "nosniff",
      "X-Frame-Options": "DENY",
    });
  });
  // Nuxt's hooks are not among those that Nitro declares.
  const hooks = nitro.hooks as unknown as {
    hook(
      name: "render:html",
      then: (
        html: Record<string, unknown>,
        context: { event: H3Event },
      ) => void,
    ): void;
    hook(
      name: "render:response",
      then: (answer: { headers?: Record<string, string> }) => void,
    ): void;
  };
  hooks.hook("render:html", (html, { event }) => {
    for (const part of Object.values(html))
      if (Array.isArray(part))
        part.forEach((text, i) => {
          if (typeof text === "string")
            part[i] = text.replaceAll(
              "<script",
              `<script nonce="${nonces.get(event) ?? ""}"`,
            );
        });
  });
  hooks.hook("render:response", ({ headers }) => {
    if (headers) delete headers["x-powered-by"];
  });
});
