import type {
  PaintedPicture,
  PaletteEntry,
  ReferencePicture,
} from "../base/pictures";
import { fromBase64, toBase64 } from "./base64";
import type { Json } from "./json-check";
import { pictureSize } from "./picture";

/** A part that is another one placed again, by the names in the file. */
export interface KeptRepeat {
  part: string;
  of: string;
  /** 16 numbers, column by column. */
  matrix: readonly number[];
}

/** What is kept of an asset in `asset.extras.arnik` of a glTF file, besides its meshes and their looks. */
export interface KeptExtras {
  palette: readonly PaletteEntry[];
  repeats: readonly KeptRepeat[];
  references: readonly ReferencePicture[];
  painted: PaintedPicture | null;
}

/** Most entries of each list that is read. */
const MOST_COLOURS = 400;
const MOST_REPEATS = 10_000;
const MOST_PICTURES = 32;
/** Longest base64 of a picture: four characters for three of 32 MB. */
const LONGEST = 4 * Math.ceil((32 * 1024 * 1024) / 3);
/** Farthest from the origin that a reference stands, and its largest height, metres. */
const FARTHEST = 1e6;
const PLANES = ["front", "side", "top"] as const;

/** As it goes into a file; undefined where there is nothing to say. */
export function writeKept({
  palette = [],
  repeats = [],
  references = [],
  painted = null,
}: Partial<KeptExtras>): Json | undefined {
  const said: Json = {
    ...(palette.length && { palette }),
    ...(repeats.length && { repeats }),
    ...(references.length && {
      references: references.map(
        ({ name, plane, size, at, opacity, bytes }) => ({
          ...{ name, plane, size, at, opacity },
          picture: toBase64(bytes),
        }),
      ),
    }),
    ...(painted && {
      painted: { name: painted.name, picture: toBase64(painted.bytes) },
    }),
  };
  return Object.keys(said).length ? said : undefined;
}

/** What is sound of what a file says; the rest is left out. @param extras of the file's `asset` */
export function readKept(extras: unknown): KeptExtras {
  const said = ((extras as Json | null)?.arnik ?? {}) as Json;
  const list = (name: string, most: number): Json[] => {
    const entries = said[name];
    return Array.isArray(entries) && entries.length <= most
      ? entries.map((each) => (each ?? {}) as Json)
      : [];
  };
  const palette = list("palette", MOST_COLOURS).flatMap(({ name, colour }) =>
    isName(name) && typeof colour === "string" && /^#[0-9a-f]{6}$/i.test(colour)
      ? [{ name, colour }]
      : [],
  );
  return {
    // IDs are numbered by it: with an entry missing the others would slip.
    palette:
      palette.length === list("palette", MOST_COLOURS).length ? palette : [],
    repeats: list("repeats", MOST_REPEATS).flatMap(({ part, of, matrix }) =>
      isName(part) && isName(of) && part !== of && isMatrix(matrix)
        ? [{ part, of, matrix }]
        : [],
    ),
    references: list("references", MOST_PICTURES).flatMap(readReference),
    painted: readPicture((said.painted ?? {}) as Json),
  };
}

function readReference(said: Json): ReferencePicture[] {
  const { plane, size, at, opacity } = said;
  const picture = readPicture(said);
  const sound =
    picture &&
    PLANES.some((each) => each === plane) &&
    isNumber(size, FARTHEST) &&
    size > 0 &&
    Array.isArray(at) &&
    at.length === 3 &&
    at.every((x) => isNumber(x, FARTHEST)) &&
    isNumber(opacity, 1) &&
    opacity >= 0;
  if (!sound) return [];
  return [
    {
      ...picture,
      plane: plane as ReferencePicture["plane"],
      at: at as unknown as ReferencePicture["at"],
      size,
      opacity,
    },
  ];
}

function readPicture({ name, picture }: Json): PaintedPicture | null {
  const bytes = fromBase64(picture, LONGEST);
  if (!isName(name) || !bytes) return null;
  try {
    return { name, ...pictureSize(name, bytes), bytes };
  } catch {
    return null;
  }
}

const isName = (name: unknown): name is string =>
  typeof name === "string" && name.length > 0 && name.length <= 80;
const isNumber = (x: unknown, most: number): x is number =>
  typeof x === "number" && Math.abs(x) <= most;
const isMatrix = (matrix: unknown): matrix is number[] =>
  Array.isArray(matrix) &&
  matrix.length === 16 &&
  matrix.every((x) => isNumber(x, 1e9)) &&
  // The last row of a place in space.
  [3, 7, 11].every((k) => matrix[k] === 0) &&
  matrix[15] === 1;
