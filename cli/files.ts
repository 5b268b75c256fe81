import {
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { basename, dirname, join } from "node:path";
import { ArnikError } from "../core/errors";
import type { GivenFile } from "../core/formats/index";
import {
  LARGEST_FILE,
  MESH_ENDINGS,
  endingOf,
  isMeshFile,
} from "../core/formats/index";
import { UsageError } from "./arguments";

/** A mesh file and, for those that name others, what lies beside it. @throws ArnikError `FILE: …` */
export function givenFiles(path: string): GivenFile[] {
  if (!isMeshFile(path))
    throw new UsageError(
      `${path}: read are ${MESH_ENDINGS.map((ending) => `.${ending}`).join(", ")}`,
    );
  const main = { name: basename(path), bytes: readWhole(path) };
  const beside =
    { obj: ["mtl"], gltf: ["bin", "png", "jpg", "jpeg"] }[endingOf(path)] ?? [];
  if (!beside.length) return [main];
  const others = readdirSync(dirname(path) || ".").filter((name) =>
    beside.includes(endingOf(name)),
  );
  return [
    main,
    ...others.map((name) => ({
      name,
      bytes: readWhole(join(dirname(path), name)),
    })),
  ];
}

/** The JSON object in a file. @throws ArnikError `FILE: …` */
export function readJson(path: string): Record<string, unknown> {
  const text = new TextDecoder().decode(readWhole(path));
  try {
    const value = JSON.parse(text) as unknown;
    if (value && typeof value === "object" && !Array.isArray(value))
      return value as Record<string, unknown>;
  } catch {
    // Said below, the same as for JSON that is no object.
  }
  throw new ArnikError(`${path}: this is no JSON object`);
}

function readWhole(path: string): Uint8Array {
  try {
    const { size } = statSync(path);
    if (size > LARGEST_FILE)
      throw new ArnikError(
        `${path}: ${Math.ceil(size / 1048576)} MB; files up to 512 MB are read`,
      );
    return readFileSync(path);
  } catch (error) {
    throw asFileError(path, error);
  }
}

/** Writes a file whole or not at all. */
export function writeWhole(path: string, bytes: Uint8Array): void {
  const waiting = `${path}.part`;
  try {
    mkdirSync(dirname(path) || ".", { recursive: true });
    writeFileSync(waiting, bytes);
    renameSync(waiting, path);
  } catch (error) {
    throw asFileError(path, error);
  }
}

const REASONS: Record<string, string> = {
  ENOENT: "there is no such file",
  EACCES: "no permission",
  EISDIR: "this is a folder",
  ENOTDIR: "part of the path is no folder",
  ENOSPC: "the disk is full",
  EEXIST: "something else has that name",
};

function asFileError(path: string, error: unknown): Error {
  if (error instanceof ArnikError) return error;
  const code = (error as NodeJS.ErrnoException).code ?? "";
  return new ArnikError(
    `${path}: ${REASONS[code] ?? (error instanceof Error ? error.message : String(error))}`,
  );
}
