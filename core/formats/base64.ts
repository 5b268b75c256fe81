/** Bytes as base64 text. */
export function toBase64(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192)
    text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return btoa(text);
}

/** The bytes of base64 text, or null for anything else. @param longest characters that are looked at */
export function fromBase64(text: unknown, longest: number): Uint8Array | null {
  if (typeof text !== "string" || text.length > longest) return null;
  try {
    const decoded = atob(text);
    return Uint8Array.from(decoded, (char) => char.charCodeAt(0));
  } catch {
    return null;
  }
}
