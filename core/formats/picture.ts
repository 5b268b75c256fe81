import { MeshFormatError } from "../base/errors";

export interface PictureSize {
  kind: "png" | "jpeg";
  width: number;
  height: number;
}

/** Largest picture that is kept, bytes, and its longest edge, px. */
const LARGEST = 32 * 1024 * 1024;
const LONGEST = 16384;
/** Most pixels: whoever draws it needs four bytes for each. */
const MOST_PIXELS = 16384 * 8192;

/**
 * Kind and size of a PNG or JPEG by its header (PNG specification 11.2.2, ITU-T T.81 B.2.2).
 * @throws MeshFormatError for anything else, and for pictures too large
 */
export function pictureSize(name: string, bytes: Uint8Array): PictureSize {
  if (bytes.length > LARGEST)
    throw new MeshFormatError(name, "pictures up to 32 MB are kept");
  const size = pngSize(bytes) ?? jpegSize(bytes);
  if (!size)
    throw new MeshFormatError(name, "neither a PNG nor a JPEG picture");
  checkSides(name, size.width, size.height);
  return size;
}

/** @throws MeshFormatError for a picture without pixels, or with more than are held, by its sides in px */
export function checkSides(name: string, width: number, height: number): void {
  if (!width || !height || Math.max(width, height) > LONGEST)
    throw new MeshFormatError(
      name,
      `${width} × ${height} px; pictures up to ${LONGEST} px a side are kept`,
    );
  if (width * height > MOST_PIXELS)
    throw new MeshFormatError(
      name,
      `${width} × ${height} px; pictures up to ${Math.floor(MOST_PIXELS / 1e6)} million px are kept`,
    );
}

function pngSize(bytes: Uint8Array): PictureSize | null {
  const signature = [137, 80, 78, 71, 13, 10, 26, 10];
  if (bytes.length < 24 || signature.some((byte, i) => bytes[i] !== byte))
    return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  return { kind: "png", width: view.getUint32(16), height: view.getUint32(20) };
}

function jpegSize(bytes: Uint8Array): PictureSize | null {
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) return null;
    const marker = bytes[at + 1];
    // Start of frame, all kinds but the tables between them.
    if (
      marker >= 0xc0 &&
      marker <= 0xcf &&
      ![0xc4, 0xc8, 0xcc].includes(marker)
    )
      return {
        kind: "jpeg",
        height: view.getUint16(at + 5),
        width: view.getUint16(at + 7),
      };
    at += 2 + view.getUint16(at + 2);
  }
  return null;
}
