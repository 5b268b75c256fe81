import { describe, expect, it } from "vitest";
import { cube, moved, sphere, tubeMesh } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import {
  isMismatch,
  likeliest,
  matchNames,
  mismatchOf,
  stripMarkers,
} from "./methods/match";
import { writeMeshFile } from "../formats/index";
import { hardAbove } from "../mesh/hard-angle";
import type { Mesh } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import { translation } from "../mesh/transform";
import { run, text } from "../../tests/intake-run";

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
