import { readFileSync } from "node:fs";

/**
 * Paths are bytes to the system. As text, bytes that are no UTF-8 stand as lone low surrogates U+DC80 … U+DCFF, so
 * that every name goes both ways unchanged (as PEP 383 does it).
 */
const LOWEST = 0xdc00;

/** Length of the UTF-8 sequence that begins at a byte (RFC 3629), 0 for none. */
function sequence(bytes: Uint8Array, at: number): number {
  const first = bytes[at];
  if (first < 0x80) return 1;
  const length = first < 0xc2 ? 0 : first < 0xe0 ? 2 : first < 0xf0 ? 3 : 4;
  if (!length || first > 0xf4) return 0;
  const second = bytes[at + 1];
  const least = first === 0xe0 ? 0xa0 : first === 0xf0 ? 0x90 : 0x80;
  const most = first === 0xed ? 0x9f : first === 0xf4 ? 0x8f : 0xbf;
  if (!(second >= least && second <= most)) return 0;
  for (let k = 2; k < length; k++)
    if ((bytes[at + k] & 0xc0) !== 0x80) return 0;
  return length;
}

/** A path as text, from its bytes. */
export function pathText(bytes: Uint8Array): string {
  let text = "";
  const decoder = new TextDecoder();
  for (let at = 0; at < bytes.length;) {
    const length = sequence(bytes, at);
    text += length
      ? decoder.decode(bytes.subarray(at, at + length))
      : String.fromCharCode(LOWEST + bytes[at]);
    at += length || 1;
  }
  return text;
}

/** A path as the system takes it: the text itself, or its bytes where they are no UTF-8. */
export function systemPath(text: string): string | Buffer {
  if (!/[\udc80-\udcff]/.test(text)) return text;
  const parts: Buffer[] = [];
  for (const char of text) {
    const code = char.codePointAt(0)!;
    parts.push(
      code >= LOWEST + 0x80 && code <= LOWEST + 0xff
        ? Buffer.of(code - LOWEST)
        : Buffer.from(char),
    );
  }
  return Buffer.concat(parts);
}

/** The words of this call, byte for byte where the system tells them (Node reads them as UTF-8 and loses the rest). */
export function wordsOfCall(): string[] {
  const words = process.argv.slice(2);
  if (!words.some((word) => word.includes("\ufffd"))) return words;
  try {
    const bytes = readFileSync("/proc/self/cmdline");
    const all: string[] = [];
    for (let at = 0; at < bytes.length;) {
      const end = bytes.indexOf(0, at);
      all.push(pathText(bytes.subarray(at, end)));
      at = end + 1;
    }
    return words.length ? all.slice(-words.length) : [];
  } catch {
    return words;
  }
}
