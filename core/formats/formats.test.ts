import { decode } from "fast-png";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, joined, sphere, tubeMesh } from "../../tests/shapes";
import { ArnikError } from "../base/errors";
import { triangleCount, vertexCount } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import { seamsFromUvs } from "../mesh/seams-from-uvs";
import { validateGlb } from "../ship/methods/validate";
import { writeGlb } from "./write-gltf";
import { endingOf, isMeshFile, readMeshFiles, writeMeshFile } from "./index";
import { flipGreen, writePng } from "./png";
import { distinctNames, safeName } from "./raw-mesh";

const text = (value: string) => new TextEncoder().encode(value);
const read = (name: string, bytes: Uint8Array | string) =>
  readMeshFiles([
    { name, bytes: typeof bytes === "string" ? text(bytes) : bytes },
  ]);
const refusal = async (name: string, bytes: Uint8Array | string) => {
  const error = await read(name, bytes).then(
    () => null,
    (reason: unknown) => reason,
  );
  expect(error).toBeInstanceOf(ArnikError);
  return (error as Error).message;
};

describe("what is written is read again", () => {
  const mesh = sphere(10, 14);
  const withUvs = {
    ...mesh,
    uvs: Float32Array.from(
      { length: 2 * mesh.corners.length },
      (_, i) => (mesh.corners[i >> 1] % 97) / 97 + (i & 1) / 7,
    ),
  };

  for (const ending of ["obj", "ply", "stl", "glb", "gltf"])
    it(`as .${ending}`, async () => {
      const bytes = await writeMeshFile(`ball.${ending}`, [
        { name: "ball", mesh },
      ]);
      const { parts, notes } = await read(`ball.${ending}`, bytes);
      expect(notes).toEqual([]);
      expect(parts).toHaveLength(1);
      expect(parts[0].name).toBe("ball");
      expect(triangleCount(parts[0].mesh)).toBe(triangleCount(mesh));
      expect(vertexCount(parts[0].mesh)).toBe(vertexCount(mesh));
      const sum = (p: Float32Array) =>
        p.reduce((total, x) => total + Math.abs(x), 0);
      expect(sum(parts[0].mesh.positions)).toBeCloseTo(sum(mesh.positions), 2);
    });

  /** Two colours that meet on a line, so that corners of one vertex differ. */
  const colours = Uint8Array.from(
    { length: 3 * mesh.corners.length },
    (_, i) => (i < 300 ? 200 : [10, 60, 250][i % 3]),
  );
  for (const ending of ["obj", "ply", "glb", "gltf"])
    for (const [what, uvs] of [
      ["", null],
      [" with UVs", withUvs.uvs],
    ] as const)
      it(`vertex colours as .${ending}${what}`, async () => {
        const part = { name: "ball", mesh: { ...mesh, uvs, colours } };
        const plain = { name: "cube", mesh: cube() };
        const list = uvs ? [part] : [part, plain];
        const bytes = await writeMeshFile(`ball.${ending}`, list);
        const [found] = (await read(`ball.${ending}`, bytes)).parts;
        expect(found.mesh.colours!.subarray(0, colours.length)).toEqual(
          colours,
        );
      });

  it("marks of faces and what IDs are of in glTF, valid for all", async () => {
    const ids = Uint16Array.from(mesh.corners, (_, f) => f % 3).subarray(
      0,
      mesh.corners.length / 3,
    );
    const density = Uint8Array.from(ids, (id) => 200 * Number(id === 2));
    const palette = [
      { name: "brass", colour: "#aa8833" },
      { name: "rope", colour: "#557799" },
    ];
    const list = [{ name: "ball", mesh: { ...mesh, ids, density } }];
    for (const ending of ["glb", "gltf"]) {
      const bytes = await writeMeshFile(`a.${ending}`, list, {
        marks: { palette },
      });
      const back = await read(`a.${ending}`, bytes);
      // Entries come in the order in which faces have them.
      expect(back.palette).toEqual(palette);
      expect([...back.parts[0].mesh.ids!]).toEqual([...ids]);
      expect([...back.parts[0].mesh.density!]).toEqual([...density]);
      expect(back.parts[0].mesh.held).toBe(null);
      if (ending === "glb")
        expect(await validateGlb("a.glb", bytes)).toMatchObject({
          errors: 0,
          warnings: 0,
        });
    }
    // Engines have no use for them: they are only written where that is asked for.
    const bare = await read("b.glb", await writeMeshFile("b.glb", list));
    expect(bare.parts[0].mesh.ids).toBe(null);
  });

  it("but never marks that are no marks, nor a palette that is none", async () => {
    const density = new Uint8Array(mesh.corners.length / 3).fill(9);
    const bytes = await writeMeshFile(
      "a.gltf",
      [{ name: "ball", mesh: { ...mesh, density } }],
      { marks: { palette: [{ name: "a", colour: "#aabbcc" }] } },
    );
    const json = JSON.parse(new TextDecoder().decode(bytes)) as {
      asset: { extras: object };
      accessors: { count: number }[];
      meshes: { primitives: { attributes: Record<string, number> }[] }[];
    };
    const { attributes } = json.meshes[0].primitives[0];
    // Positions are no whole numbers, and three of them.
    attributes._DENSITY = attributes.NORMAL;
    attributes._IDS = attributes.NORMAL;
    for (const palette of [3, [{}], [{ name: "a", colour: "red" }], "x"]) {
      json.asset.extras = { arnik: { palette } };
      const back = await read("a.gltf", JSON.stringify(json));
      expect(back.parts[0].mesh.density).toBe(null);
      expect(back.parts[0].mesh.ids).toBe(null);
      expect(back.palette).toEqual([]);
    }
    attributes._DENSITY = json.accessors.length;
    expect(await refusal("a.gltf", JSON.stringify(json))).toContain(
      "attributes._DENSITY",
    );
  });

  for (const ending of ["obj", "ply", "glb"])
    it(`UVs as .${ending}`, async () => {
      const bytes = await writeMeshFile(`ball.${ending}`, [
        { name: "ball", mesh: withUvs },
      ]);
      const { parts } = await read(`ball.${ending}`, bytes);
      const found = parts[0].mesh;
      expect(found.uvs).not.toBeNull();
      const total = (uvs: Float32Array) =>
        uvs.reduce((sum, x) => sum + x, 0) / uvs.length;
      expect(total(found.uvs!)).toBeCloseTo(total(withUvs.uvs), 4);
      expect(seamsFromUvs(found, found.uvs!).length).toBe(found.corners.length);
    });

  it("quads and parts stay what they are in OBJ", async () => {
    const bytes = await writeMeshFile("two.obj", [
      { name: "box", mesh: { ...cube(), normals: cornerNormals(cube()) } },
      { name: "pipe", mesh: tubeMesh(8, 2) },
    ]);
    const { parts } = await read("two.obj", bytes);
    expect(parts.map((part) => part.name)).toEqual(["box", "pipe"]);
    expect(parts[0].mesh.faceStarts.length - 1).toBe(6);
    expect(parts[1].mesh.normals).toBeNull();
  });

  it("the same meshes give the same bytes", async () => {
    const one = await writeMeshFile("a.glb", [{ name: "a", mesh: withUvs }]);
    const two = await writeMeshFile("a.glb", [{ name: "a", mesh: withUvs }]);
    expect(Buffer.compare(Buffer.from(one), Buffer.from(two))).toBe(0);
  });

  it("a GLB with maps, looks, hulls and tangents passes the validator", async () => {
    const png = writePng({
      kind: "normal",
      width: 4,
      height: 4,
      channels: 3,
      depth: 8,
      pixels: new Uint8Array(48).fill(128),
    });
    const picture = { bytes: png, mimeType: "image/png" as const };
    const hull = {
      name: "a_hull_1",
      kind: "convex" as const,
      positions: cube().positions,
      triangles: new Uint32Array([0, 4, 6, 0, 6, 2, 1, 3, 7, 1, 7, 5]),
    };
    const glb = await writeGlb("a", [{ name: "a", mesh: withUvs }], {
      images: [{ normal: picture, occlusion: picture }],
      looks: [
        {
          material: "surface",
          colour: "#804020",
          roughness: 0.4,
          metalness: 1,
        },
      ],
      hulls: [{ ...hull, of: "a" }],
      tangents: true,
    });
    expect(await validateGlb("a.glb", glb)).toMatchObject({ errors: 0 });
    const { parts, looks } = await read("a.glb", glb);
    expect(parts.map((part) => part.name)).toEqual(["a", "a_hull_1"]);
    expect(looks.get("surface")?.colour).toBe("#804020");
  });
});

describe("OBJ", () => {
  it("takes negative indices, groups, materials and smoothing groups", async () => {
    const { parts, looks } = await readMeshFiles([
      {
        name: "a.obj",
        bytes: text(
          "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\ng lid\nusemtl tin\ns 1\nf -4 -3 -2 \\\n -1\ng rim\nusemtl rope\ns 2\nf 1 2 3\n",
        ),
      },
      { name: "a.mtl", bytes: text("newmtl tin\nKd 1 0.5 0\n") },
    ]);
    expect(parts.map((part) => part.name)).toEqual(["lid", "rim"]);
    expect(parts[0].mesh.materials).toEqual(["tin"]);
    expect(looks.get("tin")?.colour).toBe("#ff8000");
  });

  it("makes edges between smoothing groups hard", async () => {
    const { parts } = await read(
      "a.obj",
      "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\ns 1\nf 1 2 3\ns 2\nf 1 4 2\n",
    );
    expect([...parts[0].mesh.hard!].filter((mark) => mark)).toHaveLength(2);
  });

  it("says which line is wrong", async () => {
    expect(await refusal("a.obj", "v 0 0 0\nv 1 0\n")).toBe(
      "a.obj: line 2: 3 numbers expected, 2 found",
    );
    expect(await refusal("a.obj", "v 0 0 0\nf 1 2 3\n")).toMatch(
      /line 2: vertex 2 is out of range/,
    );
    expect(await refusal("a.obj", "v 0 0 0\nf 0 0 0\n")).toMatch(/line 2/);
    expect(await refusal("a.obj", "hello\n")).toMatch(/no vertex/);
    expect(await refusal("a.obj", "v 0 0 0\n")).toMatch(/no faces/);
  });
});

describe("PLY", () => {
  const header = (format: string, vertices: number, faces: number) =>
    `ply\nformat ${format} 1.0\nelement vertex ${vertices}\nproperty float x\nproperty float y\nproperty float z\nelement face ${faces}\nproperty list uchar int vertex_indices\nend_header\n`;

  it("reads ascii and both binary orders alike", async () => {
    const ascii =
      header("ascii", 4, 1) + "0 0 0\n1 0 0\n1 1 0\n0 1 0\n4 0 1 2 3\n";
    expect(triangleCount((await read("a.ply", ascii)).parts[0].mesh)).toBe(2);
    for (const little of [true, false]) {
      const head = text(
        header(little ? "binary_little_endian" : "binary_big_endian", 4, 1),
      );
      const bytes = new Uint8Array(head.length + 48 + 17);
      bytes.set(head);
      const view = new DataView(bytes.buffer);
      [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0].forEach((x, i) =>
        view.setFloat32(head.length + 4 * i, x, little),
      );
      bytes[head.length + 48] = 4;
      [0, 1, 2, 3].forEach((v, i) =>
        view.setInt32(head.length + 49 + 4 * i, v, little),
      );
      const { parts } = await read("a.ply", bytes);
      expect(parts[0].mesh.positions[3]).toBe(1);
      expect(parts[0].mesh.faceStarts.length).toBe(2);
    }
  });

  it("refuses a million vertices without data, at once", async () => {
    expect(
      await refusal(
        "a.ply",
        header("binary_little_endian", 1_000_000, 1_000_000),
      ),
    ).toMatch(/promises at least \d+ bytes/);
    expect(await refusal("a.ply", header("ascii", 1_000_000, 2))).toMatch(
      /too short/,
    );
    expect(await refusal("a.ply", header("ascii", 1e15, 2))).toMatch(
      /no possible number/,
    );
  }, 20_000);

  it("names the row that is cut off or out of range", async () => {
    expect(
      await refusal(
        "a.ply",
        header("ascii", 3, 1) + "0 0 0\n1 0 0\n0 1 0\n3 0 1 9\n",
      ),
    ).toMatch(/face 1 of 1 names vertex 9/);
    expect(
      await refusal(
        "a.ply",
        header("ascii", 3, 1) + "0 0 0\n1 0 0\n0 1 0\n3 0 1\n",
      ),
    ).toMatch(/ends at face 1 of 1/);
    expect(await refusal("a.ply", "ply\nformat ascii 1.0\n")).toMatch(
      /header has no end/,
    );
  });
});

describe("STL", () => {
  it("reads ascii solids as parts", async () => {
    const solid = (name: string) =>
      `solid ${name}\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid\n`;
    const { parts } = await read("a.stl", solid("lid") + solid("body"));
    expect(parts.map((part) => part.name)).toEqual(["lid", "body"]);
  });

  it("says how many triangles are missing", async () => {
    const bytes = new Uint8Array(84 + 50);
    new DataView(bytes.buffer).setUint32(80, 900, true);
    expect(await refusal("a.stl", bytes)).toBe(
      "a.stl: the header promises 900 triangles, the file holds 1",
    );
  });
});

describe("glTF", () => {
  const minimal = (extra: object) =>
    JSON.stringify({ asset: { version: "2.0" }, ...extra });

  it("reads only what was given with it", async () => {
    for (const uri of [
      "../secret.bin",
      "/etc/passwd",
      "http://example.invalid/a.bin",
      "..\\x.bin",
      "file:///etc/passwd",
      "%2e%2e/x.bin",
    ])
      expect(
        await refusal("a.gltf", minimal({ buffers: [{ uri, byteLength: 4 }] })),
      ).toMatch(/points outside the files given/);
    expect(
      await refusal(
        "a.gltf",
        minimal({ buffers: [{ uri: "a.bin", byteLength: 4 }] }),
      ),
    ).toMatch(/"a.bin" is missing/);
  });

  it("says so where it needs an extension or is damaged", async () => {
    expect(
      await refusal(
        "a.gltf",
        minimal({ extensionsRequired: ["KHR_points_of_light"] }),
      ),
    ).toMatch(/KHR_points_of_light/);
    expect(await refusal("a.gltf", "{")).toMatch(
      /neither a GLB container nor JSON/,
    );
    expect(await refusal("a.gltf", "[]")).toMatch(/asset/);
    expect(await refusal("a.gltf", minimal({}))).toMatch(/no mesh/);
    const glb = await writeMeshFile("a.glb", [{ name: "a", mesh: cube() }]);
    expect(await refusal("a.glb", glb.slice(0, glb.length - 40))).toMatch(
      /promises/,
    );
  });

  it("refuses indices and accessors that point past their data", async () => {
    const bytes = await writeMeshFile("a.gltf", [{ name: "a", mesh: cube() }]);
    const json = JSON.parse(new TextDecoder().decode(bytes)) as {
      accessors: { count: number }[];
      meshes: object[];
    };
    const large = structuredClone(json);
    large.accessors[0].count = 100_000_000;
    expect(await refusal("a.gltf", JSON.stringify(large))).toMatch(
      /^a\.gltf: /,
    );
  });

  it("turns mirrored nodes the right way out", async () => {
    const bytes = await writeMeshFile("a.gltf", [{ name: "a", mesh: cube() }]);
    const json = JSON.parse(new TextDecoder().decode(bytes)) as {
      nodes: { scale?: number[] }[];
    };
    json.nodes[0].scale = [-1, 1, 1];
    const { parts } = await read("a.gltf", JSON.stringify(json));
    const { mesh } = parts[0];
    const normals = cornerNormals({ ...mesh, normals: null });
    for (let c = 0; c < mesh.corners.length; c++) {
      const dot = [0, 1, 2].reduce(
        (sum, k) =>
          sum + normals[3 * c + k] * mesh.positions[3 * mesh.corners[c] + k],
        0,
      );
      expect(dot).toBeGreaterThan(0);
    }
  });
});

describe("repairs and refusals", () => {
  it("leaves out what can't be mended and says how much", async () => {
    const { parts, notes } = await read(
      "a.obj",
      "v 0 0 0\nv 1 0 0\nv 0 1 0\nv nan 0 0\nv 0 0 inf\nf 1 2 3\nf 1 2 4\nf 1 2\nf 1\nf 1 1 2 3\nf 5 1 2\n",
    );
    expect(triangleCount(parts[0].mesh)).toBe(2);
    expect(notes.join("; ")).toMatch(
      /2 faces with coordinates that are no numbers.*2 faces with fewer than three corners.*1 faces with repeated corners/,
    );
  });

  it("refuses empty files, other files, and files of which nothing is left", async () => {
    expect(await refusal("a.obj", "")).toBe("a.obj: the file is empty");
    expect(await refusal("a.txt", "hello")).toMatch(/not a mesh file/);
    expect(await refusal("a.obj", "v 0 0 0\nv 1 0 0\nf 1 2\n")).toMatch(
      /nothing usable is left/,
    );
    await expect(readMeshFiles([])).rejects.toThrow(/not a mesh file/);
  });

  it("keeps zero-area faces for the survey to find", async () => {
    const { parts } = await read(
      "a.obj",
      "v 0 0 0\nv 1 0 0\nv 2 0 0\nv 0 1 0\nf 1 2 3\nf 1 2 4\n",
    );
    expect(triangleCount(parts[0].mesh)).toBe(2);
  });

  it("makes names safe and distinct", async () => {
    const { parts } = await read(
      "a.obj",
      'v 0 0 0\nv 1 0 0\nv 0 1 0\no ../../etc/passwd\nf 1 2 3\no <img src=x>"\nf 1 2 3\n',
    );
    for (const { name } of parts) expect(name).not.toMatch(/[/\\<>"]|^\./);
    expect(distinctNames(["a", "a", "b", "a"])).toEqual([
      "a",
      "a.2",
      "b",
      "a.3",
    ]);
    expect(safeName("\u0000..", "part")).toBe("part");
    expect(safeName("x".repeat(500), "part")).toHaveLength(80);
    expect(endingOf("dir.x/a.GLB")).toBe("glb");
    expect(isMeshFile("a.png")).toBe(false);
  });

  it("never throws anything but a clear error, whatever the bytes", async () => {
    const seeds = await Promise.all(
      ["obj", "ply", "stl", "glb", "gltf"].map(async (ending) => ({
        ending,
        bytes: await writeMeshFile(`a.${ending}`, [
          { name: "a", mesh: joined(cube()) },
        ]),
      })),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...seeds),
        fc.array(fc.tuple(fc.nat(), fc.nat(255)), { maxLength: 12 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        async ({ ending, bytes }, changes, cut) => {
          const damaged = bytes.slice(
            0,
            Math.ceil(bytes.length * (cut < 0.5 ? 1 : cut)),
          );
          for (const [at, value] of changes)
            damaged[at % damaged.length] = value;
          try {
            const { parts } = await read(`a.${ending}`, damaged);
            for (const { mesh } of parts)
              for (const v of mesh.corners)
                expect(v).toBeLessThan(vertexCount(mesh));
          } catch (error) {
            expect(error).toBeInstanceOf(ArnikError);
            expect((error as Error).message).toContain(`a.${ending}`);
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  it("never throws anything but a clear error on words at random", async () => {
    const word = fc.constantFrom(
      "v",
      "vt",
      "vn",
      "f",
      "o",
      "g",
      "s",
      "usemtl",
      "ply",
      "element",
      "vertex",
      "face",
      "solid",
      "1",
      "-1",
      "0",
      "1e9",
      "nan",
      "1/2/3",
      "//",
      "\n",
      "\n",
      "\\\n",
      "property",
      "list",
    );
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom("obj", "ply", "stl", "gltf"),
        fc.array(word, { maxLength: 60 }),
        async (ending, words) => {
          const error = await read(`a.${ending}`, words.join(" ")).then(
            () => null,
            (reason: unknown) => reason,
          );
          if (error) expect(error).toBeInstanceOf(ArnikError);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe("PNG", () => {
  it("keeps 8 and 16 bits, and turns green over", () => {
    for (const depth of [8, 16] as const) {
      const pixels =
        depth === 16
          ? Uint16Array.from([1, 60000, 3])
          : Uint8Array.from([1, 250, 3]);
      const map = {
        kind: "normal" as const,
        width: 1,
        height: 1,
        channels: 3 as const,
        depth,
        pixels,
      };
      expect([...decode(writePng(map)).data]).toEqual([...pixels]);
      expect(flipGreen(map).pixels[1]).toBe(
        (depth === 16 ? 65535 : 255) - pixels[1],
      );
    }
  });
});
