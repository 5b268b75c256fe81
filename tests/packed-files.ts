import { createEncoderModule } from "draco3d";
import { MeshoptEncoder } from "meshoptimizer";
import type { Mesh } from "../core/mesh/mesh";
import { triangulate } from "../core/mesh/triangulate";

/** JSON and data of a GLB whose mesh is compressed, to be put together or spoilt. */
export interface PackedFile {
  json: Record<string, unknown> & {
    meshes: { primitives: Record<string, unknown>[] }[];
    bufferViews: Record<string, unknown>[];
    buffers: Record<string, unknown>[];
    accessors: Record<string, unknown>[];
  };
  data: Uint8Array<ArrayBuffer>;
}

const frame = {
  asset: { version: "2.0" },
  scene: 0,
  scenes: [{ nodes: [0] }],
  nodes: [{ mesh: 0, name: "packed" }],
};

const padded = (bytes: Uint8Array) => Math.ceil(bytes.length / 4) * 4;

/** A mesh under EXT_meshopt_compression: places and indices, each in a compressed view. */
export async function meshoptFile(mesh: Mesh): Promise<PackedFile> {
  await MeshoptEncoder.ready;
  const { vertices } = triangulate(mesh);
  const count = mesh.positions.length / 3;
  const places = MeshoptEncoder.encodeGltfBuffer(
    new Uint8Array(mesh.positions.slice().buffer),
    count,
    12,
    "ATTRIBUTES",
    0,
  );
  const faces = MeshoptEncoder.encodeGltfBuffer(
    new Uint8Array(vertices.slice().buffer),
    vertices.length,
    4,
    "TRIANGLES",
    0,
  );
  const data = new Uint8Array(padded(places) + padded(faces));
  data.set(places);
  data.set(faces, padded(places));
  const view = (
    byteLength: number,
    byteOffset: number,
    packed: Uint8Array,
    rest: object,
  ) => ({
    buffer: 1,
    byteLength,
    extensions: {
      EXT_meshopt_compression: {
        buffer: 0,
        byteOffset,
        byteLength: packed.length,
        ...rest,
      },
    },
  });
  return {
    data,
    json: {
      ...frame,
      extensionsRequired: ["EXT_meshopt_compression"],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
      accessors: [
        { bufferView: 0, componentType: 5126, count, type: "VEC3" },
        {
          bufferView: 1,
          componentType: 5125,
          count: vertices.length,
          type: "SCALAR",
        },
      ],
      bufferViews: [
        view(12 * count, 0, places, {
          byteStride: 12,
          count,
          mode: "ATTRIBUTES",
        }),
        view(4 * vertices.length, padded(places), faces, {
          byteStride: 4,
          count: vertices.length,
          mode: "TRIANGLES",
        }),
      ],
      buffers: [
        { byteLength: data.length },
        {
          byteLength: 12 * count + 4 * vertices.length,
          extensions: { EXT_meshopt_compression: { fallback: true } },
        },
      ],
    },
  };
}

/** A mesh under KHR_draco_mesh_compression: places, and normals that point along them. */
export async function dracoFile(mesh: Mesh): Promise<PackedFile> {
  const draco = await createEncoderModule({});
  const { vertices } = triangulate(mesh);
  const count = mesh.positions.length / 3;
  const builder = new draco.MeshBuilder();
  const made = new draco.Mesh();
  builder.AddFacesToMesh(made, vertices.length / 3, vertices);
  const put = (kind: number) =>
    builder.AddFloatAttributeToMesh(made, kind, count, 3, mesh.positions);
  const position = put(draco.POSITION);
  const normal = put(draco.NORMAL);
  const encoder = new draco.Encoder();
  encoder.SetAttributeQuantization(draco.POSITION, 16);
  const out = new draco.DracoInt8Array();
  const length = encoder.EncodeMeshToDracoBuffer(made, out);
  const data = new Uint8Array(Math.ceil(length / 4) * 4);
  for (let i = 0; i < length; i++) data[i] = out.GetValue(i);
  for (const object of [made, encoder, builder, out]) draco.destroy(object);
  const accessor = { componentType: 5126, count, type: "VEC3" };
  return {
    data,
    json: {
      ...frame,
      extensionsRequired: ["KHR_draco_mesh_compression"],
      meshes: [
        {
          primitives: [
            {
              attributes: { POSITION: 0, NORMAL: 1 },
              indices: 2,
              extensions: {
                KHR_draco_mesh_compression: {
                  bufferView: 0,
                  attributes: { POSITION: position, NORMAL: normal },
                },
              },
            },
          ],
        },
      ],
      accessors: [
        accessor,
        { ...accessor },
        { componentType: 5125, count: vertices.length, type: "SCALAR" },
      ],
      bufferViews: [{ buffer: 0, byteLength: length }],
      buffers: [{ byteLength: data.length }],
    },
  };
}
