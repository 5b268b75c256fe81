import { ArnikError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import type { Asset, Part } from "./asset";
import { DEFAULT_BRIEF } from "./asset";
import { registerSettled } from "./settled";
import type { KeptRecord } from "../decimate/kept-record";
import type { BakedMap } from "../base/pictures";
import type {
  StreamRef,
  MapDocument,
  MeshDocument,
  PartDocument,
  RecordDocument,
  AssetDocument,
  Stream,
} from "./document";
import { MESH_STREAMS, RECORD_STREAMS, known, withPictures } from "./document";

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
    aside: document.aside ?? [],
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
  const picture = (map: MapDocument): BakedMap => ({
    ...map,
    pixels: load<Uint8Array | Uint16Array>(map.pixels),
  });
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
    maps: document.maps.map(picture),
    aside: document.aside.map(picture),
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
