import type { Mesh } from "./mesh";

/** A typed array that a mesh can hold. */
export type MeshArray = Float32Array | Uint32Array | Uint16Array | Uint8Array;

/** Names of everything that hangs on a mesh's corners and faces: what may be there or not. */
export type StreamName = {
  [K in keyof Mesh]-?: Mesh[K] extends MeshArray | null
    ? null extends Mesh[K]
      ? K
      : never
    : never;
}[keyof Mesh];

export interface StreamSpec {
  /** What it is called where people read it. */
  called: string;
  /** Corners have a value of their own; edges one at the corner they leave from; faces one a face. */
  on: "corners" | "edges" | "faces";
  /** Numbers a corner, edge or face. */
  width: 1 | 2 | 3;
  /**
   * What a corner between others has (in subdivision, on a cut edge, in a stitched border): a mean of theirs, a mean of
   * unit length, or what one of them has.
   */
  between: "mean" | "unit" | "same";
  /** Of several meshes joined to one: 0 where a mesh has none, or none at all unless every mesh has it. */
  joined: "zero" | "all";
}

const corners = (
  called: string,
  width: StreamSpec["width"],
  between: StreamSpec["between"],
  joined: StreamSpec["joined"] = "zero",
): StreamSpec => ({ called, on: "corners", width, between, joined });
const marks =
  (on: "edges" | "faces") =>
  (called: string): StreamSpec => ({
    called,
    on,
    width: 1,
    between: "same",
    joined: "zero",
  });
const edges = marks("edges");
const faces = marks("faces");

/**
 * Every stream that may hang on a mesh. Documents, joining, keeping, reversing, subdividing and settling go by this
 * table alone: a stream that is missing here does not compile.
 */
export const STREAMS: Readonly<Record<StreamName, StreamSpec>> = {
  uvs: corners("UVs", 2, "mean"),
  normals: corners("normals", 3, "unit", "all"),
  colours: corners("vertex colours", 3, "mean"),
  cage: corners("cage", 3, "mean"),
  seams: edges("seams"),
  hard: edges("hard edges"),
  rounds: edges("radii of round edges"),
  creases: edges("creases"),
  seamOverrides: edges("wanted and forbidden seams"),
  faceMaterials: faces("materials"),
  ids: faces("IDs"),
  sourceOnly: faces("what is only baked"),
  visibility: faces("what is seen"),
  density: faces("painted density"),
  texelWeights: faces("texel weights"),
  held: faces("islands placed by hand"),
  copies: faces("shared texels"),
  ownNormals: faces("normals taken from elsewhere"),
};

export const STREAM_NAMES = Object.keys(STREAMS) as StreamName[];

const those = (on: StreamSpec["on"]) =>
  STREAM_NAMES.filter((name) => STREAMS[name].on === on);

export const ON_EDGES = those("edges");
export const ON_FACES = those("faces");
/** Corners' own values and marks of edges: what has an entry a corner. */
export const ON_CORNERS = [...those("corners"), ...ON_EDGES];

/** Some streams of a mesh, made from each one that it has. */
export function mapStreams(
  mesh: Mesh,
  names: readonly StreamName[],
  make: (values: MeshArray, width: number, name: StreamName) => MeshArray,
): Partial<Mesh> {
  const made: Partial<Record<StreamName, MeshArray>> = {};
  for (const name of names) {
    const values = mesh[name];
    if (values) made[name] = make(values, STREAMS[name].width, name);
  }
  return made as Partial<Mesh>;
}

/** An empty array of the same kind. */
export const arrayLike = <T extends MeshArray>(values: T, length: number): T =>
  new (values.constructor as new (length: number) => T)(length);

/** Rows of `width` numbers, taken one after the other. */
export function pickRows<T extends MeshArray>(
  values: T,
  from: ArrayLike<number>,
  width: number,
): T {
  const picked = arrayLike(values, from.length * width);
  for (let i = 0; i < from.length; i++)
    for (let k = 0; k < width; k++)
      picked[i * width + k] = values[from[i] * width + k];
  return picked;
}
