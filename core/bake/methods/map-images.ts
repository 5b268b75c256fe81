import type { BakedMap, BakedKind } from "../../base/pictures";
import { distinctColour, toSrgb } from "../../formats/colours";
import { ditherAt, stepOf } from "../../formats/dither";

/** Bits of each channel: as each map wants it, or those. */
export type Depth = "map" | 8 | 16;

/** How the values of a map become steps of its pixels. */
export interface Encoding {
  /** px */
  width: number;
  height: number;
  depth: Depth;
  /** Whether green points up the sheet in tangent-space normals. */
  greenUp: boolean;
  /** What stands for 0 and for 1 in positions, metres: by axis. */
  low: readonly number[];
  high: readonly number[];
  /** What stands for white in heights, above the middle grey of the game mesh's surface, and in thickness; metres. */
  range: number;
  thickest: number;
  /** `#rrggbb` of ID 1, 2, … */
  palette: readonly string[];
}

/** Maps whose steps would show at 8 bits: they have 16 unless asked otherwise, and are dithered then. */
const FINE: readonly BakedKind[] = ["normal", "position", "gradient", "height"];

/** Bits that a kind of map has where `depth` is asked for. */
export function depthOf(kind: BakedKind, depth: Depth): 8 | 16 {
  if (kind === "status") return 8;
  if (depth !== "map") return depth;
  return FINE.includes(kind) ? 16 : 8;
}

/** Values of a sheet: unit vectors in 16 bits, all else as they are. */
export type SheetValues = Float32Array | Int16Array;

type Pixel = (values: SheetValues, at: number, to: number[]) => void;

/** −1 … 1 to 0 … 1. */
const half = (x: number) => x * 0.5 + 0.5;

/** What the values of a texel are as shares of full white, 1 or 3 of them. */
function pixelOf(kind: BakedKind, encoding: Encoding): [1 | 3, Pixel] {
  const { low, high, range, thickest } = encoding;
  const share = (x: number, k: number) =>
    high[k] > low[k] ? (x - low[k]) / (high[k] - low[k]) : 0.5;
  switch (kind) {
    case "normal":
    case "object":
    case "bent": {
      const green = kind !== "normal" || encoding.greenUp ? 1 : -1;
      const none = kind === "normal" ? [0, 0, 1] : [0, 0, 0];
      return [
        3,
        (values, at, to) => {
          const length = Math.hypot(values[at], values[at + 1], values[at + 2]);
          for (let k = 0; k < 3; k++)
            to[k] = half(
              (k === 1 ? green : 1) *
                (length > 0 ? values[at + k] / length : none[k]),
            );
        },
      ];
    }
    case "position":
      return [
        3,
        (values, at, to) => {
          for (let k = 0; k < 3; k++) to[k] = share(values[at + k], k);
        },
      ];
    case "gradient":
      return [1, (values, at, to) => void (to[0] = share(values[at + 1], 1))];
    case "height":
      return [
        1,
        (values, at, to) => void (to[0] = half(values[at] / (range || 1))),
      ];
    case "thickness":
      return [1, (values, at, to) => void (to[0] = values[at] / thickest)];
    case "curvature":
      return [1, (values, at, to) => void (to[0] = half(values[at]))];
    case "colour":
      return [
        3,
        (values, at, to) => {
          for (let k = 0; k < 3; k++) to[k] = toSrgb(values[at + k]);
        },
      ];
    case "id":
    case "material":
    case "part": {
      const ink = inkOf(kind === "id" ? encoding.palette : []);
      return [3, (values, at, to) => ink(values[at], to)];
    }
    case "status":
      return [1, (values, at, to) => void (to[0] = values[at] / 255)];
    case "ao":
    case "visibility":
    case "opacity":
      return [1, (values, at, to) => void (to[0] = values[at])];
  }
}

/** The colours of 1, 2, …, given or told apart; black for 0. */
function inkOf(given: readonly string[]): (name: number, to: number[]) => void {
  const known = new Map<number, number[]>([[0, [0, 0, 0]]]);
  return (name, to) => {
    let ink = known.get(name);
    if (!ink) {
      const hex = given[name - 1] ?? distinctColour(name - 1);
      ink = [1, 3, 5].map((k) => parseInt(hex.slice(k, k + 2), 16) / 255);
      known.set(name, ink);
    }
    for (let k = 0; k < 3; k++) to[k] = ink[k];
  };
}

/**
 * The picture of a map. Rows turn round: the sheet's first row is at the bottom, an image's at the top.
 * @param values 1 or 3 × width × height, in the unit of its channel: metres, shares of 1 or unit vectors
 *   (core/bake/methods/channels.ts); those of 16 bits are lost where the picture has as many, which takes their place
 */
export function mapImage(
  kind: BakedKind,
  values: SheetValues,
  encoding: Encoding,
): BakedMap {
  const { width, height } = encoding;
  const depth = depthOf(kind, encoding.depth);
  const top = depth === 16 ? 65535 : 255;
  const [channels, pixel] = pixelOf(kind, encoding);
  const stride = values.length / (width * height);
  const count = channels * width * height;
  const inPlace =
    depth === 16 && values instanceof Int16Array && values.length === count;
  const pixels = inPlace
    ? new Uint16Array(values.buffer, values.byteOffset, count)
    : depth === 16
      ? new Uint16Array(count)
      : new Uint8Array(count);
  const dithers = depth === 8 && FINE.includes(kind);
  const shares = [0, 0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      pixel(values, stride * (y * width + x), shares);
      const to = channels * (y * width + x);
      for (let k = 0; k < channels; k++)
        pixels[to + k] = stepOf(
          shares[k],
          top,
          dithers ? ditherAt(x, height - 1 - y, k) : 0,
        );
    }
  turnRows(pixels, channels * width, height);
  return { kind, width, height, channels, depth, pixels };
}

/** Turns rows round where they lie, the last one first. @param pixels row × rows numbers, whatever they are */
function turnRows(
  pixels: Uint8Array | Uint16Array,
  row: number,
  rows: number,
): void {
  for (let y = 0; y < rows >> 1; y++) {
    const low = row * y;
    const high = row * (rows - 1 - y);
    const kept = pixels.slice(low, low + row);
    pixels.copyWithin(low, high, high + row);
    pixels.set(kept, high);
  }
}
