import { sha256 } from "#sha256";
import { ArnikError } from "../base/errors";
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
import { DEFAULT_BRIEF } from "./asset";
import type { SettledSource } from "../settle/settled-of";
import { registerSettled } from "./settled";
import type { KeptRecord } from "../decimate/kept-record";

/** A typed array kept as a blob under the SHA-256 of its bytes. */
export interface StreamRef {
  hash: string;
  kind: "f32" | "u32" | "i32" | "u16" | "u8";
  length: number;
}

/** What a mesh is made of, then what may hang on it. */
const MESH_STREAMS = [
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

const RECORD_STREAMS = [
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
  "parts" | "maps" | "references" | "record" | "painted" | "looks"
> {
  looks: LookDocument[];
  record: RecordDocument | null;
  parts: PartDocument[];
  maps: MapDocument[];
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

type Stream =
  Float32Array | Uint32Array | Int32Array | Uint16Array | Uint8Array;

const known = new WeakMap<Stream, StreamRef>();

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
    maps: asset.maps.map((map) => ({ ...map, pixels: store(map.pixels) })),
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
function withPictures<From, To>(
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

/** What older documents call things by another name: streams of meshes, fields of parts, streams of the record. */
const OLD_NAMES = {
  streams: { cuts: "seamOverrides", seen: "visibility" },
  part: { laid: "previousUnwrap" },
  record: { rise: "errorIncrease", gone: "removedCount", where: "meshIndex" },
} as const;

/** An object with its old keys under their new names. */
function renamed<T extends object>(
  value: T,
  names: Readonly<Record<string, string>>,
): T {
  if (!Object.keys(names).some((old) => old in value)) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, each]) => [names[key] ?? key, each]),
  ) as T;
}

const withNewStreams = (mesh: MeshDocument | null): MeshDocument | null =>
  mesh && { ...mesh, streams: renamed(mesh.streams, OLD_NAMES.streams) };

/** A document with what older ones do not name yet, or name otherwise. */
export function fillDocument(document: AssetDocument): AssetDocument {
  return {
    ...document,
    brief: { ...DEFAULT_BRIEF, ...document.brief },
    palette: document.palette ?? [],
    references: document.references ?? [],
    reports: document.reports ?? {},
    record: document.record
      ? {
          ...document.record,
          streams: renamed(document.record.streams, OLD_NAMES.record),
        }
      : null,
    painted: document.painted ?? null,
    settleWithout: document.settleWithout ?? [],
    parts: document.parts
      .map((part) => renamed(part, OLD_NAMES.part))
      .map((part) => ({
        ...part,
        source: withNewStreams(part.source),
        game: withNewStreams(part.game),
        capped: part.capped ?? false,
        previousUnwrap: withNewStreams(part.previousUnwrap ?? null),
        levels: (part.levels ?? []).map((level) => withNewStreams(level)!),
        share: part.share ?? 0,
        group: part.group ?? "",
        standIns: part.standIns ?? [],
        repeat: part.repeat ?? null,
        dense: withNewStreams(part.dense ?? null),
        skinned: part.skinned ?? false,
        light: withNewStreams(part.light ?? null),
        tried: withNewStreams(part.tried ?? null),
        settled: part.settled
          ? { ...part.settled, mesh: withNewStreams(part.settled.mesh) }
          : null,
      })),
  };
}

/**
 * The asset of a stored document.
 * @param get gives the bytes of a stream; the caller keeps what it gave unchanged
 * @throws ArnikError where a stream is missing or does not have the stated length
 */
export function fromDocument(
  stored: AssetDocument,
  get: (hash: string) => Uint8Array,
): Asset {
  const document = fillDocument(stored);
  const loaded = new Map<string, Stream>();
  const load = <T extends Stream>(ref: StreamRef): T => {
    const key = `${ref.kind} ${ref.hash}`;
    let stream = loaded.get(key);
    if (!stream) {
      stream = decodeStream(ref, get(ref.hash));
      loaded.set(key, stream);
    }
    return stream as T;
  };
  const mesh = (value: MeshDocument | null | undefined): Mesh | null =>
    !value
      ? null
      : ({
          ...Object.fromEntries(
            MESH_STREAMS.map((name) => [
              name,
              value.streams[name] ? load(value.streams[name]) : null,
            ]),
          ),
          materials: value.materials,
        } as unknown as Mesh);
  return {
    ...document,
    parts: document.parts.map((part) => ({
      ...part,
      ...sourceFrom(part, mesh, load),
      game: mesh(part.game),
      previousUnwrap: mesh(part.previousUnwrap),
      levels: (part.levels ?? []).map((level) => mesh(level)!),
      dense: mesh(part.dense),
      light: mesh(part.light),
      tried: mesh(part.tried),
      hulls: part.hulls.map((hull) => ({
        ...hull,
        positions: load<Float32Array>(hull.positions),
        triangles: load<Uint32Array>(hull.triangles),
      })),
    })),
    record: document.record && recordFrom(document.record, load),
    maps: document.maps.map((map) => ({
      ...map,
      pixels: load<Uint8Array | Uint16Array>(map.pixels),
    })),
    references: document.references.map((each) => ({
      ...each,
      bytes: load<Uint8Array>(each.bytes),
    })),
    painted: document.painted && {
      ...document.painted,
      bytes: load<Uint8Array>(document.painted.bytes),
    },
    looks: document.looks.map((look) =>
      withPictures(look, (ref: StreamRef) => load<Uint8Array>(ref)),
    ),
  };
}

/** A part's source and what it was settled to, known as such from here on. */
function sourceFrom(
  part: PartDocument,
  mesh: (value: MeshDocument | null) => Mesh | null,
  load: <T extends Stream>(ref: StreamRef) => T,
): Pick<Part, "source" | "settled"> {
  const source = mesh(part.source);
  const settled = part.settled && {
    ...part.settled,
    mesh: mesh(part.settled.mesh),
    faces: part.settled.faces && load<Uint32Array>(part.settled.faces),
  };
  if (source && settled) registerSettled(source, settled);
  return { source, settled };
}

/** A kept record from its document. @param load gives a stream */
export function recordFrom(
  { parts, plane, centre, streams }: RecordDocument,
  load: (ref: StreamRef) => Stream,
): KeptRecord {
  const record = Object.fromEntries(
    RECORD_STREAMS.map((name) => [name, load(streams[name])]),
  );
  return {
    parts,
    plane,
    record: { ...record, centre } as unknown as KeptRecord["record"],
  };
}

const ARRAYS = {
  f32: Float32Array,
  u32: Uint32Array,
  i32: Int32Array,
  u16: Uint16Array,
  u8: Uint8Array,
};

/** A stream from its bytes, aligned; remembered under its hash so that it is not hashed again. */
export function decodeStream(ref: StreamRef, bytes: Uint8Array): Stream {
  const Kind = ARRAYS[ref.kind];
  if (bytes.byteLength !== ref.length * Kind.BYTES_PER_ELEMENT)
    throw new ArnikError(
      `stream ${ref.hash.slice(0, 8)} is damaged: ${bytes.byteLength} bytes stored, ` +
        `${ref.length * Kind.BYTES_PER_ELEMENT} expected`,
    );
  const aligned =
    bytes.byteOffset % Kind.BYTES_PER_ELEMENT === 0 ? bytes : bytes.slice();
  const stream = new Kind(
    aligned.buffer as ArrayBuffer,
    aligned.byteOffset,
    ref.length,
  );
  known.set(stream, ref);
  return stream;
}

/** Hashes of all streams a document names. */
export function streamsOf(document: AssetDocument): StreamRef[] {
  const refs: StreamRef[] = [];
  for (const part of document.parts) {
    for (const mesh of [
      part.source,
      part.settled?.mesh ?? null,
      part.game,
      part.previousUnwrap,
      part.dense,
      part.light,
      part.tried,
      ...(part.levels ?? []),
    ])
      if (mesh)
        refs.push(...Object.values(mesh.streams).filter((ref) => !!ref));
    if (part.settled?.faces) refs.push(part.settled.faces);
    for (const hull of part.hulls) refs.push(hull.positions, hull.triangles);
  }
  refs.push(...document.maps.map((map) => map.pixels));
  if (document.record) refs.push(...Object.values(document.record.streams));
  refs.push(...(document.references ?? []).map((each) => each.bytes));
  if (document.painted) refs.push(document.painted.bytes);
  for (const { pictures } of document.looks ?? [])
    refs.push(...Object.values(pictures ?? {}).map(({ bytes }) => bytes));
  return refs;
}
