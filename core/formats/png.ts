import { Zlib } from "fflate";
import type { BakedMap } from "../base/pictures";
import { joinArrays } from "../base/join-arrays";
import { pngChunk, PNG_SIGNATURE } from "./png-chunks";

/** How hard it is compressed: beyond this time goes and little is gained. */
const LEVEL = 3;
/** Bytes that are compressed at a time, about: a map of a gigabyte is never there twice. */
const AT_A_TIME = 2 ** 20;
/** Kinds of pictures by their channels (PNG, third edition, 11.2.1). */
const COLOUR_TYPES = { 1: 0, 3: 2, 4: 6 };
/** How a row is told: as it is, by what stands left of it, or above it (there, 9.2). */
const NONE = 0;
const SUB = 1;
const UP = 2;

/** A map as PNG, compressed band by band; each row is told the way that leaves the smallest numbers. */
export function writePng({
  width,
  height,
  channels,
  depth,
  pixels,
}: Omit<BakedMap, "channels"> & { channels: 1 | 3 | 4 }): Uint8Array {
  const header = new Uint8Array(13);
  const view = new DataView(header.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  header[8] = depth;
  header[9] = COLOUR_TYPES[channels];
  const chunks = [PNG_SIGNATURE, pngChunk({ type: "IHDR", data: header })];
  const zlib = new Zlib({ level: LEVEL }, (data) => {
    if (data.length) chunks.push(pngChunk({ type: "IDAT", data }));
  });
  const perPixel = channels * (depth / 8);
  const row = perPixel * width;
  let above: Uint8Array = new Uint8Array(row);
  let own: Uint8Array = new Uint8Array(row);
  const rows = Math.max(1, Math.floor(AT_A_TIME / row));
  for (let from = 0; from < height; from += rows) {
    const to = Math.min(height, from + rows);
    const band = new Uint8Array((1 + row) * (to - from));
    for (let y = from; y < to; y++) {
      bytesOfRow(pixels, y, own);
      const at = (1 + row) * (y - from);
      band[at] = filterOf(own, above, perPixel);
      filter(own, above, perPixel, band[at], band.subarray(at + 1));
      [above, own] = [own, above];
    }
    zlib.push(band, to === height);
  }
  chunks.push(pngChunk({ type: "IEND", data: new Uint8Array(0) }));
  return joinArrays(Uint8Array, chunks);
}

/** The bytes of one row, the larger of two first. @param into as many as a row has */
function bytesOfRow(
  pixels: Uint8Array | Uint16Array,
  y: number,
  into: Uint8Array,
): void {
  if (pixels instanceof Uint16Array) {
    const first = (y * into.length) / 2;
    for (let i = 0; 2 * i < into.length; i++) {
      into[2 * i] = pixels[first + i] >> 8;
      into[2 * i + 1] = pixels[first + i] & 255;
    }
  } else into.set(pixels.subarray(y * into.length, (y + 1) * into.length));
}

/** The way of telling a row that leaves the smallest numbers, taken as signed. */
function filterOf(own: Uint8Array, above: Uint8Array, perPixel: number) {
  let none = 0;
  let sub = 0;
  let up = 0;
  for (let i = 0; i < own.length; i++) {
    const left = i < perPixel ? 0 : own[i - perPixel];
    none += Math.abs((own[i] << 24) >> 24);
    sub += Math.abs(((own[i] - left) << 24) >> 24);
    up += Math.abs(((own[i] - above[i]) << 24) >> 24);
  }
  return none <= sub && none <= up ? NONE : sub <= up ? SUB : UP;
}

function filter(
  own: Uint8Array,
  above: Uint8Array,
  perPixel: number,
  way: number,
  into: Uint8Array,
): void {
  if (way === NONE) into.set(own);
  else if (way === UP)
    for (let i = 0; i < own.length; i++) into[i] = own[i] - above[i];
  else
    for (let i = 0; i < own.length; i++)
      into[i] = own[i] - (i < perPixel ? 0 : own[i - perPixel]);
}

/** White with a mask as its alpha: colour multiplied with it has no halo at any mip level. @param mask of one channel */
export function whiteWith(mask: BakedMap) {
  const pixels = new Uint8Array(4 * mask.width * mask.height).fill(255);
  const shift = mask.depth === 16 ? 8 : 0;
  for (let i = 0; i < mask.pixels.length; i++)
    pixels[4 * i + 3] = mask.pixels[i] >> shift;
  return { ...mask, channels: 4 as const, depth: 8 as const, pixels };
}

/** The same map with its green channel turned over: 0 becomes the largest value. */
export function flipGreen(map: BakedMap): BakedMap {
  const pixels = map.pixels.slice();
  const top = map.depth === 16 ? 65535 : 255;
  for (let i = 1; i < pixels.length; i += 3) pixels[i] = top - pixels[i];
  return { ...map, pixels };
}
