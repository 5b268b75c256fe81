import { sha256 as digest } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";

/** SHA-256 of bytes in hexadecimal, where there is no Node: `host/sha256.ts` stands in its place there. */
export const sha256 = (bytes: Uint8Array): string => bytesToHex(digest(bytes));
