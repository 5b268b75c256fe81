import { sha256 } from "#sha256";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount, vertexCount } from "../mesh/mesh";
import { STREAM_NAMES } from "../mesh/streams";
import type { Asset, Part } from "./asset";
import type {
  BakedMap,
  PaintedPicture,
  PictureUse,
  ReferencePicture,
  SurfaceLook,
  SurfacePicture,
} from "../base/pictures";
import type { Hull } from "../mesh/hull";
import type { SettledSource } from "../settle/settled-of";
import type { KeptRecord } from "../decimate/kept-record";

/** A typed array kept as a blob under the SHA-256 of its bytes. */
export interface StreamRef {
  hash: string;
  kind: "f32" | "u32" | "i32" | "u16" | "u8";
  length: number;
}

/** What a mesh is made of, then what may hang on it. */
export const MESH_STREAMS = [
  "positions",
  "faceStarts",
  "corners",
  ...STREAM_NAMES,
] as const;

export interface MeshDocument {
  streams: Record<(typeof MESH_STREAMS)[number], StreamRef | null>;
  materials: readonly string[];
  triangles: number;
  faces: number;
  vertices: number;
}

export interface HullDocument extends Omit<Hull, "positions" | "triangles"> {
  positions: StreamRef;
  triangles: StreamRef;
}

export interface PartDocument extends Omit<
  Part,
  | "source"
  | "settled"
  | "game"
  | "previousUnwrap"
  | "levels"
  | "dense"
  | "light"
  | "tried"
  | "hulls"
> {
  levels: MeshDocument[];
  source: MeshDocument | null;
  settled: SettledDocument | null;
  game: MeshDocument | null;
  previousUnwrap: MeshDocument | null;
  dense: MeshDocument | null;
  light: MeshDocument | null;
  tried: MeshDocument | null;
  hulls: HullDocument[];
}

export interface SettledDocument extends Omit<SettledSource, "mesh" | "faces"> {
  mesh: MeshDocument | null;
  faces: StreamRef | null;
}

export interface MapDocument extends Omit<BakedMap, "pixels"> {
  pixels: StreamRef;
}

export interface ReferenceDocument extends Omit<ReferencePicture, "bytes"> {
  bytes: StreamRef;
}

export const RECORD_STREAMS = [
  "positions",
  "triangles",
  "owner",
  "material",
  "id",
  "death",
  "first",
  "second",
  "places",
  "errorIncrease",
  "removedCount",
  "meshIndex",
  "before",
  "area",
  "collapsed",
] as const;

export interface RecordDocument extends Omit<KeptRecord, "record"> {
  centre: readonly number[];
  streams: Record<(typeof RECORD_STREAMS)[number], StreamRef>;
}

/** A revision as it is stored: a small tree that names streams. */
export interface AssetDocument extends Omit<
  Asset,
  "parts" | "maps" | "aside" | "references" | "record" | "painted" | "looks"
> {
  looks: LookDocument[];
  record: RecordDocument | null;
  parts: PartDocument[];
  maps: MapDocument[];
  aside: MapDocument[];
  references: ReferenceDocument[];
  painted: PaintedDocument | null;
}

export interface PictureDocument extends Omit<SurfacePicture, "bytes"> {
  bytes: StreamRef;
}

export interface LookDocument extends Omit<SurfaceLook, "pictures"> {
  pictures?: Partial<Record<PictureUse, PictureDocument>>;
}

export interface PaintedDocument extends Omit<PaintedPicture, "bytes"> {
  bytes: StreamRef;
}

export type Stream =
  Float32Array | Uint32Array | Int32Array | Uint16Array | Uint8Array;

export const known = new WeakMap<Stream, StreamRef>();

/** The reference of a stream; its bytes are hashed once. */
export function streamRef(stream: Stream): StreamRef {
  let ref = known.get(stream);
  if (!ref) {
    const bytes = bytesOf(stream);
    ref = {
      hash: sha256(bytes),
      kind: kindOf(stream),
      length: stream.length,
    };
    known.set(stream, ref);
  }
  return ref;
}

const bytesOf = (stream: Stream) =>
  new Uint8Array(stream.buffer, stream.byteOffset, stream.byteLength);

function kindOf(stream: Stream): StreamRef["kind"] {
  if (stream instanceof Float32Array) return "f32";
  if (stream instanceof Uint32Array) return "u32";
  if (stream instanceof Int32Array) return "i32";
  return stream instanceof Uint16Array ? "u16" : "u8";
}

/**
 * The stored form of an asset.
 * @param put is given the bytes of every stream, once a hash
 */
export function toDocument(
  asset: Asset,
  put: (hash: string, bytes: Uint8Array) => void,
): AssetDocument {
  const stored = new Set<string>();
  const store = (stream: Stream): StreamRef => {
    const ref = streamRef(stream);
    if (!stored.has(ref.hash)) put(ref.hash, bytesOf(stream));
    stored.add(ref.hash);
    return ref;
  };
  const mesh = (value: Mesh | null): MeshDocument | null =>
    value && {
      streams: Object.fromEntries(
        MESH_STREAMS.map((name) => [name, value[name] && store(value[name])]),
      ) as MeshDocument["streams"],
      materials: value.materials,
      triangles: triangleCount(value),
      faces: faceCount(value),
      vertices: vertexCount(value),
    };
  const picture = (map: BakedMap): MapDocument => ({
    ...map,
    pixels: store(map.pixels),
  });
  return {
    ...asset,
    parts: asset.parts.map((part) => ({
      ...part,
      source: mesh(part.source),
      settled: part.settled && {
        ...part.settled,
        mesh: mesh(part.settled.mesh),
        faces: part.settled.faces && store(part.settled.faces),
      },
      game: mesh(part.game),
      previousUnwrap: mesh(part.previousUnwrap),
      levels: (part.levels ?? []).map((level) => mesh(level)!),
      dense: mesh(part.dense),
      light: mesh(part.light),
      tried: mesh(part.tried),
      hulls: part.hulls.map((hull) => ({
        ...hull,
        positions: store(hull.positions),
        triangles: store(hull.triangles),
      })),
    })),
    maps: asset.maps.map(picture),
    aside: asset.aside.map(picture),
    record: asset.record && {
      parts: asset.record.parts,
      plane: asset.record.plane,
      centre: asset.record.record.centre,
      streams: Object.fromEntries(
        RECORD_STREAMS.map((name) => [
          name,
          store(asset.record!.record[name] as Stream),
        ]),
      ) as RecordDocument["streams"],
    },
    references: asset.references.map((each) => ({
      ...each,
      bytes: store(each.bytes),
    })),
    painted: asset.painted && {
      ...asset.painted,
      bytes: store(asset.painted.bytes),
    },
    looks: asset.looks.map((look) =>
      withPictures(look, (bytes: Uint8Array) => store(bytes)),
    ),
  };
}

/** A look whose pictures have their bytes in another form. */
export function withPictures<From, To>(
  look: Omit<SurfaceLook, "pictures"> & {
    pictures?: Partial<Record<PictureUse, { bytes: From }>>;
  },
  other: (bytes: From) => To,
) {
  const { pictures, ...rest } = look;
  if (!pictures) return rest;
  const changed = Object.entries(pictures).map(([use, picture]) => [
    use,
    { ...picture, bytes: other(picture.bytes) },
  ]);
  return {
    ...rest,
    pictures: Object.fromEntries(changed) as Partial<
      Record<PictureUse, Omit<SurfacePicture, "bytes"> & { bytes: To }>
    >,
  };
}

/** All meshes of a part. */
export const meshesOf = (part: PartDocument): MeshDocument[] =>
  [
    part.source,
    part.settled?.mesh ?? null,
    part.game,
    part.previousUnwrap,
    part.dense,
    part.light,
    part.tried,
    ...(part.levels ?? []),
  ].flatMap((mesh) => mesh ?? []);

/** Hashes of all streams a document names. */
export function streamsOf(document: AssetDocument): StreamRef[] {
  const refs: StreamRef[] = [];
  for (const part of document.parts) {
    for (const mesh of meshesOf(part))
      refs.push(...Object.values(mesh.streams).filter((ref) => !!ref));
    if (part.settled?.faces) refs.push(part.settled.faces);
    for (const hull of part.hulls) refs.push(hull.positions, hull.triangles);
  }
  for (const { pixels } of [...document.maps, ...(document.aside ?? [])])
    refs.push(pixels);
  if (document.record) refs.push(...Object.values(document.record.streams));
  refs.push(...(document.references ?? []).map((each) => each.bytes));
  if (document.painted) refs.push(document.painted.bytes);
  for (const { pictures } of document.looks ?? [])
    refs.push(...Object.values(pictures ?? {}).map(({ bytes }) => bytes));
  return refs;
}
