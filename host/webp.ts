import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { init } from "@jsquash/webp/encode.js";
import { encodeWebp as encodeLoaded } from "../core/formats/webp";

let loaded: Promise<unknown> | null = null;

/** A picture with alpha as WebP, see core/formats/webp.ts: Node gives the library its code, which pages fetch. */
export async function encodeWebp(
  ...call: Parameters<typeof encodeLoaded>
): Promise<Uint8Array> {
  loaded ??= init(
    new WebAssembly.Module(
      readFileSync(
        createRequire(import.meta.url).resolve(
          "@jsquash/webp/codec/enc/webp_enc_simd.wasm",
        ),
      ),
    ),
  );
  await loaded;
  return encodeLoaded(...call);
}
