import { describe, expect, it } from "vitest";
import { glb, soundGltf, triangleData } from "../../tests/hostile-files";
import { triangleCount } from "../mesh/mesh";
import { readMeshFiles } from "./index";

const read = (name: string, json: object, data = triangleData()) =>
  readMeshFiles([{ name, bytes: glb(json, data) }]);

/** Six vertices of two rows, and indices of one byte in the order they come. */
function rows(mode: number, indices: number[]) {
  const data = new Uint8Array(72 + indices.length);
  const view = new DataView(data.buffer);
  for (let v = 0; v < 6; v++) {
    view.setFloat32(12 * v, v >> 1, true);
    view.setFloat32(12 * v + 4, v & 1, true);
  }
  data.set(indices, 72);
  const json = soundGltf();
  json.meshes[0].primitives[0].mode = mode;
  json.accessors = [
    { bufferView: 0, componentType: 5126, count: 6, type: "VEC3" },
    {
      bufferView: 1,
      componentType: 5121,
      count: indices.length,
      type: "SCALAR",
    },
  ];
  json.bufferViews = [
    { buffer: 0, byteLength: 72 },
    { buffer: 0, byteOffset: 72, byteLength: indices.length },
  ];
  json.buffers = [{ byteLength: data.length }];
  return { json, data };
}

describe("glTF primitives", () => {
  it("of strips and fans are triangles that face one way", async () => {
    for (const [mode, indices, triangles] of [
      [5, [0, 2, 1, 3], 2],
      [5, [1, 0, 3, 2, 5, 4], 4],
      [6, [0, 2, 3, 1], 2],
    ] as const) {
      const { json, data } = rows(mode, [...indices]);
      const { mesh } = (await read("rows.glb", json, data)).parts[0];
      expect(triangleCount(mesh)).toBe(triangles);
      const { positions: p, corners } = mesh;
      for (let c = 0; c < corners.length; c += 3) {
        const [a, b, d] = [0, 1, 2].map((k) => 3 * corners[c + k]);
        const turn =
          (p[b] - p[a]) * (p[d + 1] - p[a + 1]) -
          (p[b + 1] - p[a + 1]) * (p[d] - p[a]);
        expect(turn).toBeGreaterThan(0);
      }
    }
  });

  it("of points and lines alone say how many points there are, and no faces", async () => {
    for (const mode of [0, 1, 2, 3]) {
      const { json, data } = rows(mode, [0, 1, 2, 3]);
      await expect(read("points.glb", json, data)).rejects.toThrow(
        "points.glb: there are no faces in its scene, only 6 points of points and lines",
      );
    }
  });

  it("with quantized places are read, as the extension that says so is", async () => {
    const json = soundGltf();
    const data = new Uint8Array(64);
    const view = new DataView(data.buffer);
    [0, 0, 0, 32767, 0, 0, 0, 32767, 0].forEach((x, i) =>
      view.setInt16(8 * Math.floor(i / 3) + 2 * (i % 3), x, true),
    );
    data.set([0, 1, 2], 36);
    json.accessors[0] = {
      bufferView: 0,
      componentType: 5122,
      normalized: true,
      count: 3,
      type: "VEC3",
    };
    json.accessors[1].componentType = 5121;
    json.bufferViews[0].byteStride = 8;
    const { mesh } = (
      await read(
        "quantized.glb",
        { ...json, extensionsRequired: ["KHR_mesh_quantization"] },
        data,
      )
    ).parts[0];
    expect([...mesh.positions]).toEqual([0, 0, 0, 1, 0, 0, 0, 1, 0]);
  });
});

describe("glTF 1", () => {
  it("is refused in those words, as JSON and as a container", async () => {
    const first = {
      ...soundGltf(),
      asset: { version: "1.0" },
    };
    await expect(
      readMeshFiles([
        {
          name: "old.gltf",
          bytes: new TextEncoder().encode(JSON.stringify(first)),
        },
      ]),
    ).rejects.toThrow(
      "old.gltf: asset.version: this is glTF 1: export it as glTF 2",
    );
    const container = glb(soundGltf());
    new DataView(container.buffer).setUint32(4, 1, true);
    await expect(
      readMeshFiles([{ name: "old.glb", bytes: container }]),
    ).rejects.toThrow(/container of glTF 1: export it as glTF 2/);
  });
});
