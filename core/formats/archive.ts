import { Zip, ZipPassThrough, unzipSync } from "fflate";
import { Deflate } from "pako";
import type { Context } from "../base/context";
import { joinArrays } from "../base/join-arrays";
import { ArnikError } from "../base/errors";

/**
 * Bytes that an archive may hold unpacked: what is larger is not read, whatever it promises. Beyond what is free it may
 * grow to so many times what it is packed.
 */
const LARGEST = 4 * 2 ** 30;
const FREE = 256 * 2 ** 20;
const TIMES = 64;
/** Archives have the same bytes whenever they are made. */
const MADE = new Date(2020, 0, 1);
/** Bytes packed between two looks at whether somebody asked to stop. */
const STEP = 4 * 2 ** 20;
/** What is packed already gains nothing from being packed again. */
const PACKED = /\.(png|jpe?g|webp)$/i;

/** Whether a file is an archive, as a project is, by its name. */
export const isArchive = (name: string) => /\.zip$/i.test(name);

export interface ArchivedFile {
  name: string;
  bytes: Uint8Array;
}

/**
 * A file that is packed as it comes, so that it can be stopped within. The packer of the library that writes the archive
 * goes wrong on some data when it is given in pieces; a test holds what was packed against what was given.
 */
class DeflatedEntry extends ZipPassThrough {
  private readonly packer = new Deflate({ raw: true, level: 6 });

  constructor(name: string) {
    super(name);
    // The number of Deflate in PKWARE's APPNOTE, 4.4.5.
    this.compression = 8;
    this.packer.onData = (chunk) =>
      this.ondata(null, chunk as Uint8Array<ArrayBuffer>, false);
    this.packer.onEnd = () => this.ondata(null, new Uint8Array(), true);
  }

  protected override process(chunk: Uint8Array, final: boolean): void {
    this.packer.push(chunk, final);
  }
}

/** Files as one zip archive, in their order; the same files give the same bytes. */
export function zipFiles(
  files: readonly ArchivedFile[],
  context: Pick<Context, "check" | "progress">,
): Uint8Array {
  const chunks: Uint8Array[] = [];
  const zip = new Zip((error, chunk) => {
    if (error) throw error;
    chunks.push(chunk);
  });
  const total = files.reduce((sum, { bytes }) => sum + bytes.length, 0);
  let done = 0;
  for (const { name, bytes } of files) {
    const entry = PACKED.test(name)
      ? new ZipPassThrough(name)
      : new DeflatedEntry(name);
    entry.mtime = MADE;
    zip.add(entry);
    for (let at = 0; at === 0 || at < bytes.length; at += STEP) {
      context.check();
      context.progress(done / Math.max(1, total), `packing ${name}`);
      const piece = bytes.subarray(at, at + STEP);
      entry.push(piece, at + STEP >= bytes.length);
      done += piece.length;
    }
  }
  zip.end();
  return joinArrays(Uint8Array, chunks);
}

/**
 * What lies in a zip archive by name, never more than 4 GB.
 * @param check called before each file is unpacked
 * @throws ArnikError naming the archive
 */
export function unzipFiles(
  file: string,
  archive: Uint8Array,
  check: () => void = () => {},
): Record<string, Uint8Array> {
  let sum = 0;
  try {
    return unzipSync(archive, {
      filter({ originalSize }) {
        check();
        sum += originalSize;
        if (sum > LARGEST)
          throw new ArnikError(
            `${file}: it holds more than 4 GB unpacked, which is not read`,
          );
        if (sum > Math.max(FREE, TIMES * archive.length))
          throw new ArnikError(
            `${file}: it says that it grows to more than ${TIMES} times what it is, which is not read`,
          );
        return true;
      },
    });
  } catch (error) {
    if (error instanceof ArnikError) throw error;
    throw new ArnikError(`${file}: it is no archive, or a damaged one`);
  }
}
