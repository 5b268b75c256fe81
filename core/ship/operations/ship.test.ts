import { run, one } from "../../../tests/one-part";
import { strFromU8, unzipSync } from "fflate";
import { describe, expect, it } from "vitest";
import { WebIO } from "@gltf-transform/core";
import { decode } from "fast-png";
import { cube, moved, sheetMesh, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { PROFILES } from "../../asset/profile";
import { keepFaces } from "../../mesh/change-faces";
import { readMeshFiles } from "../../formats/index";
import type { BakedMap } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { orientFor } from "../methods/orient-for";
import { shippedFiles } from "../../../tests/shipped";
import { boundsOf } from "../../space/bounds";

describe("Ship", () => {
  it("packs a checked GLB, the maps, an OBJ in the profile's axes and a report", async () => {
    let asset: Asset = { ...one(sphere(30, 40), "source"), name: "Ball" };
    asset = {
      ...asset,
      brief: {
        ...asset.brief,
        sheetSize: 128,
        padding: 2,
        triangles: 200,
        profile: PROFILES[1].name,
      },
    };
    for (const [id, options] of [
      ["reduce/to-budget", {}],
      ["unwrap/unwrap", {}],
      ["bake/maps", { rays: 4 }],
      ["collide/hulls", { kind: "hull" }],
      ["finish/look", { colour: "#336699" }],
    ] as const)
      asset = (await run(id, asset, options)).asset;
    const { files, report } = await run("ship/archive", asset);
    const entries = unzipSync(files![0].bytes);
    expect(Object.keys(entries).sort()).toEqual([
      "Ball.glb",
      "Ball.mtl",
      "Ball.obj",
      "Ball_ao.png",
      "Ball_normal.png",
      "report.html",
      "report.json",
    ]);
    expect(report.validator).toMatchObject({ errors: 0 });
    const told = JSON.parse(strFromU8(entries["report.json"])) as {
      triangles: number;
      stages: Record<string, unknown>;
    };
    expect(told.triangles).toBeLessThanOrEqual(200);
    // Vertices are held against the brief as an engine counts them.
    const vertices = Number(report.vertices);
    expect(vertices).toBeGreaterThan(100);
    for (const [allowed, failed] of [
      [vertices, undefined],
      [vertices - 1, `Vertices: ${vertices}, ≤ ${vertices - 1}`],
    ] as const) {
      const brief = { ...asset.brief, vertices: allowed };
      const { report } = await shippedFiles({ ...asset, brief });
      if (failed) expect(report.failed).toContain(failed);
      else expect(report.failed).toBeUndefined();
    }
    expect(Object.keys(told.stages)).toContain("bake");
    const glb = await readMeshFiles([
      { name: "Ball.glb", bytes: entries["Ball.glb"] },
    ]);
    expect(glb.parts.map((part) => part.name)).toEqual([
      "thing",
      "thing_hull_1",
    ]);
    const obj = await readMeshFiles([
      { name: "Ball.obj", bytes: entries["Ball.obj"] },
    ]);
    expect(Math.max(...obj.parts[0].mesh.positions)).toBeGreaterThan(50);
    const again = await run("ship/archive", asset);
    expect(
      Buffer.compare(
        Buffer.from(files![0].bytes),
        Buffer.from(again.files![0].bytes),
      ),
    ).toBe(0);
  });

  it("adds other formats on request, by the profile's unit and axis", async () => {
    const given = one(moved(cube(), 0, 2, 0), "game");
    const brief = { ...given.brief, profile: PROFILES[1].name };
    const { files } = await run(
      "ship/archive",
      { ...given, brief },
      { obj: false, gltf: true, ply: true, stl: true, page: false },
    );
    const entries = unzipSync(files![0].bytes);
    const names = Object.keys(entries).filter((name) => name !== "report.json");
    const endings = names.map((name) => name.split(".")[1]).sort();
    expect(endings).toEqual(["glb", "gltf", "ply", "stl"]);
    for (const name of names) {
      const { parts } = await readMeshFiles([{ name, bytes: entries[name] }]);
      const { min, max } = boundsOf(parts[0].mesh.positions);
      // glTF is always y up and in metres; the profile asks for z up and centimetres.
      const plain = /gl/.test(name);
      const up = plain ? 1 : 2;
      const side = boundsOf(given.parts[0].game!.positions);
      expect(max[up]).toBeCloseTo(side.max[1] * (plain ? 1 : 100), 3);
      expect(min[up]).toBeCloseTo(side.min[1] * (plain ? 1 : 100), 3);
      expect(triangleCount(parts[0].mesh)).toBe(12);
    }
  });

  it("says what is missing", async () => {
    await expect(run("ship/archive", one(cube(), "source"))).rejects.toThrow(
      /no game mesh to ship/,
    );
  });

  it("gives maps names of their own, with the number of their tile where there are several sheets", async () => {
    const map = (kind: "normal" | "ao", tile: number): BakedMap => ({
      kind,
      tile,
      width: 4,
      height: 4,
      depth: 8,
      channels: kind === "ao" ? 1 : 3,
      pixels: new Uint8Array(16 * (kind === "ao" ? 1 : 3)).fill(128),
    });
    const names = async (maps: BakedMap[]) => {
      const { files } = await shippedFiles(
        { ...one(onTiles(cube(), 2)), name: "Net weight", maps },
        { obj: false, hullsAs: "none" },
      );
      return files.flatMap(({ name }) => (/png$/.test(name) ? [name] : []));
    };
    expect(await names([map("normal", 0), map("ao", 0)])).toEqual([
      "Net weight_normal.png",
      "Net weight_ao.png",
    ]);
    expect(await names([map("normal", 0), map("normal", 1)])).toEqual([
      "Net weight_normal.1001.png",
      "Net weight_normal.1002.png",
    ]);
  });

  it("keeps tiles in OBJ, and moves them to one sheet with a material each in glTF", async () => {
    const asset = one(onTiles(cube(), 2));
    const { files } = await shippedFiles(asset, { obj: true, hullsAs: "none" });
    const read = async (ending: string) => {
      const file = files.find(({ name }) => name.endsWith(ending))!;
      return (await readMeshFiles([file])).parts[0].mesh;
    };
    const [obj, glb] = [await read(".obj"), await read(".glb")];
    expect(Math.max(...obj.uvs!.filter((_, i) => i % 2 === 0))).toBeGreaterThan(
      1,
    );
    expect(Math.max(...glb.uvs!)).toBeLessThanOrEqual(1);
    expect([...glb.materials].sort()).toEqual(["surface 1001", "surface 1002"]);
    expect(triangleCount(glb)).toBe(triangleCount(obj));
  });

  it("names hulls for their part, and leaves them out where nobody wants them", async () => {
    const made = (await run("collide/hulls", one(cube()), { kind: "box" }))
      .asset;
    for (const hulls of [true, false]) {
      const { files, report } = await shippedFiles(made, {
        obj: false,
        hullsAs: hulls ? "name" : "none",
      });
      const { parts } = await readMeshFiles([files[0]]);
      expect(parts.map(({ name }) => name)).toEqual(
        hulls ? ["thing", "thing_hull_1"] : ["thing"],
      );
      expect(report.hulls).toBe(hulls ? 1 : 0);
    }
  });

  it("turns parts to any profile and back without loss, mirrored nowhere", () => {
    const { game } = one(sphere(8, 10)).parts[0];
    for (const profile of PROFILES) {
      const turned = orientFor({ name: "thing", mesh: game! }, profile).mesh;
      expect(turned.corners).toEqual(game!.corners);
      const scale = profile.unit;
      const p = turned.positions;
      for (let i = 0; i < p.length; i += 3) {
        const [x, y, z] =
          profile.upAxis === "z"
            ? [p[i], p[i + 2], -p[i + 1]]
            : [p[i], p[i + 1], p[i + 2]];
        expect(x * scale).toBeCloseTo(game!.positions[i], 5);
        expect(y * scale).toBeCloseTo(game!.positions[i + 1], 5);
        expect(z * scale).toBeCloseTo(game!.positions[i + 2], 5);
      }
    }
  });
});

/** A mesh with its faces dealt out over tiles beside each other. */
function onTiles(mesh: Mesh, tiles: number): Mesh {
  const uvs = new Float32Array(2 * mesh.corners.length);
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const k = c - mesh.faceStarts[f];
      uvs[2 * c] =
        (f % tiles) + 0.1 + 0.1 * f + (k === 1 || k === 2 ? 0.05 : 0);
      uvs[2 * c + 1] = 0.2 + (k > 1 ? 0.05 : 0);
    }
  return { ...mesh, uvs };
}

describe("a card", () => {
  it("ships with its mask as alpha, seen from both sides, and other materials without", async () => {
    const sheet = sheetMesh(20);
    const holes = Uint8Array.from({ length: faceCount(sheet) }, (_, f) =>
      f % 8 < 4 ? 1 : 0,
    );
    const net = { ...keepFaces(sheet, holes), materials: ["twine"] };
    const ball = { ...moved(sphere(12, 16), 3, 0, 0), materials: ["cork"] };
    let asset = createAsset("Net", [
      createPart("net", 0, { source: net }),
      createPart("float", 1, { source: ball }),
    ]);
    asset = {
      ...asset,
      brief: { ...asset.brief, triangles: 200, sheetSize: 128, padding: 2 },
    };
    for (const [id, options] of [
      ["reduce/stand-in", { parts: ["net"], shape: "card", each: false }],
      ["reduce/to-budget", {}],
      ["unwrap/unwrap", {}],
      ["bake/maps", { rays: 4 }],
    ] as const)
      asset = (await run(id, asset, options)).asset;
    expect(asset.maps.map(({ kind }) => kind)).toEqual([
      "normal",
      "ao",
      "opacity",
      "status",
    ]);
    const mask = asset.maps[2].pixels;
    expect(mask.filter((x) => x > 250).length).toBeGreaterThan(500);
    expect(asset.results.bake!.report.missed).toBeLessThan(0.001);
    const { files } = await shippedFiles(asset, {
      obj: false,
      hullsAs: "none",
    });
    const document = await new WebIO().readBinary(
      files.find(({ name }) => name === "Net.glb")!.bytes,
    );
    const [twine, cork] = ["twine", "cork"].map((name) =>
      document
        .getRoot()
        .listMaterials()
        .find((material) => material.getName() === name)!,
    );
    expect(twine.getDoubleSided()).toBe(true);
    expect(twine.getAlphaMode()).toBe("BLEND");
    const { data, channels } = decode(twine.getBaseColorTexture()!.getImage()!);
    expect(channels).toBe(4);
    expect([...mask].every((x, i) => data[4 * i + 3] === x)).toBe(true);
    expect([0, 1, 2].every((k) => data[k] === 255)).toBe(true);
    expect(cork.getBaseColorTexture()).toBeNull();
    expect(cork.getDoubleSided()).toBe(false);
  });
});
