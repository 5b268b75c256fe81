import { decode as decodePng } from "fast-png";
import { decode as decodeJpeg } from "jpeg-js";
import { MeshFormatError } from "../base/errors";
import { pictureSize } from "./picture";

/** A picture as it is read from: 3 × width × height, sRGB, rows from the top. */
export interface PicturePixels {
  /** px */
  width: number;
  height: number;
  pixels: Uint8Array;
}

/** Megabytes that opening a JPEG may take: as much as the largest picture that is kept. */
const MOST_MEMORY = 2048;

/** A picture with all the steps that it has. */
export interface DeepPixels extends Omit<PicturePixels, "pixels"> {
  depth: 8 | 16;
  /** 3 × width × height: 0 … 255, or 0 … 65535 at 16 bits; rows from the top. */
  pixels: Uint8Array | Uint16Array;
}

/**
 * The colours of a PNG or JPEG in 8 bits.
 * @throws MeshFormatError for what can't be opened
 */
export function picturePixels(name: string, bytes: Uint8Array): PicturePixels {
  const { width, height, depth, pixels } = deepPixels(name, bytes);
  return {
    width,
    height,
    pixels: depth === 16 ? Uint8Array.from(pixels, (x) => x >> 8) : pixels,
  } as PicturePixels;
}

/**
 * The colours of a PNG or JPEG, at 16 bits where it has them.
 * @throws MeshFormatError for what can't be opened
 */
export function deepPixels(name: string, bytes: Uint8Array): DeepPixels {
  const { kind, width, height } = pictureSize(name, bytes);
  try {
    if (kind === "png") return fromPng(bytes);
    const { data } = decodeJpeg(bytes, {
      useTArray: true,
      formatAsRGBA: false,
      maxResolutionInMP: (width * height) / 1e6 + 1,
      maxMemoryUsageInMB: MOST_MEMORY,
    });
    return { width, height, depth: 8, pixels: data };
  } catch {
    throw new MeshFormatError(
      name,
      "the picture can't be opened: save it again",
    );
  }
}

/** Of all kinds of PNG: grey, coloured, with a palette, at any depth. */
function fromPng(bytes: Uint8Array): DeepPixels {
  const { width, height, channels, depth, data, palette } = decodePng(bytes);
  const pixels =
    depth === 16
      ? new Uint16Array(3 * width * height)
      : new Uint8Array(3 * width * height);
  const perRow = Math.ceil((width * channels * depth) / 8);
  // Below 8 bits several numbers share a byte, the first in its high bits.
  const numberAt = (row: number, i: number): number => {
    if (depth >= 8) return data[row * width * channels + i];
    const bit = i * depth;
    const byte = data[row * perRow + (bit >> 3)];
    const value = (byte >> (8 - depth - (bit & 7))) & ((1 << depth) - 1);
    return palette ? value : (value * 255) / ((1 << depth) - 1);
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let k = 0; k < 3; k++)
        pixels[3 * (y * width + x) + k] = palette
          ? palette[numberAt(y, x)][k]
          : numberAt(y, channels * x + (channels < 3 ? 0 : k));
  return { width, height, depth: depth === 16 ? 16 : 8, pixels };
}
