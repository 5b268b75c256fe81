import { BrowserBasisEncoder } from "ktx2-encoder";

/** What of the library is used: it makes blocks that graphics cards draw from, and opens them again. */
export interface Basis {
  BasisEncoder: new () => BasisEncoder;
  KTX2File: new (bytes: Uint8Array) => Ktx2File;
  transcoder_texture_format: { cTFRGBA32: { value: number } };
}

export interface BasisEncoder {
  setStatusOutput(on: boolean): void;
  setUASTC(on: boolean): void;
  setCreateKTX2File(on: boolean): void;
  setKTX2UASTCSupercompression(on: boolean): void;
  setKTX2AndBasisSRGBTransferFunc(on: boolean): void;
  setPerceptual(on: boolean): void;
  setMipGen(on: boolean): void;
  setTexType(type: number): void;
  setPackUASTCFlags(level: number): void;
  /** @param pixels 4 × width × height, rows from the top @param raw 0 for pixels as they are */
  setSliceSourceImage(
    slice: number,
    pixels: Uint8Array,
    width: number,
    height: number,
    raw: number,
  ): boolean;
  /** @returns bytes written to `out`, 0 where it failed */
  encode(out: Uint8Array): number;
  delete(): void;
}

export interface Ktx2File {
  isValid(): number;
  getWidth(): number;
  getHeight(): number;
  getLevels(): number;
  startTranscoding(): number;
  getImageTranscodedSizeInBytes(
    level: number,
    layer: number,
    face: number,
    format: number,
  ): number;
  transcodeImage(
    out: Uint8Array,
    level: number,
    layer: number,
    face: number,
    format: number,
    alpha: number,
    channel0: number,
    channel1: number,
  ): number;
  close(): void;
  delete(): void;
}

let opened: Promise<Basis> | null = null;

/** The library, opened once. */
export const basis = (): Promise<Basis> =>
  (opened ??= new BrowserBasisEncoder().init() as unknown as Promise<Basis>);
