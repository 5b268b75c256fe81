import { tilesUsed } from "../mesh/tiles";
import { describe, expect, it } from "vitest";
import { encode } from "fast-png";
import { cube, moved, sphere, tubeMesh } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import type { BakedMap } from "../base/pictures";
import type { Hull } from "../mesh/hull";
import { createAsset, createPart } from "../asset/asset";
import { texelDensityOf, densitySeenFrom, sheetFor } from "../asset/density";
import {
  isMismatch,
  likeliest,
  matchNames,
  mismatchOf,
  stripMarkers,
} from "./methods/match";
import { previewOf } from "../decimate/kept-record";
import { pictureSize } from "../formats/picture";
import { writeMeshFile } from "../formats/index";
import { errorCurves } from "../decimate/collapse-record";
import { hardAbove } from "../mesh/hard-angle";
import type { Mesh } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import { triangleCount, vertexCount } from "../mesh/mesh";
import { triangulate } from "../mesh/triangulate";
import { plainContext } from "../base/context";
import { KERNELS, findOperation } from "../operations";
import { runOperation } from "../route";
import { shippedFiles } from "../../tests/shipped";
import { boundsOf } from "../space/bounds";
import { translation } from "../mesh/transform";

const context = plainContext(KERNELS);
const run = (
  id: string,
  asset: Asset,
  options: object = {},
  more: object = {},
) =>
  runOperation(findOperation(`intake/${id}`), asset, options, {
    ...context,
    ...more,
  });
const text = (lines: string[]) => new TextEncoder().encode(lines.join("\n"));

describe("name patterns", () => {
  it.each([
    ["lamp_source", "*_source", "lamp"],
    ["HP-lamp", "hp-*", "lamp"],
    ["lamp_SOURCE", "_source", "lamp"],
    ["lamp", "*_source", null],
    ["_source", "*_source", null],
    ["lamp", "*", null],
    ["a_lamp_b", "a_*_b", "lamp"],
  ])("%s by %s leaves %s", (name, pattern, left) =>
    expect(stripMarkers(name, pattern)).toBe(left),
  );

  it("pair what is left, once each", () => {
    const found = matchNames(
      ["lid_source", "body_source", "stray_source"],
      ["lid_game", "BODY_game", "lid_game2", "knob_game"],
      { source: "*_source", game: "*_game" },
    );
    expect(found.pairs.map(({ source, game }) => [source, game])).toEqual([
      ["lid_source", "lid_game"],
      ["body_source", "BODY_game"],
    ]);
    expect(found.sources).toEqual(["stray_source"]);
    expect(found.games).toEqual(["lid_game2", "knob_game"]);
  });
});

describe("source and game meshes", () => {
  const file = async (meshes: Record<string, Mesh>) => [
    {
      name: "set.obj",
      bytes: await writeMeshFile(
        "set.obj",
        Object.entries(meshes).map(([name, mesh]) => ({ name, mesh })),
      ),
    },
  ];

  it("come in together, told apart and matched by name", async () => {
    const { asset, report } = await run(
      "bring-in",
      createAsset("set"),
      { role: "both" },
      {
        files: await file({
          lid_source: sphere(20, 20),
          lid_game: sphere(6, 6),
          pot_source: moved(sphere(20, 20), 5, 0, 0),
          cup_game: moved(sphere(6, 6), 5, 0, 0),
        }),
      },
    );
    expect(
      asset.parts.map(({ name, source, game }) => [name, !!source, !!game]),
    ).toEqual([
      ["lid", true, true],
      ["pot", true, false],
      ["cup", false, true],
    ]);
    expect(report).toMatchObject({
      unmatchedSources: ["pot"],
      unmatchedGames: ["cup"],
    });
    const [suggestion] = report.likeliest as { sources: { name: string }[] }[];
    expect(suggestion.sources[0].name).toBe("pot");
    const joined = await run("join-pair", asset, {
      source: "pot",
      game: "cup",
    });
    expect(joined.asset.parts.map(({ name }) => name)).toEqual(["lid", "pot"]);
    const parted = await run("part-pair", joined.asset, { parts: ["pot"] });
    expect(parted.asset.parts.length).toBe(3);
  });

  it("match later by a pattern of one's own", async () => {
    const asset = createAsset("set", [
      createPart("HD lamp", 0, { source: sphere() }),
      createPart("LD lamp", 1, { game: sphere(6, 6) }),
    ]);
    const { asset: matched, report } = await run("match", asset, {
      sourcePattern: "HD *",
      gamePattern: "LD *",
    });
    expect(report.paired).toBe(1);
    expect(matched.parts.map(({ name }) => name)).toEqual(["lamp"]);
  });

  it("keep their repeats when matching renames them", async () => {
    const asset = createAsset("set", [
      createPart("lamp_source", 0, { source: sphere() }),
      createPart("lamp_game", 1, { game: sphere(6, 6) }),
      createPart("copy", 2, {
        source: moved(sphere(), 5, 0, 0),
        repeat: { of: "lamp_source", matrix: translation(5, 0, 0) },
      }),
    ]);
    const { asset: matched } = await run("match", asset);
    const copy = matched.parts.find(({ name }) => name === "copy")!;
    expect(copy.repeat?.of).toBe("lamp");
    expect(copy.game).not.toBeNull();
  });

  it("that do not coincide are flagged, a coarser mesh is not", () => {
    expect(isMismatch(mismatchOf(sphere(40, 40), sphere(6, 8)))).toBe(false);
    expect(isMismatch(mismatchOf(sphere(), moved(sphere(), 0.4, 0, 0)))).toBe(
      true,
    );
    const twice = {
      ...sphere(),
      positions: sphere().positions.map((x) => 2 * x),
    };
    expect(isMismatch(mismatchOf(sphere(), twice))).toBe(true);
    const [{ sources }] = likeliest(
      [{ name: "g", mesh: sphere(6, 6) }],
      [
        { name: "far", mesh: moved(sphere(), 9, 0, 0) },
        { name: "near", mesh: sphere() },
      ],
    );
    expect(sources.map(({ name }) => name)).toEqual(["near", "far"]);
  });

  it("refuse to be joined where that makes no sense", async () => {
    const asset = createAsset("set", [
      createPart("a", 0, { source: cube(), game: cube() }),
      createPart("b", 1, { game: cube() }),
    ]);
    await expect(
      run("join-pair", asset, { source: "a", game: "b" }),
    ).rejects.toThrow(/already/);
    await expect(
      run("join-pair", asset, { source: "b", game: "a" }),
    ).rejects.toThrow(/source mesh/);
  });
});

describe("what came in stays what it is", () => {
  const obj = [
    "v 0 0 0",
    "v 1 0 0",
    "v 1 1 0",
    "v 0 1 0",
    "v 1 0 0",
    "v 1 1 0",
    "v 2 0 0",
    "v 9 9 9",
  ];
  const faces = ["f 1 2 3 4", "f 5 7 6", "f 1 1 2"];
  const bring = (options: object) =>
    run("bring-in", createAsset("a"), options, {
      files: [{ name: "a.obj", bytes: text([...obj, ...faces]) }],
    });

  it("coincident and loose vertices are for Survey to find", async () => {
    const { asset } = await bring({});
    expect(vertexCount(asset.parts[0].source!)).toBe(8);
    const { report } = await runOperation(
      findOperation("survey/count"),
      asset,
      {},
      context,
    );
    expect(report).toMatchObject({
      duplicateVertices: 2,
      looseVertices: 1,
      degenerateFaces: 1,
      // Two doubles and a loose vertex are left to mend; the broken face was settled while reading.
      defects: 3,
    });
  });

  it("unless they are to be joined at once", async () => {
    const { asset } = await bring({ join: true });
    expect(vertexCount(asset.parts[0].source!)).toBe(5);
  });

  it("smoothing groups are hard edges and are written back", async () => {
    const given = text([
      ...obj.slice(0, 4),
      "v 2 0 0",
      "v 2 1 0",
      "v 3 0 0",
      "v 3 1 0",
      "s 1",
      "f 1 2 3 4",
      "f 2 5 6 3",
      "s 2",
      "f 5 7 8 6",
    ]);
    const { asset } = await run(
      "bring-in",
      createAsset("a"),
      {},
      {
        files: [{ name: "a.obj", bytes: given }],
      },
    );
    const hard = asset.parts[0].source!.hard!;
    expect(hard.reduce((sum, mark) => sum + mark, 0)).toBe(2);
    const written = await writeMeshFile("b.obj", [
      { name: "b", mesh: asset.parts[0].source! },
    ]);
    const again = await run(
      "bring-in",
      createAsset("b"),
      {},
      {
        files: [{ name: "b.obj", bytes: written }],
      },
    );
    expect(again.asset.parts[0].source!.hard).toEqual(hard);
  });

  it("what lets light through is known from the material", async () => {
    const { asset } = await run(
      "bring-in",
      createAsset("a"),
      {},
      {
        files: [
          { name: "a.obj", bytes: text([...obj, "usemtl pane", "f 1 2 3 4"]) },
          { name: "a.mtl", bytes: text(["newmtl pane", "Kd 1 1 1", "d 0.3"]) },
        ],
      },
    );
    expect(asset.looks).toMatchObject([{ material: "pane", opacity: 0.3 }]);
    // It leaves as it came.
    const shipped = {
      ...asset,
      parts: asset.parts.map((part) => ({ ...part, game: part.source })),
    };
    const { files } = await shippedFiles(shipped, {
      obj: true,
      hullsAs: "none",
    });
    const named = (end: string) =>
      files.find(({ name }) => name.endsWith(end))!;
    for (const ending of [[".glb"], [".obj", ".mtl"]]) {
      const back = await run(
        "bring-in",
        createAsset("back"),
        {},
        { files: ending.map(named) },
      );
      expect(back.asset.looks).toMatchObject([{ material: "pane" }]);
      expect(back.asset.looks[0].opacity).toBeCloseTo(0.3, 5);
    }
  });
});

describe("groups in a file", () => {
  const groupsOf = async (name: string, bytes: Uint8Array) =>
    (
      await run(
        "bring-in",
        createAsset("groups"),
        {},
        { files: [{ name, bytes }] },
      )
    ).asset.parts.map((part) => [part.name, part.group]);
  const square = (z: number) =>
    [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ].map(([x, y]) => `v ${x} ${y} ${z}`);

  it("under an object of OBJ are kept where they lie apart, and are one part where a surface goes on", async () => {
    const apart = [
      "o cart",
      ...square(0),
      ...square(2),
      "g bed",
      "f 1 2 3 4",
      "g wheel",
      "f 5 6 7 8",
      "o lamp",
      ...square(5),
      "g glass",
      "f 9 10 11 12",
    ];
    expect(await groupsOf("cart.obj", text(apart))).toEqual([
      ["bed", "cart"],
      ["wheel", "cart"],
      ["lamp", ""],
    ]);
    const [, ...joined] = apart;
    joined[joined.indexOf("f 5 6 7 8")] = "f 3 6 7 8";
    expect(await groupsOf("cart.obj", text(["o cart", ...joined]))).toEqual([
      ["cart", ""],
      ["lamp", ""],
    ]);
    // The same place under another number is the same surface.
    const doubled = apart.map((line) => line.replace(/ 2$/, " 0"));
    expect((await groupsOf("cart.obj", text(doubled)))[0]).toEqual([
      "cart",
      "",
    ]);
  });

  it("are nodes above nodes of glTF, but not one that holds them all", async () => {
    const json = JSON.parse(
      new TextDecoder().decode(
        await writeMeshFile("a.gltf", [
          { name: "bed", mesh: cube() },
          { name: "wheel", mesh: cube() },
          { name: "lamp", mesh: cube() },
        ]),
      ),
    ) as {
      nodes: { name?: string; mesh?: number; children?: number[] }[];
      scenes: { nodes: number[] }[];
    };
    const { nodes } = json;
    const cart = nodes.push({ name: "cart", children: [0, 1] }) - 1;
    const bare = nodes.push({ children: [cart, 2] }) - 1;
    json.scenes[0].nodes = [nodes.push({ name: "all", children: [bare] }) - 1];
    expect(await groupsOf("a.gltf", text([JSON.stringify(json)]))).toEqual([
      ["bed", "cart"],
      ["wheel", "cart"],
      ["lamp", "all"],
    ]);
    nodes[bare].children = [cart];
    expect(await groupsOf("a.gltf", text([JSON.stringify(json)]))).toEqual([
      ["bed", ""],
      ["wheel", ""],
    ]);
  });
});

describe("what was shipped comes back", () => {
  const triangles = (mesh: Mesh) =>
    triangulate(mesh).vertices as Uint32Array<ArrayBuffer>;
  const ball = sphere(8, 10, 1);
  const shell: Hull = {
    name: "ball_hull_1",
    kind: "sphere",
    positions: ball.positions,
    triangles: triangles(ball),
  };
  const shipped = createAsset("yard", [
    createPart("ball", 0, { game: ball, hulls: [shell] }),
    createPart("cube", 1, { game: moved(cube(), 3, 0, 0) }),
  ]);
  const back = (files: { name: string; bytes: Uint8Array }[]) =>
    run("bring-in", createAsset("back"), { role: "game" }, { files });

  it.each(["glb", "obj"])("hulls as hulls (%s)", async (ending) => {
    const { files } = await shippedFiles(shipped, {
      obj: true,
      hullsAs: "name",
    });
    const { asset, report } = await back(
      files.filter(({ name }) => name === `yard.${ending}`),
    );
    expect(asset.parts.map(({ name }) => name)).toEqual(["ball", "cube"]);
    expect(report.parts).toBe(2);
    const [{ hulls }] = asset.parts;
    expect(hulls).toHaveLength(1);
    expect(hulls[0].name).toBe("ball_hull_1");
    // Only GLB says which kind they are.
    expect(hulls[0].kind).toBe(ending === "glb" ? "sphere" : "convex");
    expect(hulls[0].triangles).toHaveLength(triangles(ball).length);
    expect(boundsOf(hulls[0].positions)).toEqual(boundsOf(ball.positions));
  });

  it("hulls of quads as triangles", async () => {
    const bytes = await writeMeshFile("box.obj", [
      { name: "box", mesh: cube() },
      { name: "box_hull_1", mesh: { ...cube(), materials: ["hull"] } },
    ]);
    const { asset } = await back([{ name: "box.obj", bytes }]);
    const [{ hulls }] = asset.parts;
    expect(hulls[0].triangles).toHaveLength(3 * 12);
  });

  it("levels as levels, nearest first, where their first one came along", async () => {
    const level = async (name: string, mesh: Mesh) => ({
      name,
      bytes: await writeMeshFile(name, [{ name: "ball", mesh }]),
    });
    const files = [
      await level("yard_lod2.glb", sphere(4, 5, 1)),
      await level("yard.glb", ball),
      await level("yard_lod1.glb", sphere(6, 7, 1)),
    ];
    const { asset } = await back(files);
    expect(asset.parts.map(({ name }) => name)).toEqual(["ball"]);
    expect(asset.parts[0].levels.map(triangleCount)).toEqual([
      triangleCount(sphere(6, 7, 1)),
      triangleCount(sphere(4, 5, 1)),
    ]);
    const alone = await back(files.slice(0, 1));
    expect(alone.asset.parts[0].levels).toEqual([]);
    expect(alone.asset.parts[0].game).not.toBeNull();
  });

  it("hulls of a part that is not there are parts themselves, whatever a file says of them", async () => {
    const lonely = await writeMeshFile("shell.obj", [
      { name: "gone_hull_1", mesh: { ...cube(), materials: ["hull"] } },
    ]);
    const { asset } = await back([{ name: "shell.obj", bytes: lonely }]);
    expect(asset.parts.map(({ name }) => name)).toEqual(["gone_hull_1"]);
    const marked = JSON.parse(
      new TextDecoder().decode(
        await writeMeshFile("cube.gltf", [{ name: "cube", mesh: cube() }]),
      ),
    ) as { nodes: { extras?: unknown }[] };
    for (const extras of [
      { arnik: { hull: "tower", of: "cube" } },
      { arnik: 7 },
      { arnik: { hull: "box", of: 9 } },
      "arnik",
    ]) {
      marked.nodes[0].extras = extras;
      const read = await back([
        { name: "cube.gltf", bytes: text([JSON.stringify(marked)]) },
      ]);
      expect(read.asset.parts.map(({ name }) => name)).toEqual(["cube"]);
    }
  });
});

describe("scale", () => {
  const asset = createAsset("a", [
    createPart("box", 0, { source: cube(), game: cube() }),
    createPart("copy", 1, {
      source: moved(cube(), 5, 0, 0),
      repeat: { of: "box", matrix: translation(5, 0, 0) },
    }),
  ]);
  const extent = (each: Asset, i: number) =>
    boundsOf(each.parts[i].source!.positions);

  it("follows from a height, copies keeping their places", async () => {
    const { asset: set, report } = await run("scale", asset, { height: 1 });
    expect(report.factor).toBeCloseTo(0.5);
    expect(extent(set, 0).max[1]).toBeCloseTo(0.5, 6);
    expect(extent(set, 1).max[0]).toBeCloseTo(3, 5);
    expect(set.parts[0].game!.positions).toEqual(
      set.parts[0].source!.positions,
    );
  });

  it("takes levels, the unwrap before and the record of the reduction along", async () => {
    const ball = sphere(20, 30, 1, (a, t) => 0.05 * Math.sin(3 * a) * t);
    const source = moved(ball, 2, 3, -1);
    const { asset: reduced } = await runOperation(
      findOperation("reduce/to-budget"),
      createAsset("a", [createPart("p", 0, { source })]),
      { triangles: 200, symmetry: "find" },
      plainContext(),
    );
    const [part] = reduced.parts;
    const before = {
      ...reduced,
      parts: [{ ...part, previousUnwrap: part.game, levels: [part.game!] }],
    };
    const { asset: after } = await run("scale", before, {
      factor: 3,
      turn: "x+",
    });
    const [scaled] = after.parts;
    expect(scaled.previousUnwrap!.positions).toEqual(scaled.game!.positions);
    expect(scaled.levels[0].positions).toEqual(scaled.game!.positions);
    for (const budget of [60, 150]) {
      const then = previewOf(before.record!, budget).get("p")!;
      const now = previewOf(after.record!, budget).get("p")!;
      expect([...now.corners]).toEqual([...then.corners]);
      then.positions.forEach((_, i) => {
        const [x, y, z] = then.positions.slice(i - (i % 3), i - (i % 3) + 3);
        expect(now.positions[i]).toBeCloseTo(3 * [x, -z, y][i % 3], 4);
      });
    }
    const curve = (asset: Asset) =>
      errorCurves(asset.record!.record).all.rms.at(-3)!;
    expect(curve(after) / curve(before)).toBeCloseTo(3, 3);
  });

  it("turns exactly and puts on the ground", async () => {
    const tall = createAsset("a", [
      createPart("p", 0, { source: moved(sphere(), 0, 0, 7) }),
    ]);
    const { asset: turned } = await run("scale", tall, { turn: "x-" });
    expect(extent(turned, 0).max[1]).toBeCloseTo(8, 5);
    const { asset: stood } = await run("scale", turned, { ground: true });
    expect(extent(stood, 0).min[1]).toBeCloseTo(0, 6);
    await expect(
      run("scale", createAsset("none"), { height: 2 }),
    ).rejects.toThrow(/no height/);
  });
});

describe("the brief", () => {
  it("gives texels from where the asset is seen, and the sheet from texels", async () => {
    expect(densitySeenFrom(1, 1000, 90)).toBeCloseTo(500, 6);
    expect(texelDensityOf(1024, 0.6)).toBeCloseTo(1024, 6);
    expect(sheetFor(1000, 0.6)).toBe(1024);
    expect(sheetFor(1e9, 0.6)).toBe(4096);
    const asset = createAsset("a", [createPart("box", 0, { source: cube() })]);
    const { asset: set } = await run("brief", asset, {
      by: "seen",
      seenFrom: 4,
      screen: 1080,
    });
    expect(set.brief.texelsPerMetre).toBe(234);
    expect(set.brief.sheetSize).toBe(sheetFor(234, 24));
  });

  it("takes levels of detail that fall", async () => {
    const asset = createAsset("a");
    const { asset: set } = await run("brief", asset, {
      triangles: 8000,
      levels: "3000, 800",
    });
    expect(set.brief.levels).toEqual([3000, 800]);
    await expect(
      run("brief", asset, { triangles: 8000, levels: "9000" }),
    ).rejects.toThrow(/smaller/);
    await expect(run("brief", asset, { levels: "some" })).rejects.toThrow(
      /smaller/,
    );
  });

  it("fixes a part's triangles or gives it a share, not both", async () => {
    const asset = createAsset("a", [createPart("box", 0, { source: cube() })]);
    const { report } = await run("part-rules", asset, { share: 20 });
    expect(report.summary).toBe("all parts: 20\u2009% of the budget");
    const own = { parts: ["box"], budget: 400, capped: true, locked: true };
    expect((await run("part-rules", asset, own)).report.summary).toBe(
      "box: 400 triangles at most of its own, locked",
    );
    expect(report.fixedTriangles).toBe(1000);
    await expect(
      run("part-rules", asset, { share: 20, budget: 4 }),
    ).rejects.toThrow(/not both/);
  });
});

describe("reference pictures", () => {
  const png = encode({
    width: 6,
    height: 4,
    data: new Uint8Array(72),
    channels: 3,
    depth: 8,
  });
  const jpeg = new Uint8Array([
    0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0xff, 0xc0, 0, 11, 8, 0, 50, 0, 70, 1,
    1, 0x11, 0,
  ]);

  it("say their size", () => {
    expect(pictureSize("a", png)).toEqual({ kind: "png", width: 6, height: 4 });
    expect(pictureSize("a", jpeg)).toEqual({
      kind: "jpeg",
      width: 70,
      height: 50,
    });
    expect(() => pictureSize("a.gif", text(["GIF89a"]))).toThrow(/neither/);
    expect(() => pictureSize("a.jpg", jpeg.slice(0, 9))).toThrow(/neither/);
  });

  it("are kept with the asset, placed and taken away", async () => {
    const asset = createAsset("a", [createPart("box", 0, { source: cube() })]);
    const { asset: with1 } = await run(
      "add-reference",
      asset,
      { plane: "side" },
      {
        files: [{ name: "view.png", bytes: png }],
      },
    );
    expect(with1.references).toMatchObject([
      { name: "view.png", plane: "side", size: 2, at: [-1, -1, 0] },
    ]);
    const { asset: faded } = await run("edit-reference", with1, {
      picture: "view.png",
      opacity: 0.2,
    });
    expect(faded.references[0].opacity).toBe(0.2);
    const { asset: none } = await run("edit-reference", faded, {
      picture: "view.png",
      remove: true,
    });
    expect(none.references).toEqual([]);
    await expect(
      run("edit-reference", none, { picture: "view.png" }),
    ).rejects.toThrow(/no picture/);
    await expect(run("add-reference", asset)).rejects.toThrow(
      /no picture to add/,
    );
  });
});

describe("a part of another asset", () => {
  it("comes over with its game mesh, UVs, looks and texels", async () => {
    const uvs = Float32Array.from(
      { length: 48 },
      (_, i) => 0.1 + 0.3 * [0, 0, 1, 0, 1, 1, 0, 1][i % 8],
    );
    const game = { ...cube(), uvs, materials: ["brass"] };
    const other: Asset = {
      ...createAsset("other", [createPart("box", 0, { source: cube(), game })]),
      looks: [
        { material: "brass", colour: "#aa8844", roughness: 0.4, metalness: 1 },
      ],
      maps: [
        {
          kind: "ao",
          width: 32,
          height: 32,
          channels: 1,
          depth: 8,
          pixels: new Uint8Array(1024).fill(77),
        },
      ],
    };
    const { asset, report } = await run(
      "bring-over",
      createAsset("mine", [createPart("box", 0, { source: cube() })]),
      { asset: 7, part: "box" },
      { assetById: async () => other },
    );
    expect(asset.parts.map(({ name }) => name)).toEqual(["box", "box.2"]);
    expect(asset.looks).toEqual(other.looks);
    expect(Number(report.texels)).toBeGreaterThan(80);
    const [map] = asset.maps;
    expect(map.pixels[32 * 25 + 6]).toBe(77);
    expect(map.pixels[0]).toBe(255);
    await expect(
      run("bring-over", asset, { asset: 7, part: "box" }),
    ).rejects.toThrow(/no store/);
  });

  it("gets a tile of its own where its islands lie on those of others", async () => {
    const square = (x: number) =>
      Float32Array.from({ length: 48 }, (_, i) =>
        i % 2
          ? 0.1 + 0.3 * [0, 0, 1, 1][(i >> 1) % 4]
          : x + 0.3 * [0, 1, 1, 0][(i >> 1) % 4],
      );
    const plain = (value: number): BakedMap => ({
      ...{ width: 32, height: 32, channels: 1, depth: 8 },
      kind: "ao",
      pixels: new Uint8Array(1024).fill(value),
    });
    const other = (x: number): Asset => {
      const game = { ...cube(), uvs: square(x) };
      const part = createPart("cap", 0, { game });
      return {
        ...createAsset("other", [{ ...part, levels: [game] }]),
        maps: [plain(77)],
      };
    };
    const mine: Asset = {
      ...createAsset("mine", [
        createPart("box", 0, { game: { ...cube(), uvs: square(0.1) } }),
      ]),
      maps: [plain(9)],
    };
    const bring = (from: Asset) =>
      run(
        "bring-over",
        mine,
        { asset: 7, part: "cap" },
        { assetById: async () => from },
      );
    const beside = await bring(other(0.6));
    expect(beside.report).toMatchObject({ tiles: [] });
    expect(beside.asset.parts[1].game!.uvs).toEqual(square(0.6));
    const [map] = beside.asset.maps;
    expect(beside.asset.maps).toHaveLength(1);
    const texel = (x: number) => map.pixels[32 * 24 + Math.floor(32 * x)];
    expect([texel(0.25), texel(0.75)]).toEqual([9, 77]);
    const upon = await bring(other(0.2));
    expect(upon.report).toMatchObject({ tiles: [1002] });
    expect(String(upon.report.summary)).toMatch(/on tile 1002 now/);
    const { game, levels } = upon.asset.parts[1];
    expect(tilesUsed([game!])).toEqual([1]);
    expect(levels[0].uvs).toEqual(game!.uvs);
    expect(upon.asset.maps[0].pixels).toEqual(mine.maps[0].pixels);
    expect(upon.asset.maps[1]).toMatchObject({ kind: "ao", tile: 1 });
    expect(upon.asset.maps[1].pixels[32 * 24 + 12]).toBe(77);
    expect(upon.asset.maps[1].pixels[0]).toBe(255);
  });
});

it("knows the hard edges of a mesh by the normals that it came with", async () => {
  const hard = hardAbove(cube(), 30).hard;
  const crate = { ...cube(), hard };
  const box = { ...crate, normals: cornerNormals(crate) };
  const tube = tubeMesh(12, 4);
  // Every third line along the tube, on both of its sides.
  const lines = Uint8Array.from(tube.corners, (_, c) => {
    const [quad, k] = [Math.floor(c / 4) % 12, c % 4];
    return (k === 1 && quad % 3 === 0) || (k === 3 && quad % 3 === 1) ? 1 : 0;
  });
  const marked = { ...tube, hard: lines };
  const pipe = { ...marked, normals: cornerNormals(marked) };
  const ball = { ...sphere(8, 12), normals: cornerNormals(sphere(8, 12)) };
  const edges = new Uint8Array(ball.corners.length).fill(1);
  const rock = { ...ball, normals: cornerNormals({ ...ball, hard: edges }) };
  for (const ending of ["obj", "glb"]) {
    const bytes = await writeMeshFile(`a.${ending}`, [
      { name: "pipe", mesh: pipe },
      { name: "ball", mesh: ball },
      { name: "box", mesh: box },
      { name: "rock", mesh: rock },
    ]);
    const { asset } = await runOperation(
      findOperation("intake/bring-in"),
      createAsset("set"),
      { role: "game" },
      { ...plainContext(), files: [{ name: `a.${ending}`, bytes }] },
    );
    const hardOf = (name: string) =>
      asset.parts.find((part) => part.name === name)!.game!.hard;
    const counted = (name: string) =>
      hardOf(name)?.reduce((sum, mark) => sum + mark, 0);
    expect(counted("pipe")).toBe(2 * 4 * 4);
    expect(hardOf("ball")).toBe(null);
    // Of faces that are all shaded flat, those edges that turn far.
    expect(counted("box")).toBe(2 * 12);
    expect(hardOf("rock")).toBe(null);
  }
});
