import { createHash } from "node:crypto";

/** SHA-256 of bytes in hexadecimal, by the processor's own instructions; `core/base/sha256.ts` elsewhere. */
export const sha256 = (bytes: Uint8Array): string =>
  createHash("sha256").update(bytes).digest("hex");
