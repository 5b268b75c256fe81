import { describe, expect, it } from "vitest";
import { glb, soundGltf, triangleData } from "../../tests/hostile-files";
import { cube, joined, moved } from "../../tests/shapes";
import { seededRandom } from "../base/random";
import { MeshFormatError } from "../base/errors";
import { readMeshFiles, writeMeshFile } from "./index";

/** Words that only the insides of a program use. */
const INSIDES =
  /undefined|not a function|not iterable|cannot read|NaN|typed array|is not defined|reading '|unexpected token|out of bounds|offset is outside|object Object|stack size/i;

/** Reads a broken file: it is read all the same, or refused in words of ours that name it. */
async function readOrRefused(name: string, bytes: Uint8Array): Promise<void> {
  try {
    await readMeshFiles([{ name, bytes }]);
  } catch (error) {
    const told = error instanceof Error ? error.message : String(error);
    expect(error, told).toBeInstanceOf(MeshFormatError);
    expect(told).toContain(name);
    expect(told).not.toMatch(INSIDES);
  }
}

/** A glTF with everything that is read in it. */
function wholeGltf() {
  const json = soundGltf();
  json.accessors.push(
    { bufferView: 0, componentType: 5126, count: 3, type: "VEC3" },
    {
      componentType: 5126,
      count: 3,
      type: "VEC2",
      sparse: {
        count: 1,
        indices: { bufferView: 1, componentType: 5123 },
        values: { bufferView: 0 },
      },
    },
  );
  Object.assign(json.meshes[0].primitives[0], {
    attributes: { POSITION: 0, NORMAL: 2, TEXCOORD_0: 3, COLOR_0: 2 },
    material: 0,
    mode: 4,
  });
  json.nodes = [
    { name: "root", children: [1], translation: [0, 1, 0], scale: [1, 1, 1] },
    { name: "leaf", mesh: 0, rotation: [0, 0, 0, 1] },
  ];
  return {
    ...json,
    materials: [
      {
        name: "tin",
        pbrMetallicRoughness: {
          baseColorFactor: [1, 0.5, 0, 1],
          baseColorTexture: {
            index: 0,
            texCoord: 0,
            extensions: {
              KHR_texture_transform: {
                offset: [0, 1],
                rotation: 1,
                scale: [1, 1],
              },
            },
          },
        },
        normalTexture: { index: 1 },
        alphaMode: "MASK",
        alphaCutoff: 0.4,
      },
    ],
    textures: [{ source: 0 }, { source: 1 }],
    images: [
      { bufferView: 0 },
      { name: "dents", uri: "data:image/png;base64,AAAA" },
    ],
    extensionsRequired: ["KHR_mesh_quantization"],
    extensionsUsed: ["KHR_mesh_quantization"],
  };
}

/** Every place in a JSON, as the keys that lead to it. */
function placesIn(value: unknown, path: string[] = []): string[][] {
  if (!value || typeof value !== "object") return [path];
  return [
    ...(path.length ? [path] : []),
    ...Object.entries(value).flatMap(([key, each]) =>
      placesIn(each, [...path, key]),
    ),
  ];
}

function spoiltAt(path: readonly string[], value: unknown): object {
  const json = structuredClone(wholeGltf()) as unknown as Record<
    string,
    unknown
  >;
  let at = json;
  for (const key of path.slice(0, -1)) at = at[key] as typeof at;
  const last = path[path.length - 1];
  if (value === undefined) delete at[last];
  else at[last] = value;
  return json;
}

describe("glTF", () => {
  it("with anything wrong at any place is read, or refused in words of ours", async () => {
    const wrong = [
      undefined,
      null,
      -1,
      1.5,
      1e9,
      "words",
      "",
      true,
      [],
      [[]],
      {},
      [null],
    ];
    let tried = 0;
    for (const path of placesIn(wholeGltf()))
      for (const value of wrong) {
        await readOrRefused(
          "a.glb",
          glb(spoiltAt(path, value), triangleData()),
        );
        tried++;
      }
    expect(tried).toBeGreaterThan(1000);
  });

  it("names the place as a path", async () => {
    for (const [path, value, says] of [
      ["nodes.1.mesh", 7, /^a\.glb: nodes\[1\]\.mesh: it names number 7/],
      ["nodes.0.scale", [1, 1], /^a\.glb: nodes\[0\]\.scale: 3 numbers/],
      ["accessors.0.type", "VEC9", /^a\.glb: accessors\[0\]\.type: "VEC9"/],
      ["meshes.0.primitives", 3, /^a\.glb: meshes\[0\]\.primitives: a list/],
      ["buffers", "x", /^a\.glb: buffers: a list is expected/],
      ["scene", 4, /^a\.glb: scene: it names number 4/],
    ] as const)
      await expect(
        readMeshFiles([
          {
            name: "a.glb",
            bytes: glb(spoiltAt(path.split("."), value), triangleData()),
          },
        ]),
      ).rejects.toThrow(says);
  });
});

describe("files of every format", () => {
  const two = [
    { name: "box", mesh: cube() },
    { name: "pair", mesh: joined(cube(), moved(cube(), 3, 0, 0)) },
  ];

  it.each(["obj", "ply", "stl", "glb", "gltf"])(
    "cut, spoilt or with pieces moved are read, or refused in words of ours: %s",
    async (ending) => {
      const sound = await writeMeshFile(`a.${ending}`, two);
      const random = seededRandom(23);
      const place = () => Math.floor(random() * sound.length);
      for (let n = 0; n < 150; n++) {
        await readOrRefused(`a.${ending}`, sound.slice(0, place()));
        const spoilt = sound.slice();
        for (let k = 0; k < 1 + (n % 5); k++)
          spoilt[place()] = Math.floor(random() * 256);
        await readOrRefused(`a.${ending}`, spoilt);
        const shuffled = sound.slice();
        const [from, to] = [place(), place()];
        shuffled.copyWithin(to, from, from + (n % 90));
        await readOrRefused(`a.${ending}`, shuffled);
      }
    },
  );
});
