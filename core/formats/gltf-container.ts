import type { KeptExtras } from "./kept-extras";
import type { Document } from "@gltf-transform/core";
import { WebIO } from "@gltf-transform/core";
import { MeshFormatError } from "../base/errors";
import { bytesOfDataUri } from "./data-uri";
import type { Readable } from "./gltf-json";
import { readableGltf } from "./gltf-json";
import { unpack } from "./unpack-gltf";
import type { GltfLooks } from "./gltf-looks";

/** A file as the library reads it, and what is read beside it. */
export interface Opened {
  document: Document;
  looks: GltfLooks;
  kept: KeptExtras;
  /** Bytes of a buffer view that is not compressed. */
  viewBytes(view: number): Uint8Array;
}

/** Whether a file begins as a GLB does. */
export const isGlb = (bytes: Uint8Array) =>
  bytes[0] === 0x67 &&
  bytes[1] === 0x6c &&
  bytes[2] === 0x54 &&
  bytes[3] === 0x46;

/** Where the data of a container lies among the resources of the library that reads it. */
const CONTAINER_DATA = "@glb.bin";

/** Splits a GLB into its JSON and its data (Khronos glTF 2.0, section 4.4). */
export async function readContainer(
  file: string,
  bytes: Uint8Array,
): Promise<Opened> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = bytes.length >= 20 ? view.getUint32(8, true) : 0;
  if (length > bytes.length || bytes.length < 20)
    throw new MeshFormatError(
      file,
      `the container promises ${length} bytes, the file has ${bytes.length}`,
    );
  const version = view.getUint32(4, true);
  if (version !== 2)
    throw new MeshFormatError(
      file,
      `it is a container of glTF ${version}: export it as glTF 2`,
    );
  const chunks: Uint8Array[] = [];
  for (let at = 12; at + 8 <= bytes.length && chunks.length < 2;) {
    const size = view.getUint32(at, true);
    if (at + 8 + size > bytes.length)
      throw new MeshFormatError(
        file,
        `the chunk at byte ${at} promises ${size} bytes, the file has ${bytes.length - at - 8} more`,
      );
    chunks.push(bytes.subarray(at + 8, at + 8 + size));
    at += 8 + size;
  }
  const data = chunks[1] ?? new Uint8Array(0);
  const readable = readableGltf(file, parse(file, chunks[0]), (buffer, i) =>
    buffer.uri === undefined && i === 0 ? data.length : 0,
  );
  return unpacked(file, readable, {
    [CONTAINER_DATA]: data as Uint8Array<ArrayBuffer>,
  });
}

/** The document of a checked JSON, with what is compressed in it unpacked. */
async function unpacked(
  file: string,
  readable: Readable,
  resources: Record<string, Uint8Array<ArrayBuffer>>,
): Promise<Opened> {
  const { buffers = [], bufferViews = [] } = readable.json;
  const views = bufferViews.map(({ buffer, byteOffset = 0, byteLength }) =>
    resources[buffers[buffer]?.uri ?? CONTAINER_DATA]?.subarray(
      byteOffset,
      byteOffset + byteLength,
    ),
  );
  if (readable.views.length || readable.primitives.length)
    await unpack(file, readable, (i) => {
      const uri = readable.json.buffers?.[i]?.uri;
      return resources[uri ?? CONTAINER_DATA];
    }).then((made) => Object.assign(resources, made));
  return {
    document: await new WebIO().readJSON({ json: readable.json, resources }),
    looks: readable.looks,
    kept: readable.kept,
    viewBytes: (view) => views[view] ?? new Uint8Array(0),
  };
}

/** A glTF file of text, with its buffers beside it or inside. */
export async function readLoose(
  file: string,
  bytes: Uint8Array,
  others: ReadonlyMap<string, Uint8Array>,
): Promise<Opened> {
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
  const names = new Map<string, string>();
  const readable = readableGltf(file, parse(file, bytes), ({ uri }) => {
    if (typeof uri !== "string") return 0;
    const data = uri.startsWith("data:")
      ? bytesOfDataUri(uri)
      : besideIt(file, uri, others);
    if (!data)
      throw new MeshFormatError(
        file,
        `"${uri.slice(0, 40)}…": data within the file is read in base 64 alone`,
      );
    // Under a name of its own, as a URI of data may be long.
    const name = `${Object.keys(resources).length}.bin`;
    resources[name] = data;
    names.set(uri, name);
    return data.length;
  });
  for (const buffer of readable.json.buffers ?? [])
    if (buffer.uri) buffer.uri = names.get(buffer.uri);
  return unpacked(file, readable, resources);
}

function parse(file: string, bytes: Uint8Array): unknown {
  let json: { asset?: unknown; extensionsRequired?: unknown } | null;
  try {
    json = JSON.parse(new TextDecoder().decode(bytes)) as typeof json;
  } catch {
    throw new MeshFormatError(file, "neither a GLB container nor JSON");
  }
  if (!json || typeof json !== "object" || !json.asset)
    throw new MeshFormatError(file, 'JSON without the "asset" that glTF needs');
  const required = Array.isArray(json.extensionsRequired)
    ? (json.extensionsRequired as unknown[])
    : [];
  for (const name of required)
    if (typeof name !== "string" || !HARMLESS.test(name))
      throw new MeshFormatError(
        file,
        typeof name !== "string"
          ? "extensionsRequired: names are expected"
          : `it needs the extension ${name.slice(0, 60)}, which is not supported: export it without`,
      );
  return json;
}

/** The file that a URI names among those given. @throws MeshFormatError where it points elsewhere or is missing */
function besideIt(
  file: string,
  uri: string,
  others: ReadonlyMap<string, Uint8Array>,
): Uint8Array<ArrayBuffer> {
  let name: string;
  try {
    name = decodeURIComponent(uri).replace(/^\.\//, "");
  } catch {
    name = uri;
  }
  if (/^[a-z][a-z0-9+.-]*:|^[/\\]|(^|[/\\])\.\.([/\\]|$)/i.test(name))
    throw new MeshFormatError(file, `"${uri}" points outside the files given`);
  const data = others.get(name) ?? others.get(name.split("/").pop()!);
  if (!data)
    throw new MeshFormatError(
      file,
      `"${uri}" is missing: give it together with the file`,
    );
  return data as Uint8Array<ArrayBuffer>;
}

/** Extensions that change only looks, so that a mesh can be read without them, or that are read. */
export const HARMLESS =
  /^(KHR_materials_|KHR_texture_transform$|KHR_lights_punctual$|KHR_mesh_quantization$|KHR_physics_rigid_bodies$|KHR_implicit_shapes$|EXT_mesh_gpu_instancing$|EXT_texture_webp$|KHR_texture_basisu$|KHR_draco_mesh_compression$|EXT_meshopt_compression$)/;
