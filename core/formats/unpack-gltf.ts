import type { JSONDocument } from "@gltf-transform/core";
import type { Decoder, DecoderModule } from "draco3d";
import { MeshoptDecoder } from "meshoptimizer";
import { MeshFormatError } from "../base/errors";
import { attributeOf as attributeName, FACE_MARKS } from "./marks";
import type { PackedView } from "./gltf-bytes";
import type { PackedPrimitive, Readable } from "./gltf-json";

type Json = JSONDocument["json"];
type Bytes = Uint8Array<ArrayBuffer>;

/** Numbers that each attribute may be made of. */
const WIDTHS: Record<string, readonly number[]> = {
  POSITION: [3],
  NORMAL: [3],
  TEXCOORD_0: [2],
  COLOR_0: [3, 4],
  ...Object.fromEntries(FACE_MARKS.map((name) => [attributeName(name), [1]])),
};
const TYPES = { 1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4" } as const;

/**
 * Unpacks what is compressed in a glTF file, and makes its JSON name that instead (Khronos glTF 2.0 extensions
 * EXT_meshopt_compression and KHR_draco_mesh_compression).
 * @param readable its JSON is changed
 * @param bytesOf the bytes of a buffer
 * @returns the new buffers by their names
 * @throws MeshFormatError naming the place of what is damaged
 */
export async function unpack(
  file: string,
  { json, views, primitives }: Readable,
  bytesOf: (buffer: number) => Bytes,
): Promise<Record<string, Bytes>> {
  const made = new UnpackedData(json);
  if (views.length) await MeshoptDecoder.ready;
  for (const packed of views) {
    json.bufferViews![packed.view].buffer = made.add(
      unpackView(file, packed, bytesOf(packed.buffer)),
    );
  }
  if (primitives.length) {
    const { createDecoderModule } = await import("draco3d");
    const draco = await createDecoderModule({});
    for (const packed of primitives) {
      const {
        buffer,
        byteOffset = 0,
        byteLength,
      } = json.bufferViews![packed.view];
      const bytes = (made.bytesOf(buffer) ?? bytesOf(buffer)).subarray(
        byteOffset,
        byteOffset + byteLength,
      );
      unpackPrimitive(file, draco, packed, bytes, json, made);
    }
  }
  // Buffers that stood for compressed ones hold nothing.
  for (const [i, buffer] of json.buffers!.entries())
    if (!buffer.uri && i > 0) buffer.uri = made.nothing();
  return made.resources;
}

/** Buffers that are added to a JSON. */
class UnpackedData {
  readonly resources: Record<string, Bytes> = {};
  private readonly added = new Map<number, Bytes>();

  constructor(private readonly json: Json) {}

  add(bytes: Bytes): number {
    const uri = `unpacked-${this.added.size}.bin`;
    this.resources[uri] = bytes;
    const at = this.json.buffers!.push({ uri, byteLength: bytes.length }) - 1;
    this.added.set(at, bytes);
    return at;
  }

  bytesOf(buffer: number): Bytes | undefined {
    return this.added.get(buffer);
  }

  nothing(): string {
    this.resources["nothing.bin"] = new Uint8Array(1);
    return "nothing.bin";
  }

  /** An accessor over values of its own. */
  accessor(
    values: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>,
    width: number,
  ): number {
    const bytes = new Uint8Array(values.buffer);
    const buffer = this.add(bytes);
    const { bufferViews, accessors } = this.json;
    return (
      accessors!.push({
        bufferView:
          bufferViews!.push({
            buffer,
            byteOffset: 0,
            byteLength: bytes.length,
          }) - 1,
        componentType: values instanceof Float32Array ? 5126 : 5125,
        count: values.length / width,
        type: TYPES[width as keyof typeof TYPES],
      }) - 1
    );
  }
}

function unpackView(file: string, packed: PackedView, from: Bytes): Bytes {
  const { byteOffset, byteLength, count, byteStride, mode, filter } = packed;
  const bytes = new Uint8Array(count * byteStride);
  try {
    MeshoptDecoder.decodeGltfBuffer(
      bytes,
      count,
      byteStride,
      from.subarray(byteOffset, byteOffset + byteLength),
      mode,
      filter,
    );
  } catch {
    throw new MeshFormatError(
      file,
      `bufferViews[${packed.view}]: its compressed data is damaged: export it again`,
    );
  }
  return bytes;
}

function unpackPrimitive(
  file: string,
  draco: DecoderModule,
  packed: PackedPrimitive,
  bytes: Bytes,
  json: Json,
  made: UnpackedData,
): void {
  const path = `meshes[${packed.mesh}].primitives[${packed.primitive}]`;
  const fail = (what: string): never => {
    throw new MeshFormatError(file, `${path}: ${what}`);
  };
  const decoder = new draco.Decoder();
  const mesh = new draco.Mesh();
  try {
    const status = decoder.DecodeArrayToMesh(bytes, bytes.length, mesh);
    if (!status.ok() || !mesh.ptr)
      fail("its compressed data is damaged: export it again");
    const points = mesh.num_points();
    const corners = 3 * mesh.num_faces();
    if (
      points !== packed.vertices ||
      (corners !== packed.indices &&
        json.meshes![packed.mesh].primitives[packed.primitive].mode !== 5)
    )
      fail(
        `${packed.vertices} vertices and ${packed.indices} indices are promised, its compressed data has ${points} and ${corners}`,
      );
    const primitive = json.meshes![packed.mesh].primitives[packed.primitive];
    primitive.mode = 4;
    for (const name of Object.keys(primitive.attributes)) {
      const id = packed.attributes[name];
      if (id === undefined) continue;
      const values =
        attributeOf(draco, decoder, mesh, id, points, WIDTHS[name]) ??
        fail(`its compressed data has no ${name} under ${id}`);
      primitive.attributes[name] = made.accessor(
        values,
        values.length / points,
      );
    }
    const indices = new Uint32Array(corners);
    const pointer = draco._malloc(indices.byteLength);
    decoder.GetTrianglesUInt32Array(mesh, indices.byteLength, pointer);
    indices.set(new Uint32Array(draco.HEAPU32.buffer, pointer, corners));
    draco._free(pointer);
    primitive.indices = made.accessor(indices, 1);
  } finally {
    draco.destroy(mesh);
    draco.destroy(decoder);
  }
}

/** points × width numbers of an attribute, null where there is none of such a width. */
function attributeOf(
  draco: DecoderModule,
  decoder: Decoder,
  mesh: InstanceType<DecoderModule["Mesh"]>,
  id: number,
  points: number,
  widths: readonly number[],
): Float32Array<ArrayBuffer> | null {
  const attribute = decoder.GetAttributeByUniqueId(mesh, id);
  const width = attribute.ptr ? attribute.num_components() : 0;
  if (!widths.includes(width)) return null;
  const values = new Float32Array(points * width);
  const pointer = draco._malloc(values.byteLength);
  decoder.GetAttributeDataArrayForAllPoints(
    mesh,
    attribute,
    draco.DT_FLOAT32,
    values.byteLength,
    pointer,
  );
  values.set(new Float32Array(draco.HEAPF32.buffer, pointer, values.length));
  draco._free(pointer);
  return values;
}
