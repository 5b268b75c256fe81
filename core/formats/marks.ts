import { ON_FACES } from "../mesh/streams";
import type { StreamName } from "../mesh/streams";

/** What hangs on faces besides their material. */
export const FACE_MARKS = ON_FACES.filter((name) => name !== "faceMaterials");
export type FaceMarks = Partial<Record<StreamName, Uint8Array | Uint16Array>>;

/**
 * The vertex attribute of glTF that carries marks of faces: `_IDS`, `_SOURCE_ONLY`. Names that begin with an underscore
 * are an application's own (Khronos glTF 2.0, section 3.7.2.1).
 */
export const attributeOf = (name: StreamName): string =>
  `_${name.replace(/[A-Z]/g, (letter) => `_${letter}`).toUpperCase()}`;

/** Largest mark: IDs are numbered in 16 bits, all else in 8. */
export const mostOf = (name: StreamName) => (name === "ids" ? 65535 : 255);

/** An empty stream of marks of its kind: `length` values, one per face or corner. */
export const marksArray = (name: StreamName, length: number) =>
  name === "ids" ? new Uint16Array(length) : new Uint8Array(length);
