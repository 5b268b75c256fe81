import { describe, expect, it } from "vitest";
import { cube } from "../../tests/shapes";
import { triangleCount } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import { readMeshFiles, writeMeshFile } from "./index";
import { text, read, refusal } from "../../tests/format-run";

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
  });

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
