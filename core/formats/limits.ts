import { MeshFormatError } from "../base/errors";

/** Most vertices, faces or corners a file may have. */
export const MOST_ELEMENTS = 60_000_000;
/** Most parts: each is named, listed and worked by itself. */
export const MOST_PARTS = 10_000;
/** Most materials of a file; faces name theirs in 16 bits. */
export const MOST_MATERIALS = 65_000;

/** @throws MeshFormatError where a file has more parts than are taken */
export function checkPartCount(file: string, parts: number): void {
  if (parts > MOST_PARTS)
    throw new MeshFormatError(
      file,
      `it has ${parts} parts; up to ${MOST_PARTS} are taken: join pieces before exporting`,
    );
}
