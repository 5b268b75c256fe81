import { encode as encodeJpeg } from "jpeg-js";
import { encodeWebp } from "#webp";
import { writePng } from "./png";
import type { PictureMeaning } from "./write-ktx2";
import { writeKtx2 } from "./write-ktx2";

export const PICTURE_FORMATS = ["png", "jpeg", "webp", "ktx2"] as const;
export type PictureFormat = (typeof PICTURE_FORMATS)[number];

/** A picture of 8 bits a channel; rows from the top. */
export interface PlainPicture {
  width: number;
  height: number;
  channels: 1 | 3 | 4;
  /** channels × width × height */
  pixels: Uint8Array;
}

export interface EncodedPicture {
  bytes: Uint8Array;
  mimeType: `image/${PictureFormat}`;
}

/**
 * A picture as a file. A PNG as well is what has an alpha, which no JPEG knows, and what has sides that are no multiples
 * of four, which glTF wants of KTX2.
 * @param quality 1 … 100, of what loses
 * @param step is told the share of what takes long that is done, and throws to stop
 */
export async function encodePicture(
  picture: PlainPicture,
  wanted: PictureFormat,
  quality: number,
  meaning: PictureMeaning,
  step: (done: number) => void,
): Promise<EncodedPicture> {
  const { width, height } = picture;
  const fits =
    wanted === "jpeg"
      ? picture.channels < 4
      : wanted !== "ktx2" || (width % 4 === 0 && height % 4 === 0);
  const format = fits ? wanted : "png";
  return {
    bytes:
      format === "png"
        ? writePng({ ...picture, kind: "colour", depth: 8 })
        : format === "jpeg"
          ? encodeJpeg({ width, height, data: withAlpha(picture) }, quality)
              .data
          : await (format === "webp" ? encodeWebp : writeKtx2)(
              { width, height, data: withAlpha(picture) },
              quality,
              meaning,
              step,
            ),
    mimeType: `image/${format}`,
  };
}

/** @returns 4 × width × height */
function withAlpha({ channels, pixels }: PlainPicture): Uint8Array {
  if (channels === 4) return pixels;
  const out = new Uint8Array((4 * pixels.length) / channels).fill(255);
  for (let i = 0; i < pixels.length / channels; i++)
    for (let k = 0; k < 3; k++)
      out[4 * i + k] = pixels[channels * i + (channels === 1 ? 0 : k)];
  return out;
}
