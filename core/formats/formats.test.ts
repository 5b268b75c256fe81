import { decode } from "fast-png";
import { describe, expect, it } from "vitest";
import { cube, sphere, tubeMesh } from "../../tests/shapes";
import { triangleCount, vertexCount } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import { seamsFromUvs } from "../mesh/seams-from-uvs";
import { validateGlb } from "../ship/methods/validate";
import { writeGlb } from "./write-gltf";
import { writeMeshFile } from "./index";
import { flipGreen, writePng } from "./png";
import { read, refusal } from "../../tests/format-run";

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
