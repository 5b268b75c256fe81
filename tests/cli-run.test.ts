import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { basename, join } from "node:path";
import { describe, expect, it } from "vitest";
import { createAsset } from "../core/asset/asset";
import { plainContext } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { readMeshFiles, writeMeshFile } from "../core/formats/index";
import { writePng } from "../core/formats/png";
import { tilesUsed } from "../core/mesh/tiles";
import { arnik, arnikJson, folderOfMeshes } from "./call-arnik";
import { cube, moved, sphere } from "./shapes";

const { folder, source, two } = await folderOfMeshes();

describe("run writes what an operation made", () => {
  const out = (name: string) => join(folder, name);
  const read = async (path: string) =>
    (await readMeshFiles([{ name: path, bytes: readFileSync(path) }])).parts;

  it("IDs and their names, and painted density, which the next call reads", async () => {
    const painted = out("painted.glb");
    arnikJson(
      "run",
      "survey/paint-ids",
      two,
      "--by",
      "parts",
      "--out",
      painted,
    );
    const { palette, parts } = await readMeshFiles([
      { name: painted, bytes: readFileSync(painted) },
    ]);
    expect(palette.map(({ name }) => name)).toEqual(["a", "b"]);
    expect(parts.map(({ mesh }) => mesh.ids?.[0])).toEqual([1, 2]);
    const finer = out("finer.glb");
    const faces = ["--faces", "a:0-3", "--mesh", "source"];
    arnikJson("run", "reduce/paint-density", painted, ...faces, "--out", finer);
    const [a, b] = await read(finer);
    expect(Array.from(a.mesh.density!.slice(0, 5), Boolean)).toEqual([
      true,
      true,
      true,
      true,
      false,
    ]);
    expect(b.mesh.density).toBe(null);
    // What was there before goes on with it.
    expect(b.mesh.ids?.every((id) => id === 2)).toBe(true);
  });

  it("which parts repeat others: they are unwrapped once and stay linked", async () => {
    const pegs = out("pegs.obj");
    const peg = cube();
    writeFileSync(
      pegs,
      await writeMeshFile("pegs.obj", [
        { name: "peg", mesh: peg },
        { name: "peg 2", mesh: moved(peg, 3, 0, 0) },
        { name: "hook", mesh: moved(sphere(4, 6, 0.2), 9, 0, 0) },
      ]),
    );
    const linked = out("linked.glb");
    const laid = out("laid-pegs.glb");
    arnikJson("run", "survey/link-repeats", pegs, "--out", linked);
    const lay = (file: string, to: string) =>
      arnikJson("unwrap", file, "--out", to, "--size", "128", "--padding", "2");
    lay(linked, laid);
    lay(pegs, out("alone-pegs.glb"));
    const uvsOf = async (path: string) =>
      (await read(path)).map(({ mesh }) => [...mesh.uvs!]);
    const [first, second] = await uvsOf(laid);
    expect(second).toEqual(first);
    const [one, other] = await uvsOf(out("alone-pegs.glb"));
    expect(other).not.toEqual(one);
    const again = out("again-pegs.glb");
    arnikJson(
      "unwrap",
      laid,
      "--out",
      again,
      "--size",
      "128",
      "--padding",
      "2",
    );
    const [a, b] = await uvsOf(again);
    expect(b).toEqual(a);
    const lost = arnik(
      ...["run", "survey/link-repeats", pegs, "--out", out("linked.obj")],
    );
    expect(lost).toMatchObject({ code: 1 });
    expect(lost.err).toContain("does not hold repeats; write .glb or .gltf");
  });

  it("maps from elsewhere, given with --with, into a folder or a project", () => {
    const picture = out("two_ao.png");
    const size = { width: 8, height: 8, channels: 1, depth: 8 } as const;
    const pixels = new Uint8Array(64).fill(90);
    writeFileSync(picture, writePng({ kind: "ao", ...size, pixels }));
    const laid = out("laid-two.zip");
    arnikJson("unwrap", two, "--size", "64", "--out", laid);
    const bring = ["run", "bake/bring-map", laid, "--with", picture];
    const held = out("held.zip");
    expect(arnikJson(...bring, "--out", held)).toEqual({
      brought: ["occlusion 8 × 8"],
      summary: "brought in: occlusion 8 × 8",
    });
    arnikJson(
      ...["run", "bake/use-map", held, "--kind", "ao", "--use", "brought"],
      ...["--out", out("maps")],
    );
    expect(readFileSync(out("maps/two_ao.png"))).toEqual(readFileSync(picture));
    const lost = arnik(...bring, "--out", out("lost.glb"));
    expect(lost).toMatchObject({ code: 1 });
    expect(lost.err).toContain("maps are written to a folder");
  });

  it("pictures to work after and painted ones, given with --with", async () => {
    const picture = out("front.png");
    writeFileSync(
      picture,
      writePng({
        kind: "ao",
        ...{ width: 4, height: 2, channels: 1, depth: 8 },
        pixels: new Uint8Array(8),
      }),
    );
    const [seen, painted] = [out("seen.glb"), out("painted-on.gltf")];
    arnikJson(
      ...["run", "intake/add-reference", two, "--plane", "side"],
      ...["--with", picture, "--out", seen],
    );
    arnikJson(
      "run",
      "unwrap/paint-in",
      seen,
      "--with",
      picture,
      "--out",
      painted,
    );
    const { kept } = await readMeshFiles([
      { name: painted, bytes: readFileSync(painted) },
    ]);
    expect(kept).toMatchObject([
      {
        references: [{ name: "front.png", plane: "side", width: 4 }],
        painted: { name: "front.png", height: 2 },
      },
    ]);
    const none = arnik("run", "unwrap/paint-in", two, "--out", out("no.glb"));
    expect(none.err).toContain("there is no picture to show");
    const wrong: [string, string, string][] = [
      ["survey/count", picture, "asks for no further file"],
      ["unwrap/paint-in", two, "asks for pictures"],
      ["intake/bring-over", picture, "asks for a mesh file"],
    ];
    for (const [id, file, words] of wrong) {
      const told = arnik("run", id, two, "--with", file, "--out", out("w.glb"));
      expect(told.err).toContain(words);
      expect(told.code).toBe(2);
    }
    // Both files of one asset keep its pictures: they come in once.
    const chain = out("chain.glb");
    arnikJson("run", "reduce/levels", seen, "--levels", "8", "--out", chain);
    const both = await runOperation(
      findOperation("intake/bring-in"),
      createAsset("both"),
      { role: "game" },
      {
        ...plainContext(),
        files: [chain, chain.replace(".glb", "_lod1.glb"), seen].map(
          (path) => ({ name: basename(path), bytes: readFileSync(path) }),
        ),
      },
    );
    expect(both.asset.references.map(({ name }) => name)).toEqual([
      "front.png",
    ]);
  });

  it("a part of another file, brought over beside what is there", async () => {
    const [mine, other] = [out("mine.glb"), out("other.glb")];
    for (const path of [mine, other])
      arnikJson(
        "unwrap",
        two,
        "--out",
        path,
        "--size",
        "128",
        "--padding",
        "2",
      );
    const three = out("three.glb");
    const told = arnikJson(
      ...["run", "intake/bring-over", mine, "--with", other],
      ...["--part", "b", "--out", three],
    );
    expect(told).toMatchObject({ part: "b.2", tiles: [1002] });
    const parts = await read(three);
    expect(parts.map(({ name }) => name)).toEqual(["a", "b", "b.2"]);
    expect(tilesUsed(parts.map(({ mesh }) => mesh))).toEqual([0, 1]);
  });

  it("looks, with their opacity", async () => {
    const glass = out("glass.glb");
    arnikJson(
      ...["run", "finish/look", two, "--out", glass],
      ...["--colour", "#336699", "--opacity", "0.4"],
    );
    const { looks } = await readMeshFiles([
      { name: glass, bytes: readFileSync(glass) },
    ]);
    expect([...looks.values()][0]).toMatchObject({
      colour: "#336699",
      opacity: 0.4,
    });
    // Nobody said anything of opacity: it stays.
    const red = out("red.glb");
    arnikJson("run", "finish/look", glass, "--out", red, "--colour", "#993333");
    const again = await readMeshFiles([
      { name: red, bytes: readFileSync(red) },
    ]);
    expect([...again.looks.values()][0]).toMatchObject({
      colour: "#993333",
      opacity: 0.4,
    });
  });

  it("every level of detail beside the mesh", async () => {
    const game = out("levels.glb");
    arnikJson(
      "run",
      "reduce/levels",
      source,
      "--levels",
      "400, 90",
      "--out",
      game,
    );
    expect((await read(game))[0].mesh.corners.length / 3).toBe(3360);
    for (const [level, most] of [
      [1, 400],
      [2, 90],
    ]) {
      const [{ mesh }] = await read(out(`levels_lod${level}.glb`));
      expect(mesh.corners.length / 3).toBeLessThanOrEqual(most);
    }
  });

  it("a shape that was made, though not all that hangs on it has a place in the file", async () => {
    const painted = out("ids.glb");
    arnikJson(
      "run",
      "survey/paint-ids",
      two,
      "--by",
      "parts",
      "--out",
      painted,
    );
    for (const ending of ["obj", "stl"]) {
      const path = out(`boxes.${ending}`);
      arnikJson("run", "reduce/stand-in", painted, "--out", path);
      expect((await read(path)).length).toBeGreaterThan(0);
    }
    const small = out("small.obj");
    arnikJson("run", "reduce/to-budget", painted, "--out", small);
    expect(await read(small)).toHaveLength(2);
  });

  it("or says what the file can't hold, and what to write", () => {
    const lost = (id: string, name: string, ...more: string[]) => {
      const done = arnik("run", id, two, "--out", out(name), ...more);
      expect([done.code, existsSync(out(name))]).toEqual([1, false]);
      return done.err;
    };
    expect(lost("survey/paint-ids", "lost.obj", "--by", "parts")).toContain(
      ".obj does not hold IDs; write .glb or .gltf",
    );
    expect(lost("finish/look", "lost.ply")).toContain(
      ".ply does not hold looks; write .glb or .gltf",
    );
    const crease = ["--edges", "a:0-1", "--sharpness", "2"];
    expect(lost("survey/crease", "lost.glb", ...crease)).toContain(
      ".glb does not hold creases; no format does: go on in the app",
    );
  });
});
