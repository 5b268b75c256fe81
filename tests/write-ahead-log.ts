import { readFileSync } from "node:fs";

/**
 * Bytes of a SQLite log up to the end of its last commit (sqlite.org/fileformat2, "The Write-Ahead Log"): frames of
 * the present salt, of which those that end a transaction carry the size of the database.
 */
export function committedFrames(path: string): number {
  const bytes = readFileSync(path);
  if (bytes.length < 32) return 0;
  const frame = 24 + bytes.readUInt32BE(8);
  const salt = bytes.subarray(16, 24);
  let end = 32;
  for (let at = 32; at + frame <= bytes.length; at += frame) {
    if (!bytes.subarray(at + 8, at + 16).equals(salt)) break;
    if (bytes.readUInt32BE(at + 4) > 0) end = at + frame;
  }
  return end;
}
