import { MeshFormatError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";
import { boundsOf } from "../space/bounds";

/** A stream as it is stored: its bytes under their hash. */
export interface HashedBytes {
  hash: string;
  bytes: Uint8Array;
}

/** A mesh that anything which shows GLB shows, by its positions' stream. */
export interface ShownMesh {
  name: string;
  mesh: Mesh;
  /** The hash of its positions, which are among the streams. */
  positions: string;
}

const GLB = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const DATA_CHUNK = 0x004e4942;
/** Kinds of elements in glTF 2.0, and that their view holds vertices, or indices. */
const FLOAT = 5126;
const UNSIGNED_INT = 5125;
const VERTICES = 34962;
const INDICES = 34963;

/**
 * Writes streams as the views of one GLB, told by `asset.extras.arnik.streams` (`hash`, `view`), with nodes that show
 * some of them as plain meshes: polygons and whatever hangs on them are lost to nobody.
 * In one piece: views, accessors and chunks are laid out one after the other.
 */
export function writeStreamGlb(
  streams: readonly HashedBytes[],
  shown: readonly ShownMesh[],
): Uint8Array {
  const pieces: Uint8Array[] = [];
  const bufferViews: object[] = [];
  let length = 0;
  const add = (bytes: Uint8Array, target?: number): number => {
    bufferViews.push({
      buffer: 0,
      byteOffset: length,
      byteLength: bytes.length,
      ...(target && { target }),
    });
    pieces.push(bytes);
    // Views begin at whole words.
    const rest = (4 - (bytes.length % 4)) % 4;
    if (rest) pieces.push(new Uint8Array(rest));
    length += bytes.length + rest;
    return bufferViews.length - 1;
  };
  const vertices = new Set(shown.map(({ positions }) => positions));
  const views = new Map<string, number>();
  for (const { hash, bytes } of streams)
    if (!views.has(hash))
      views.set(hash, add(bytes, vertices.has(hash) ? VERTICES : undefined));
  const accessors: object[] = [];
  const meshes = shown.map(({ name, mesh, positions }) => {
    const { min, max } = boundsOf(mesh.positions);
    accessors.push({
      bufferView: views.get(positions),
      componentType: FLOAT,
      count: mesh.positions.length / 3,
      type: "VEC3",
      ...{ min, max },
    });
    const indices = triangulate(mesh).vertices;
    accessors.push({
      bufferView: add(
        new Uint8Array(indices.buffer, indices.byteOffset, indices.byteLength),
        INDICES,
      ),
      componentType: UNSIGNED_INT,
      count: indices.length,
      type: "SCALAR",
    });
    return {
      name,
      primitives: [
        {
          attributes: { POSITION: accessors.length - 2 },
          indices: accessors.length - 1,
        },
      ],
    };
  });
  const json = {
    asset: {
      version: "2.0",
      generator: "Arnik",
      extras: {
        arnik: { streams: [...views].map(([hash, view]) => ({ hash, view })) },
      },
    },
    ...(meshes.length && {
      scene: 0,
      scenes: [{ nodes: meshes.map((_, i) => i) }],
      nodes: meshes.map(({ name }, mesh) => ({ name, mesh })),
      ...{ meshes, accessors },
    }),
    ...(length && { buffers: [{ byteLength: length }], bufferViews }),
  };
  const text = new TextEncoder().encode(JSON.stringify(json));
  const padded = Math.ceil(text.length / 4) * 4;
  const glb = new Uint8Array(12 + 8 + padded + (length && 8 + length));
  const view = new DataView(glb.buffer);
  view.setUint32(0, GLB, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, glb.length, true);
  view.setUint32(12, padded, true);
  view.setUint32(16, JSON_CHUNK, true);
  glb.fill(0x20, 20, 20 + padded);
  glb.set(text, 20);
  if (!length) return glb;
  let at = 20 + padded;
  view.setUint32(at, length, true);
  view.setUint32(at + 4, DATA_CHUNK, true);
  at += 8;
  for (const piece of pieces) {
    glb.set(piece, at);
    at += piece.length;
  }
  return glb;
}

/**
 * The streams of such a GLB, as they lie in it.
 * @throws MeshFormatError where a place lies outside the file, or it is none of these
 */
export function readStreamGlb(file: string, glb: Uint8Array): HashedBytes[] {
  const fail = (what: string): never => {
    throw new MeshFormatError(file, what);
  };
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  if (glb.length < 20 || view.getUint32(0, true) !== GLB)
    fail("this is no GLB");
  const size = view.getUint32(12, true);
  if (20 + size > glb.length) fail("it is cut off in its JSON");
  let json: {
    asset?: { extras?: { arnik?: { streams?: unknown } } };
    bufferViews?: { byteOffset?: unknown; byteLength?: unknown }[];
  };
  try {
    json = JSON.parse(
      new TextDecoder().decode(glb.subarray(20, 20 + size)),
    ) as typeof json;
  } catch {
    return fail("its JSON is damaged");
  }
  const listed = json.asset?.extras?.arnik?.streams;
  if (!Array.isArray(listed)) return fail("it lists no streams");
  const data = glb.subarray(Math.min(glb.length, 28 + size));
  return (listed as { hash?: unknown; view?: unknown }[]).map((each, i) => {
    const place = json.bufferViews?.[Number(each?.view)];
    const from = Number(place?.byteOffset ?? 0);
    const length = Number(place?.byteLength);
    if (
      typeof each?.hash !== "string" ||
      !Number.isSafeInteger(from) ||
      !Number.isSafeInteger(length) ||
      from < 0 ||
      length < 0 ||
      from + length > data.length
    )
      return fail(`stream ${i} lies outside the file`);
    return { hash: each.hash, bytes: data.subarray(from, from + length) };
  });
}
