import { Zstd } from "@hpcc-js/wasm-zstd";
import type { KTX2Container } from "ktx-parse";
import { KHR_SUPERCOMPRESSION_ZSTD, read, write } from "ktx-parse";
import { basis } from "#basis";
import type { Basis } from "./basis";
import { ArnikError } from "../base/errors";
import { readKtx2 } from "./read-ktx2";

/** What a picture holds, for who makes mips of it: directions, other numbers, or a colour with what is see-through. */
export type PictureMeaning = "normal" | "data" | "alpha";

interface Pixels {
  width: number;
  height: number;
  /** 4 × width × height, rows from the top */
  data: Uint8Array;
}

/** Texels of a strip that is packed in one go: cancelling waits for no more. */
const STRIP = 2 ** 17;
/** Of a block, texels a side. */
const BLOCK = 4;
/** A block without alpha, and with it, in the data format descriptor (KTX 2.0, "UASTC"). */
const CHANNELS = { colour: 0, alpha: 3 };

/**
 * A picture as KTX 2.0 in UASTC blocks with all mips, each packed with Zstandard, as KHR_texture_basisu wants it. It is
 * packed in strips of whole blocks, which do not know of each other, so that it can be cancelled, of any size.
 * @param quality 1 … 100: how long it looks for the best block
 * @param picture sides in multiples of 4
 * @param step is told the share that is done, and throws to stop
 * @throws ArnikError where the library fails
 */
export async function writeKtx2(
  picture: Pixels,
  quality: number,
  meaning: PictureMeaning,
  step: (done: number) => void,
): Promise<Uint8Array> {
  const library = await basis();
  const zstd = await Zstd.load();
  const effort = quality < 50 ? 0 : quality <= 95 ? 1 : 2;
  const levels: KTX2Container["levels"] = [];
  let container: KTX2Container | null = null;
  for (
    let level: Pixels | null = picture;
    level;
    level = halved(level, meaning)
  ) {
    const whole = onBlocks(level);
    const rows = Math.max(
      BLOCK,
      BLOCK * Math.floor(STRIP / whole.width / BLOCK),
    );
    const parts: Uint8Array[] = [];
    for (let y = 0; y < whole.height; y += rows) {
      // The first level is three quarters of the work, and so on.
      step(1 - 4 ** -levels.length * (1 - (0.75 * y) / whole.height));
      const { width, data } = whole;
      const strip = read(
        packed(
          library,
          {
            width,
            height: Math.min(rows, whole.height - y),
            data: data.subarray(4 * y * width, 4 * (y + rows) * width),
          },
          effort,
          meaning,
        ),
      );
      container ??= strip;
      parts.push(strip.levels[0].levelData);
    }
    const blocks = new Uint8Array(
      await new Blob(parts as BlobPart[]).arrayBuffer(),
    );
    levels.push({
      levelData: zstd.compress(blocks, 10),
      uncompressedByteLength: blocks.length,
    });
  }
  const { width, height } = picture;
  const [descriptor] = container!.dataFormatDescriptor;
  descriptor.samples[0].channelType =
    meaning === "alpha" ? CHANNELS.alpha : CHANNELS.colour;
  const bytes = write(
    {
      ...container!,
      pixelWidth: width,
      pixelHeight: height,
      levelCount: levels.length,
      supercompressionScheme: KHR_SUPERCOMPRESSION_ZSTD,
      levels,
      keyValue: { KTXorientation: "rd", KTXwriter: "Arnik" },
    },
    { keepWriter: true },
  );
  // No validator of glTF looks into it.
  const back = await readKtx2("a picture", bytes);
  if (back.width !== width || back.height !== height)
    throw new ArnikError("a picture can't be read again as KTX2");
  return bytes;
}

/** One strip, by the library. */
function packed(
  { BasisEncoder }: Basis,
  { width, height, data }: Pixels,
  effort: number,
  meaning: PictureMeaning,
): Uint8Array {
  const encoder = new BasisEncoder();
  try {
    encoder.setStatusOutput(false);
    encoder.setTexType(0);
    encoder.setUASTC(true);
    encoder.setCreateKTX2File(true);
    encoder.setKTX2UASTCSupercompression(false);
    encoder.setMipGen(false);
    encoder.setPackUASTCFlags(effort);
    encoder.setPerceptual(false);
    // What glTF takes for colour is told to be sRGB.
    encoder.setKTX2AndBasisSRGBTransferFunc(meaning === "alpha");
    const out = new Uint8Array(2 * width * height + 65_536);
    const length =
      encoder.setSliceSourceImage(0, data, width, height, 0) &&
      encoder.encode(out);
    if (!length)
      throw new ArnikError(
        `a picture of ${width} × ${height} px can't be packed as KTX2: choose another kind of picture`,
      );
    return out.slice(0, length);
  } finally {
    encoder.delete();
  }
}

/** The next mip: means of two by two, normals made one long again. Null after the last. */
function halved(
  { width, height, data }: Pixels,
  meaning: PictureMeaning,
): Pixels | null {
  if (width === 1 && height === 1) return null;
  const [w, h] = [Math.max(1, width >> 1), Math.max(1, height >> 1)];
  const out = new Uint8Array(4 * w * h);
  const sum = new Float64Array(4);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      sum.fill(0);
      for (const dy of [0, 1])
        for (const dx of [0, 1]) {
          const at =
            4 *
            (Math.min(height - 1, 2 * y + dy) * width +
              Math.min(width - 1, 2 * x + dx));
          for (let k = 0; k < 4; k++) sum[k] += data[at + k] / 4;
        }
      if (meaning === "normal") {
        const long = Math.hypot(sum[0] - 127.5, sum[1] - 127.5, sum[2] - 127.5);
        if (long > 1)
          for (let k = 0; k < 3; k++)
            sum[k] = 127.5 + (127.5 * (sum[k] - 127.5)) / long;
      }
      for (let k = 0; k < 4; k++) out[4 * (y * w + x) + k] = Math.round(sum[k]);
    }
  return { width: w, height: h, data: out };
}

/** The same with its sides in whole blocks: what is added repeats the edge. */
function onBlocks(picture: Pixels): Pixels {
  const up = (side: number) => BLOCK * Math.ceil(side / BLOCK);
  const [width, height] = [up(picture.width), up(picture.height)];
  if (width === picture.width && height === picture.height) return picture;
  const data = new Uint8Array(4 * width * height);
  const from = new Uint32Array(picture.data.slice().buffer);
  const to = new Uint32Array(data.buffer);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      to[y * width + x] =
        from[
          Math.min(y, picture.height - 1) * picture.width +
            Math.min(x, picture.width - 1)
        ];
  return { width, height, data };
}
