import type { PngChunk } from "./png-chunks";
import { joinArrays } from "../base/join-arrays";
import { pngChunk, PNG_SIGNATURE } from "./png-chunks";

/** Length, name and check sum of a chunk, bytes. */
const AROUND = 12;

/**
 * Pictures one after the other as an animated PNG that runs for ever (PNG, third edition, 11.3.6). Where animation is
 * not known the first is shown.
 * @param frames PNGs of one size and kind, at least one
 * @param seconds that each is shown
 */
export function animatedPng(
  frames: readonly Uint8Array[],
  seconds: number,
): Uint8Array {
  const first = chunksOf(frames[0]);
  const header = first.find(({ type }) => type === "IHDR")!.data;
  const made: PngChunk[] = [
    { type: "IHDR", data: header },
    { type: "acTL", data: numbers(frames.length, 0) },
  ];
  let number = 0;
  frames.forEach((frame, f) => {
    made.push({
      type: "fcTL",
      data: joinArrays(Uint8Array, [
        // Its number, its size, and that it lies at 0, 0.
        numbers(number++, readUint32(header, 0), readUint32(header, 4), 0, 0),
        // Hundredths of a second; each takes the place of the one before.
        Uint8Array.of(0, Math.round(100 * seconds), 0, 100, 0, 0),
      ]),
    });
    for (const { type, data } of chunksOf(frame))
      if (type === "IDAT")
        made.push(
          f
            ? {
                type: "fdAT",
                data: joinArrays(Uint8Array, [numbers(number++), data]),
              }
            : { type, data },
        );
  });
  made.push({ type: "IEND", data: new Uint8Array(0) });
  return joinArrays(Uint8Array, [PNG_SIGNATURE, ...made.map(pngChunk)]);
}

function chunksOf(png: Uint8Array): PngChunk[] {
  const chunks: PngChunk[] = [];
  for (let at = PNG_SIGNATURE.length; at < png.length;) {
    const length = readUint32(png, at);
    chunks.push({
      type: String.fromCharCode(...png.subarray(at + 4, at + 8)),
      data: png.subarray(at + 8, at + 8 + length),
    });
    at += AROUND + length;
  }
  return chunks;
}

const readUint32 = (bytes: Uint8Array, at: number) =>
  new DataView(bytes.buffer, bytes.byteOffset).getUint32(at);

/** Numbers of 32 bits, the largest byte first. */
const numbers = (...values: number[]): Uint8Array => {
  const bytes = new Uint8Array(4 * values.length);
  const view = new DataView(bytes.buffer);
  values.forEach((value, i) => view.setUint32(4 * i, value));
  return bytes;
};
