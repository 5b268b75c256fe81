import {
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  rmdirSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { basename, dirname, join, resolve } from "node:path";
import { ArnikError } from "../core/base/errors";
import type { GivenFile } from "../core/formats/index";
import {
  LARGEST_FILE,
  MESH_ENDINGS,
  endingOf,
  isMeshFile,
} from "../core/formats/index";
import { UsageError } from "./arguments";
import { pathText, systemPath } from "./paths";

/** What lies beside a file and belongs to it, by the file's ending. */
const BESIDE: Record<string, readonly string[]> = {
  obj: ["mtl"],
  gltf: ["bin", "png", "jpg", "jpeg"],
};

const equalBytes = (a: Uint8Array, b: Uint8Array) =>
  a.length === b.length && a.every((byte, i) => byte === b[i]);

/** The files of one call: what it read is never overwritten unless that is asked for. */
export class CallFiles {
  private readonly inputs = new Set<string>();

  constructor(private readonly overwrite: boolean) {}

  /** A mesh file and, for those that name others, what lies beside it. @throws ArnikError `FILE: …` */
  given(path: string): GivenFile[] {
    if (!isMeshFile(path))
      throw new UsageError(
        `${path}: read are ${MESH_ENDINGS.map((ending) => `.${ending}`).join(", ")}`,
      );
    const main = { name: basename(path), bytes: this.read(path) };
    const beside = BESIDE[endingOf(path)];
    if (!beside) return [main];
    return [
      main,
      ...namesIn(dirname(path) || ".")
        .filter((name) => beside.includes(endingOf(name)))
        .map((name) => ({ name, bytes: this.read(join(dirname(path), name)) })),
    ];
  }

  /** Several mesh files and what lies beside them. @throws UsageError where two of the files have one name */
  givenTogether(paths: readonly string[]): GivenFile[] {
    const files = new Map<string, GivenFile>();
    for (const path of paths)
      for (const file of this.given(path)) {
        const other = files.get(file.name);
        if (other && !equalBytes(other.bytes, file.bytes))
          throw new UsageError(
            `two different files are called ${file.name}: give them one after the other, or another name`,
          );
        files.set(file.name, file);
      }
    return [...files.values()];
  }

  /** Files that are no meshes, as they are. */
  pictures(paths: readonly string[]): GivenFile[] {
    return paths.map((path) => ({
      name: basename(path),
      bytes: this.read(path),
    }));
  }

  /** A file as it is: a project archive, a profile. */
  plain(path: string): Uint8Array {
    return this.read(path);
  }

  /** The JSON object in a file. @throws ArnikError `FILE: …` */
  readJson(path: string): Record<string, unknown> {
    const text = new TextDecoder().decode(this.read(path));
    try {
      const value = JSON.parse(text) as unknown;
      if (value && typeof value === "object" && !Array.isArray(value))
        return value as Record<string, unknown>;
    } catch {
      // Said below, the same as for JSON that is no object.
    }
    throw new ArnikError(`${path}: this is no JSON object`);
  }

  private read(path: string): Uint8Array {
    try {
      const { size } = statSync(systemPath(path));
      if (size > LARGEST_FILE)
        throw new ArnikError(
          `${path}: ${Math.ceil(size / 1048576)} MB; files up to 512 MB are read`,
        );
      this.keep(path);
      return readFileSync(systemPath(path));
    } catch (error) {
      throw asFileError(path, error);
    }
  }

  /** Says that a file is read by this call. */
  keep(path: string): void {
    const same = identity(path);
    if (same) this.inputs.add(same);
  }

  /** @throws UsageError where a path that is to be written is a file that is read */
  checkTarget(path: string): void {
    const same = identity(path);
    if (same && !this.overwrite && this.inputs.has(same))
      throw new UsageError(
        `${path}: this is a file that is read: choose another name, or add --overwrite`,
      );
  }

  /** Writes a file whole or not at all, and leaves nothing else behind. */
  write(path: string, bytes: Uint8Array): void {
    this.checkTarget(path);
    const folder = dirname(path) || ".";
    // Short, whatever the name is: names end at 255 bytes.
    const waiting = systemPath(join(folder, `.arnik-${process.pid}.part`));
    let made: string | undefined;
    const finished = deferSignals();
    try {
      made = mkdirSync(systemPath(folder), { recursive: true });
      writeFileSync(waiting, bytes);
      renameSync(waiting, systemPath(path));
    } catch (error) {
      removeTraces(waiting, folder, made);
      throw asFileError(path, error);
    } finally {
      finished();
    }
  }
}

const SIGNALS = ["SIGINT", "SIGTERM", "SIGHUP"] as const;
/** Files that are being written, or were until just now. */
let writing = 0;

const leave = (signal: NodeJS.Signals) => {
  setImmediate(() => process.kill(process.pid, signal));
};

/** Lets a signal that comes while a file is written wait until that is over; one listener for however many files. */
function deferSignals(): () => void {
  if (writing++ === 0) for (const signal of SIGNALS) process.on(signal, leave);
  const stop = () => {
    if (--writing === 0)
      for (const signal of SIGNALS) process.off(signal, leave);
  };
  // A signal that came is told in the next round of the event loop, before its immediates.
  return () => setImmediate(() => setImmediate(stop));
}

/** Takes away what there is of a file which could not be written, and the folders that were made for it. */
function removeTraces(
  waiting: string | Buffer,
  folder: string,
  first: string | undefined,
): void {
  try {
    rmSync(waiting, { force: true });
    for (let at = folder; first; at = dirname(at)) {
      rmdirSync(systemPath(at));
      if (resolve(at) === resolve(first)) return;
    }
  } catch {
    // There never was such a place, or something else lies there by now.
  }
}

const namesIn = (folder: string): string[] =>
  readdirSync(systemPath(folder), { encoding: "buffer" }).map(pathText).sort();

/** What tells a file from all others, whatever name it goes by; empty where there is none. */
function identity(path: string): string {
  try {
    const found = statSync(systemPath(path));
    return found.isFile() ? `${found.dev}:${found.ino}` : "";
  } catch {
    return "";
  }
}

const REASONS: Record<string, string> = {
  ENOENT: "there is no such file",
  EACCES: "no permission",
  EISDIR: "this is a folder",
  ENOTDIR: "part of the path is no folder",
  ENOTEMPTY: "this is a folder",
  ENOSPC: "the disk is full",
  EEXIST: "something else has that name",
  EROFS: "the disk can't be written",
  ENAMETOOLONG: "the name is too long for this system",
};

function asFileError(path: string, error: unknown): Error {
  if (error instanceof ArnikError || error instanceof UsageError) return error;
  const code = (error as NodeJS.ErrnoException).code ?? "";
  return new ArnikError(
    `${path}: ${REASONS[code] ?? `the system refuses it (${code || "unknown"})`}`,
  );
}
