const LETTERS =
  "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
/** The six bits of each character code; 64 for what is none. */
const BITS = new Uint8Array(128).fill(64);
for (let i = 0; i < 64; i++) BITS[LETTERS.charCodeAt(i)] = i;
BITS["-".charCodeAt(0)] = 62;
BITS["_".charCodeAt(0)] = 63;

/** The bytes of a data URI in base 64 (RFC 2397, RFC 4648), or null where it is none or has other characters. */
export function bytesOfDataUri(uri: string): Uint8Array<ArrayBuffer> | null {
  const comma = uri.indexOf(",");
  if (comma < 0 || !uri.slice(0, comma).endsWith(";base64")) return null;
  let end = uri.length;
  while (end > comma + 1 && uri[end - 1] === "=") end--;
  const bytes = new Uint8Array(Math.floor((3 * (end - comma - 1)) / 4));
  let at = 0;
  let held = 0;
  let bits = 0;
  for (let i = comma + 1; i < end; i++) {
    const code = uri.charCodeAt(i);
    const six = code < 128 ? BITS[code] : 64;
    if (six === 64) return null;
    held = (held << 6) | six;
    bits += 6;
    if (bits < 8) continue;
    bits -= 8;
    bytes[at++] = (held >> bits) & 255;
  }
  return bytes;
}
