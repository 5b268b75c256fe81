import { describe, expect, it } from "vitest";
import { glb } from "../../tests/hostile-files";
import type { PackedFile } from "../../tests/packed-files";
import { dracoFile, meshoptFile } from "../../tests/packed-files";
import { sphere } from "../../tests/shapes";
import { MeshFormatError } from "../base/errors";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { seededRandom } from "../base/random";
import { boundsOf } from "../space/bounds";
import { readMeshFiles } from "./index";

const ball = sphere(12, 16, 1);
const read = async ({ json, data }: PackedFile) =>
  (await readMeshFiles([{ name: "packed.glb", bytes: glb(json, data) }]))
    .parts[0].mesh;

type Spoil = (file: PackedFile) => void;
const meshopt = (file: PackedFile, view: number) =>
  (
    file.json.bufferViews[view].extensions as Record<
      string,
      Record<string, unknown>
    >
  ).EXT_meshopt_compression;
const draco = (file: PackedFile) =>
  (
    file.json.meshes[0].primitives[0].extensions as Record<
      string,
      Record<string, unknown>
    >
  ).KHR_draco_mesh_compression;

describe("compressed glTF", () => {
  it("of EXT_meshopt_compression is read, its places to the bit", async () => {
    const mesh = await read(await meshoptFile(ball));
    expect(triangleCount(mesh)).toBe(triangleCount(ball));
    // Whatever the sign of zero.
    const places = ({ positions }: Mesh) =>
      Array.from(positions, (x) => x + 0).sort();
    expect(places(mesh)).toEqual(places(ball));
  });

  it("of KHR_draco_mesh_compression is read, with its normals", async () => {
    const mesh = await read(await dracoFile(ball));
    expect(triangleCount(mesh)).toBe(triangleCount(ball));
    const [was, is] = [boundsOf(ball.positions), boundsOf(mesh.positions)];
    for (let k = 0; k < 3; k++) expect(is.max[k]).toBeCloseTo(was.max[k], 3);
    for (let c = 0; c < mesh.corners.length; c++)
      for (let k = 0; k < 3; k++)
        expect(
          Math.abs(
            mesh.normals![3 * c + k] - mesh.positions[3 * mesh.corners[c] + k],
          ),
        ).toBeLessThan(0.02);
  });

  it.each<[string, "meshopt" | "draco", Spoil, RegExp]>([
    [
      "a count",
      "meshopt",
      (f) => (meshopt(f, 0).count = 1e9),
      /EXT_meshopt_compression: 1000000000 elements of 12 bytes can't be so/,
    ],
    [
      "another count",
      "meshopt",
      (f) => (meshopt(f, 0).count = 7),
      /count: 7 elements of 12 bytes are not the \d+ of the view/,
    ],
    [
      "a stride",
      "meshopt",
      (f) => (meshopt(f, 0).byteStride = 13),
      /can't be so/,
    ],
    [
      "a mode",
      "meshopt",
      (f) => (meshopt(f, 1).mode = "STRIPES"),
      /mode: "STRIPES" is none that is known/,
    ],
    [
      "a filter",
      "meshopt",
      (f) => (meshopt(f, 0).filter = 5),
      /filter: 5 is none/,
    ],
    [
      "a buffer",
      "meshopt",
      (f) => (meshopt(f, 0).buffer = 9),
      /buffer: it names number 9, but there are 2/,
    ],
    [
      "the empty buffer",
      "meshopt",
      (f) => (meshopt(f, 0).buffer = 1),
      /the buffer has none/,
    ],
    [
      "an offset",
      "meshopt",
      (f) => (meshopt(f, 1).byteOffset = 1e6),
      /it reaches to byte/,
    ],
    [
      "a view of the empty buffer",
      "meshopt",
      (f) => delete f.json.bufferViews[0].extensions,
      /bufferViews\[0\]: buffers\[1\] holds only what is compressed/,
    ],
    [
      "its bytes",
      "meshopt",
      (f) => f.data.fill(7),
      /bufferViews\[0\]: its compressed data is damaged/,
    ],
    [
      "far too much",
      "meshopt",
      (f) =>
        Object.assign(f.json.bufferViews[0], { byteLength: 12e7 }) &&
        Object.assign(meshopt(f, 0), { count: 1e7 }),
      /can't come of \d+ compressed ones/,
    ],
    [
      "its bytes",
      "draco",
      (f) => f.data.fill(7),
      /primitives\[0\]: its compressed data is damaged/,
    ],
    [
      "a promise",
      "draco",
      (f) => (f.json.accessors[0].count = f.json.accessors[1].count = 9),
      /9 vertices and \d+ indices are promised, its compressed data has/,
    ],
    [
      "an attribute",
      "draco",
      (f) => (draco(f).attributes = { POSITION: 77 }),
      /its compressed data has no POSITION under 77/,
    ],
    [
      "no positions",
      "draco",
      (f) => (draco(f).attributes = {}),
      /attributes: there are no positions/,
    ],
    [
      "a view",
      "draco",
      (f) => (draco(f).bufferView = 4),
      /bufferView: it names number 4, but there are 1/,
    ],
    [
      "a mode",
      "draco",
      (f) => (f.json.meshes[0].primitives[0].mode = 6),
      /only triangles and strips are compressed/,
    ],
    [
      "no indices",
      "draco",
      (f) => delete f.json.meshes[0].primitives[0].indices,
      /compressed faces need them/,
    ],
  ])(
    "with %s spoilt (%s) is refused with the place",
    async (_, kind, spoil, says) => {
      const file = await (kind === "draco" ? dracoFile : meshoptFile)(ball);
      spoil(file);
      const refused = read(file);
      await expect(refused).rejects.toThrow(says);
      await expect(refused).rejects.toThrow(MeshFormatError);
    },
  );

  it("with any byte changed is read, or refused in words of ours", async () => {
    const random = seededRandom(5);
    for (const make of [meshoptFile, dracoFile]) {
      const sound = await make(ball);
      for (let round = 0; round < 60; round++) {
        const data = sound.data.slice();
        for (let k = 0; k < 3; k++)
          data[Math.floor(random() * data.length)] = 256 * random();
        try {
          await read({ ...sound, data });
        } catch (error) {
          expect(error).toBeInstanceOf(MeshFormatError);
          expect(String(error)).toContain("packed.glb");
        }
      }
    }
  });
});
