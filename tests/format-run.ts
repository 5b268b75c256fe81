import { expect } from "vitest";
import { ArnikError } from "../core/base/errors";
import { readMeshFiles } from "../core/formats/index";

/** A text as a file holds it. */
export const text = (value: string) => new TextEncoder().encode(value);
/** Reads one mesh file. */
export const read = (name: string, bytes: Uint8Array | string) =>
  readMeshFiles([
    { name, bytes: typeof bytes === "string" ? text(bytes) : bytes },
  ]);
/** What is said of a file that is refused, which is an error of ours. */
export const refusal = async (name: string, bytes: Uint8Array | string) => {
  const error = await read(name, bytes).then(
    () => null,
    (reason: unknown) => reason,
  );
  expect(error).toBeInstanceOf(ArnikError);
  return (error as Error).message;
};
