import { encode } from "fast-png";
import { describe, expect, it } from "vitest";
import { glb, soundGltf, triangleData } from "../../tests/hostile-files";
import { sphere } from "../../tests/shapes";
import type { SurfacePicture } from "../base/pictures";
import { createAsset, createPart } from "../asset/asset";
import { streamsOf, toDocument } from "../asset/document";
import { fromDocument } from "../asset/read-document";
import { clipMesh } from "../mesh/clip";
import { clusterMesh } from "../decimate/cluster";
import type { Mesh } from "../mesh/mesh";
import { settleMesh } from "../settle/settle";
import { plainContext } from "../base/context";
import { KERNELS, findOperation } from "../operations";
import { runOperation } from "../route";
import type { GivenFile } from "./index";
import { readMeshFiles } from "./index";

const text = (lines: string) => new TextEncoder().encode(lines);
const picture = encode({
  width: 2,
  height: 1,
  data: new Uint8Array([255, 0, 0, 0, 255, 0]),
  channels: 3,
});
const base64 = Buffer.from(picture).toString("base64");

/** Where a picture is looked at for a UV, v up. */
const placed = ({ placing }: SurfacePicture, u: number, v: number) => {
  const [a, b, c, d, e, f] = placing ?? [1, 0, 0, 0, 1, 0];
  return [a * u + b * v + c, d * u + e * v + f];
};

describe("material libraries", () => {
  const obj = {
    name: "net.obj",
    bytes: text(
      "mtllib net.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl cord\nf 1/1 2/2 3/3\n",
    ),
  };
  const library = (lines: string): GivenFile => ({
    name: "net.mtl",
    bytes: text(`newmtl cord\n${lines}`),
  });

  it("bring their pictures, under paths of any writing, moved and scaled as they say", async () => {
    const { looks, notes } = await readMeshFiles([
      obj,
      library(
        "Kd 1 1 1\nmap_Kd -clamp on -s 2 3 1 -o 0.25 0.5 maps\\old cord.png\nnorm ./cord%20normal.png\nmap_d cord_mask.png\n",
      ),
      { name: "old cord.png", bytes: picture },
      { name: "cord normal.png", bytes: picture },
      { name: "cord_mask.png", bytes: picture },
    ]);
    const { colour, normal, opacity } = looks.get("cord")!.pictures!;
    expect(colour).toMatchObject({ name: "old cord.png", width: 2, height: 1 });
    expect(placed(colour!, 0.5, 0.5)).toEqual([1.25, 2]);
    expect(normal).toMatchObject({ name: "cord normal.png", kind: "png" });
    expect(normal!.placing).toBeUndefined();
    expect(opacity!.bytes).toEqual(picture);
    expect(notes).toEqual([]);
  });

  it("are read once, and their pictures kept once, for several files that come together", async () => {
    const { looks, notes } = await readMeshFiles([
      obj,
      { ...obj, name: "second.obj" },
      library(
        "map_Kd cord.png\nnewmtl rope\nmap_Kd cord.png\nmap_d lost.png\n",
      ),
      { name: "cord.png", bytes: picture },
    ]);
    const bytes = ["cord", "rope"].map(
      (name) => looks.get(name)!.pictures!.colour!.bytes,
    );
    expect(bytes[0]).toBe(bytes[1]);
    expect(notes.filter((note) => note.includes("not given"))).toEqual([
      expect.stringMatching(/^1 /),
    ]);
  });

  it("say which pictures did not come along, or can't be used, and are read all the same", async () => {
    const { looks, notes } = await readMeshFiles([
      obj,
      library("map_Kd lost.png\nmap_bump -bm 0.4 words.png\nmap_Ks -o\nnorm\n"),
      { name: "words.png", bytes: text("no picture") },
    ]);
    expect(looks.get("cord")?.pictures).toBeUndefined();
    expect(notes).toEqual([
      "1 pictures named but not given: give them together with the file",
      "1 pictures left out: PNG and JPEG are read, up to 32 MB each",
    ]);
  });
});

describe("glTF materials", () => {
  /** A triangle with UVs in a material, whose JSON is put in. */
  const file = (material: object, rest: object = {}) => {
    const json = soundGltf();
    json.accessors.push({ componentType: 5126, count: 3, type: "VEC2" });
    Object.assign(json.meshes[0].primitives[0], {
      attributes: { POSITION: 0, TEXCOORD_0: 2 },
      material: 0,
    });
    json.bufferViews.push({
      buffer: 0,
      byteOffset: 64,
      byteLength: picture.length,
    });
    json.buffers[0].byteLength = 64 + picture.length;
    const data = triangleData(64 + picture.length);
    data.set(picture, 64);
    const whole = {
      ...json,
      materials: [{ name: "cord", ...material }],
      textures: [{ source: 0 }],
      images: [{ name: "weave", bufferView: 2, mimeType: "image/png" }],
      ...rest,
    };
    return { name: "net.glb", bytes: glb(whole, data) };
  };
  const textured = (info: object = {}) => ({
    pbrMetallicRoughness: { baseColorTexture: { index: 0, ...info } },
  });
  const pictureIn = async (given: GivenFile, ...others: GivenFile[]) =>
    (await readMeshFiles([given, ...others])).looks.get("cord")?.pictures
      ?.colour;

  it("have pictures within the file, in its JSON and beside it", async () => {
    const within = await pictureIn(file(textured()));
    expect(within).toMatchObject({ name: "weave", width: 2, height: 1 });
    expect(within!.bytes).toEqual(picture);
    const uri = (written: string) => ({ images: [{ uri: written }] });
    const written = file(textured(), uri(`data:image/png;base64,${base64}`));
    expect((await pictureIn(written))!.bytes).toEqual(picture);
    const beside = file(textured(), uri("maps/weave%201.png"));
    const given = { name: "weave 1.png", bytes: picture };
    expect((await pictureIn(beside, given))!.bytes).toEqual(picture);
    const { looks, notes } = await readMeshFiles([beside]);
    expect(looks.get("cord")!.pictures).toBeUndefined();
    expect(notes).toEqual([expect.stringContaining("not given")]);
  });

  it("move, turn and scale what is shown (KHR_texture_transform), v turned up", async () => {
    const moved = { offset: [0.25, 0.5], rotation: 0.3, scale: [2, 3] };
    const colour = (await pictureIn(
      file(textured({ extensions: { KHR_texture_transform: moved } })),
    ))!;
    for (const [u, down] of [
      [0, 0],
      [1, 0],
      [0.3, 0.8],
    ]) {
      // Scaled, then turned against the clock as it is seen with v down, then moved.
      const [x, y] = [2 * u, 3 * down];
      const wanted = [
        Math.cos(0.3) * x + Math.sin(0.3) * y + 0.25,
        -Math.sin(0.3) * x + Math.cos(0.3) * y + 0.5,
      ];
      const [a, up] = placed(colour, u, 1 - down);
      expect(a).toBeCloseTo(wanted[0], 9);
      expect(1 - up).toBeCloseTo(wanted[1], 9);
    }
  });

  it("say how their alpha counts; pictures on a second set of UVs are not shown on the first", async () => {
    const look = async (material: object) =>
      (await readMeshFiles([file({ ...textured(), ...material })])).looks.get(
        "cord",
      )!;
    expect((await look({ alphaMode: "MASK" })).cutOff).toBe(0.5);
    expect((await look({ alphaMode: "MASK", alphaCutoff: 0.2 })).cutOff).toBe(
      0.2,
    );
    expect((await look({ alphaMode: "BLEND" })).cutOff).toBe(0);
    expect((await look({})).cutOff).toBeUndefined();
    expect(await pictureIn(file(textured({ texCoord: 1 })))).toBeUndefined();
  });

  it("note what is not read of their pictures, and keep no name that could do harm", async () => {
    const notes = async (given: GivenFile) =>
      (await readMeshFiles([given])).notes;
    expect(await notes(file(textured({ texCoord: 1 })))).toEqual([
      expect.stringContaining("1 pictures on a second set of UVs"),
    ]);
    const other = { textures: [{ extensions: { EXT_other: { source: 0 } } }] };
    expect(await notes(file(textured(), other))).toEqual([
      expect.stringContaining("PNG and JPEG are read"),
    ]);
    const images = [{ name: "../../a\u0000b", bufferView: 2 }];
    const named = await pictureIn(file(textured(), { images }));
    expect(named!.name).not.toMatch(/^\.|[/\\]/);
    expect(named!.name).not.toContain("\u0000");
  });

  it("keep no more of pictures than the file holds, however often they are named", async () => {
    const json = soundGltf();
    const large = encode({
      width: 600,
      height: 600,
      data: Uint8Array.from(
        { length: 1_080_000 },
        (_, i) => Math.imul(i ^ (i >> 7), 0x9e3779b1) >>> 19,
      ),
      channels: 3,
    });
    const count = 200;
    const many = <T>(make: (i: number) => T) =>
      Array.from({ length: count }, (_, i) => make(i));
    json.accessors.push({ componentType: 5126, count: 3, type: "VEC2" });
    json.meshes[0].primitives = many((material) => ({
      attributes: { POSITION: 0, TEXCOORD_0: 2 },
      indices: 1,
      material,
    }));
    // Each view a little longer than the one before: the same bytes two hundred times over.
    const spare = 4 * count;
    json.bufferViews.push(
      ...many((i) => ({
        buffer: 0,
        byteOffset: 64,
        byteLength: large.length + i,
      })),
    );
    json.buffers[0].byteLength = 64 + large.length + spare;
    const data = triangleData(64 + large.length + spare);
    data.set(large, 64);
    const whole = {
      ...json,
      materials: many((index) => ({
        name: `m${index}`,
        ...textured({ index }),
      })),
      textures: many((source) => ({ source })),
      images: many((i) => ({ bufferView: 2 + i })),
    };
    const bytes = glb(whole, data);
    const { looks, notes } = await readMeshFiles([{ name: "a.glb", bytes }]);
    const kept = [...looks.values()].flatMap(
      ({ pictures }) => pictures?.colour ?? [],
    );
    const sum = kept.reduce((all, { bytes: own }) => all + own.length, 0);
    expect(sum).toBeLessThanOrEqual(64 * 1024 * 1024);
    expect(kept.length).toBeGreaterThan(10);
    expect(kept.length).toBeLessThan(count);
    expect(notes).toEqual([
      expect.stringContaining(`${count - kept.length} pictures left out`),
    ]);
  });

  it.each([
    ["materials[0].pbrMetallicRoughness", { pbrMetallicRoughness: 3 }, {}],
    ["baseColorTexture.index", textured({ index: 7 }), {}],
    [
      "baseColorTexture: an object",
      textured(),
      { materials: [{ pbrMetallicRoughness: { baseColorTexture: 1 } }] },
    ],
    ["textures[0].source", textured(), { textures: [{ source: 4 }] }],
    ["images[0].bufferView", textured(), { images: [{ bufferView: 90 }] }],
    ["images[0].uri", textured(), { images: [{ uri: 4 }] }],
    [
      "alphaCutoff",
      { ...textured(), alphaMode: "MASK", alphaCutoff: "all" },
      {},
    ],
    [
      "KHR_texture_transform.offset",
      textured({ extensions: { KHR_texture_transform: { offset: [1] } } }),
      {},
    ],
    [
      "KHR_texture_transform.rotation",
      textured({ extensions: { KHR_texture_transform: { rotation: [] } } }),
      {},
    ],
  ])("are refused with their place: %s", async (place, material, rest) => {
    await expect(readMeshFiles([file(material, rest)])).rejects.toThrow(place);
  });

  it("without names are told apart", async () => {
    const json = soundGltf();
    json.meshes[0].primitives.push({
      ...json.meshes[0].primitives[0],
      material: 1,
    });
    json.meshes[0].primitives[0].material = 0;
    const materials = [
      { pbrMetallicRoughness: { baseColorFactor: [1, 0, 0, 1] } },
      { pbrMetallicRoughness: { baseColorFactor: [0, 0, 1, 1] } },
    ];
    const { looks } = await readMeshFiles([
      { name: "a.glb", bytes: glb({ ...json, materials }, triangleData()) },
    ]);
    expect([...looks].map(([name, { colour }]) => [name, colour])).toEqual([
      ["surface 1", "#ff0000"],
      ["surface 2", "#0000ff"],
    ]);
  });
});

describe("vertex colours", () => {
  const coloursOf = async (name: string, bytes: Uint8Array) =>
    (await readMeshFiles([{ name, bytes }])).parts[0].mesh.colours;
  const wanted = Uint8Array.from([255, 0, 0, 0, 128, 0, 0, 0, 51]);

  it.each([
    ["0 … 1", "v 0 0 0 1 0 0\nv 1 0 0 0 0.5 0\nv 0 1 0 0 0 0.2\n"],
    ["0 … 255", "v 0 0 0 255 0 0\nv 1 0 0 0 128 0\nv 0 1 0 0 0 51\n"],
    [
      "after a weight",
      "v 0 0 0 1 1 0 0\nv 1 0 0 1 0 0.5 0\nv 0 1 0 1 0 0 0.2\n",
    ],
  ])("follow the coordinates of OBJ, %s", async (_, vertices) => {
    const bytes = text(`${vertices}f 1 2 3\n`);
    expect(await coloursOf("a.obj", bytes)).toEqual(wanted);
  });

  it("are white where OBJ gives some vertices none, and none where nothing or nonsense follows", async () => {
    const read = (vertices: string) =>
      coloursOf("a.obj", text(`${vertices}f 1 2 3\n`));
    expect(await read("v 0 0 0\nv 1 0 0 1 0 0\nv 0 1 0\n")).toEqual(
      Uint8Array.from([255, 255, 255, 255, 0, 0, 255, 255, 255]),
    );
    expect(await read("v 0 0 0 1\nv 1 0 0 -1 0 0\nv 0 1 0 x y z\n")).toBeNull();
  });

  it.each([
    ["uchar", ["255 0 0", "0 128 0", "0 0 51"]],
    ["ushort", ["65535 0 0", "0 32896 0", "0 0 13107"]],
    ["float", ["1 0 0", "0 0.5 0", "0 0 0.2"]],
  ])("of PLY are read as %s", async (type, rows) => {
    const header = `ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty ${type} red\nproperty ${type} green\nproperty ${type} blue\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n`;
    const places = ["0 0 0", "1 0 0", "0 1 0"];
    const body = rows.map((row, i) => `${places[i]} ${row}\n`).join("");
    expect(await coloursOf("a.ply", text(`${header}${body}3 0 1 2\n`))).toEqual(
      wanted,
    );
  });

  it.each([3, 4])("of glTF are linear, %i channels", async (channels) => {
    const json = soundGltf();
    const data = triangleData(64 + 12 * channels);
    const view = new DataView(data.buffer);
    const linear = [1, 0, 0, 0, 0.21586, 0, 0, 0, 0.0331];
    for (let v = 0; v < 3; v++)
      for (let k = 0; k < channels; k++)
        view.setFloat32(
          64 + 4 * (channels * v + k),
          k < 3 ? linear[3 * v + k] : 1,
          true,
        );
    json.bufferViews.push({
      buffer: 0,
      byteOffset: 64,
      byteLength: 12 * channels,
    });
    json.buffers[0].byteLength = data.length;
    json.accessors.push({
      bufferView: 2,
      componentType: 5126,
      count: 3,
      type: `VEC${channels}`,
    });
    json.meshes[0].primitives[0].attributes = { POSITION: 0, COLOR_0: 2 };
    expect(await coloursOf("a.glb", glb(json, data))).toEqual(wanted);
  });

  const ball = sphere(10, 12);
  /** Red from left to right, so that what is mixed between corners can be known by its place. */
  const coloured: Mesh = {
    ...ball,
    colours: Uint8Array.from({ length: 3 * ball.corners.length }, (_, i) =>
      i % 3 ? 7 : redAt(ball, (i / 3) | 0),
    ),
  };
  function redAt(mesh: Mesh, corner: number): number {
    return Math.round(127 + 120 * mesh.positions[3 * mesh.corners[corner]]);
  }
  const expectTrue = (mesh: Mesh, slack: number) => {
    expect(mesh.corners.length).toBeGreaterThan(0);
    for (let c = 0; c < mesh.corners.length; c++) {
      expect(
        Math.abs(mesh.colours![3 * c] - redAt(mesh, c)),
      ).toBeLessThanOrEqual(slack);
      expect(mesh.colours![3 * c + 1]).toBe(7);
    }
  };

  it("stay through settling, cutting, the light look-alike and the store", () => {
    expectTrue(settleMesh(coloured).mesh, 1);
    expectTrue(clipMesh(coloured, { normal: [1, 0, 0], offset: 0.1 }), 2);
    expectTrue(clusterMesh(coloured, 60), 60);
    const kept = new Map<string, Uint8Array>();
    const asset = createAsset("a", [createPart("a", 0, { source: coloured })]);
    const document = toDocument(asset, (hash, bytes) => kept.set(hash, bytes));
    const back = fromDocument(document, (hash) => kept.get(hash)!);
    expect(back.parts[0].source!.colours).toEqual(coloured.colours);
  });
});

describe("looks in an asset", () => {
  it("keep their pictures in the store, and when a colour is set", async () => {
    const context = plainContext(KERNELS);
    const files = [
      {
        name: "a.obj",
        bytes: text("v 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl tin\nf 1 2 3\n"),
      },
      { name: "a.mtl", bytes: text("newmtl tin\nd 0.4\nmap_Kd tin.png\n") },
      { name: "tin.png", bytes: picture },
    ];
    const { asset } = await runOperation(
      findOperation("intake/bring-in"),
      createAsset("a"),
      {},
      { ...context, files },
    );
    expect(asset.looks).toMatchObject([
      { material: "tin", colour: "#ffffff", opacity: 0.4 },
    ]);
    const kept = new Map<string, Uint8Array>();
    const document = toDocument(asset, (hash, bytes) => kept.set(hash, bytes));
    expect(JSON.stringify(document)).not.toContain('"0":137');
    const named = streamsOf(document).map(({ hash }) => hash);
    expect(named).toContain(document.looks[0].pictures!.colour!.bytes.hash);
    const back = fromDocument(document, (hash) => kept.get(hash)!);
    expect(back.looks[0].pictures!.colour!.bytes).toEqual(picture);
    const game = {
      ...asset,
      parts: asset.parts.map((part) => ({ ...part, game: part.source })),
    };
    const set = await runOperation(
      findOperation("finish/look"),
      game,
      { material: "tin", colour: "#112233" },
      context,
    );
    expect(set.asset.looks).toMatchObject([
      { colour: "#112233", opacity: 0.4, pictures: { colour: { width: 2 } } },
    ]);
    expect(JSON.stringify(set.report)).not.toContain("bytes");
  });
});
