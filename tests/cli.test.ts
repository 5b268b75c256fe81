import { spawnSync } from "node:child_process";
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { basename, join } from "node:path";
import { beforeAll, describe, expect, it } from "vitest";
import { createAsset } from "../core/asset/asset";
import { plainContext } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { readMeshFiles, writeMeshFile } from "../core/formats/index";
import { writePng } from "../core/formats/png";
import { tilesUsed } from "../core/mesh/tiles";
import { seededRandom } from "../core/base/random";
import type { Mesh } from "../core/mesh/mesh";
import { PLANTS, thirtyMeshes } from "./planted";
import { ballsInRows, cube, joined, moved, sphere, torus } from "./shapes";

const folder = mkdtempSync(join(tmpdir(), "arnik-cli-"));
const source = join(folder, "ball.ply");
/** Two cubes, of quads. */
const two = join(folder, "two.obj");

function arnik(...words: string[]) {
  const done = spawnSync(process.execPath, ["bin/arnik.mjs", ...words], {
    encoding: "utf8",
  });
  return { code: done.status, out: done.stdout, err: done.stderr };
}
function json(...words: string[]): Record<string, unknown> {
  const done = arnik(...words, "--json");
  expect(done.err).toBe("");
  expect(done.code).toBe(0);
  expect(done.out.trim().split("\n")).toHaveLength(1);
  return JSON.parse(done.out) as Record<string, unknown>;
}

beforeAll(async () => {
  const mesh = sphere(
    36,
    48,
    0.2,
    (a, t) => 0.006 * Math.sin(8 * a) * Math.cos(5 * t),
  );
  writeFileSync(
    source,
    await writeMeshFile("ball.ply", [{ name: "ball", mesh }]),
  );
  writeFileSync(
    two,
    await writeMeshFile("two.obj", [
      { name: "a", mesh: cube() },
      { name: "b", mesh: moved(cube(), 4, 0, 0) },
    ]),
  );
});

describe("commands", () => {
  it("survey counts", () => {
    expect(json("survey", source)).toMatchObject({
      triangles: 3360,
      quads: 0,
      ngons: 0,
      parts: 1,
      borderEdges: 0,
      nonManifoldEdges: 0,
      degenerateFaces: 0,
      flippedFaces: 0,
      duplicateVertices: 0,
      components: 1,
      closed: true,
    });
  });

  it("survey lists findings, mends them on request and writes what came out", async () => {
    const broken = join(folder, "broken.obj");
    const mended = join(folder, "mended.obj");
    const planted = PLANTS.map(({ name, plant }, i) => ({
      name: name.replaceAll(" ", "_"),
      mesh: plant(thirtyMeshes()[(7 * i) % 30].mesh, seededRandom(i)),
    }));
    writeFileSync(broken, await writeMeshFile("broken.obj", planted));
    const found = json("survey", broken);
    const kinds = (found.findings as { kind: string; part: string }[]).map(
      ({ kind, part }) => `${part} ${kind}`,
    );
    PLANTS.forEach(({ name, finds }) =>
      expect(kinds).toContain(`${name.replaceAll(" ", "_")} ${finds}`),
    );
    const after = json("survey", broken, "--repair", "all", "--out", mended);
    expect(after).toMatchObject({ defects: 0, closed: true });
    expect(json("survey", mended)).toMatchObject({ defects: 0, closed: true });
    const welded = json(
      "survey",
      broken,
      "--repair",
      "coincident,loose",
      "--out",
      join(folder, "welded.ply"),
    );
    expect(welded).toMatchObject({ duplicateVertices: 0, looseVertices: 0 });
    expect(Number(welded.defects)).toBeGreaterThan(0);
    expect(
      arnik("survey", broken, "--repair", "paint", "--out", mended).code,
    ).toBe(2);
    expect(arnik("survey", broken, "--repair", "all").code).toBe(2);
    expect(arnik("survey", broken, "--tolerance", "-1").code).toBe(2);
  });

  it("survey lists what nobody sees and what it would free", async () => {
    const nested = join(folder, "nested.ply");
    const inner = { ...cube(), positions: cube().positions.map((x) => x / 2) };
    const mesh = joined(cube(), inner);
    writeFileSync(
      nested,
      await writeMeshFile("nested.ply", [{ name: "nested", mesh }]),
    );
    expect(json("survey", nested, "--unseen")).toMatchObject({
      triangles: 12,
      parts: [{ part: "nested", faces: "6-11" }],
    });
    expect(
      json("survey", nested, "--unseen", "--from", "on-a-floor").triangles,
    ).toBe(14);
    expect(
      json("survey", nested, "--unseen", "--from", "5,0,0;0,0,5").triangles,
    ).toBe(20);
  });

  it("reduce says where a budget lies under the knee of its curve", async () => {
    const rows = join(folder, "rows.ply");
    const { balls, wall } = ballsInRows(30);
    const mesh = joined(balls, wall);
    writeFileSync(
      rows,
      await writeMeshFile("rows.ply", [{ name: "rows", mesh }]),
    );
    const out = join(folder, "rows-out.ply");
    const call = ["reduce", rows, "--out", out, "--overwrite"];
    const low = arnik(...call, "--triangles", "150");
    expect(low.code).toBe(0);
    expect(low.err).toMatch(/^arnik: below about \d+ triangles shapes break/);
    const high = arnik(...call, "--triangles", "9000");
    expect([high.code, high.err]).toEqual([0, ""]);
  });

  it("reduce says what is far smaller than a triangle, and keeps it where that is asked for", async () => {
    const strewn = join(folder, "strewn.ply");
    const speck = sphere(3, 4, 0.03);
    const mesh = joined(
      sphere(40, 60),
      moved(speck, 1.3, 0, 0),
      moved(speck, 0, 1.4, 0),
    );
    writeFileSync(
      strewn,
      await writeMeshFile("strewn.ply", [{ name: "strewn", mesh }]),
    );
    const out = join(folder, "strewn-out.ply");
    const call = ["reduce", strewn, "--out", out, "--overwrite"];
    const low = arnik(...call, "--triangles", "300");
    expect([low.code, low.err.trim()]).toEqual([
      0,
      "arnik: 2 loose pieces far smaller than a triangle left out: what is near the rest is baked",
    ]);
    const kept = arnik(...call, "--triangles", "300", "--smallest");
    expect([kept.code, kept.err]).toEqual([0, ""]);
  });

  it("reduce, unwrap, bake and collide make files that read again", async () => {
    const game = join(folder, "game.obj");
    const laid = join(folder, "laid.glb");
    const reduced = json("reduce", source, "--triangles", "400", "--out", game);
    expect(reduced.triangles).toBeLessThanOrEqual(400);
    for (const key of ["budget", "rms", "max", "parts", "seconds"])
      expect(reduced).toHaveProperty(key);
    const unwrapped = json(
      "unwrap",
      game,
      "--out",
      laid,
      "--size",
      "256",
      "--padding",
      "4",
    );
    for (const key of [
      "islands",
      "fill",
      "stretch",
      "overlap",
      "flipped",
      "densityMin",
      "densityMax",
      "densitySpread",
      "tiles",
      "seconds",
    ])
      expect(unwrapped).toHaveProperty(key);
    const baked = json(
      "bake",
      "--source",
      source,
      "--game",
      laid,
      "--out",
      join(folder, "maps"),
      "--size",
      "128",
      "--samples",
      "8",
    );
    expect(baked).toMatchObject({ maps: ["normal", "ao"] });
    expect(Number(baked.missed)).toBeLessThan(0.001);
    expect(readdirSync(join(folder, "maps")).sort()).toEqual([
      "ball_ao.png",
      "ball_normal.png",
    ]);
    const hulls = json(
      "collide",
      laid,
      "--out",
      join(folder, "hulls.obj"),
      "--kind",
      "hull",
    );
    for (const key of [
      "hulls",
      "vertices",
      "volumeRatio",
      "maxDistance",
      "seconds",
    ])
      expect(hulls).toHaveProperty(key);
    const { parts } = await readMeshFiles([
      { name: "hulls.obj", bytes: readFileSync(join(folder, "hulls.obj")) },
    ]);
    expect(parts[0].name).toMatch(/_hull_1$/);
    const shapes = (...words: string[]) =>
      json("collide", laid, "--out", join(folder, "shapes.glb"), ...words);
    const prism = shapes("--kind", "prism", "--max-vertices", "12");
    expect(prism).toMatchObject({ hulls: 1, vertices: 12 });
    expect(shapes("--overwrite", "--kind", "best", "--error", "400")).toEqual(
      expect.objectContaining({ hulls: 1 }),
    );
    const ground = shapes("--overwrite", "--kind", "ground", "--error", "100");
    expect(Number(ground.outside)).toBeLessThanOrEqual(0.1001);
    const told = arnik(
      "collide",
      laid,
      "--out",
      join(folder, "near.glb"),
      "--max-hulls",
      "1",
      "--error",
      "0.01",
    );
    expect(told.code).toBe(1);
    expect(told.err).toMatch(
      /mm off, 0\.0 mm are allowed|mm out of its shapes/,
    );
  });

  it("unwrap takes islands, sharing, tiles and density; template draws what came out", async () => {
    const game = join(folder, "two.glb");
    writeFileSync(
      game,
      await writeMeshFile("two.glb", [
        { name: "one", mesh: sphere(12, 16) },
        { name: "two", mesh: moved(sphere(12, 16), 4, 0, 0) },
      ]),
    );
    const laid = join(folder, "two-laid.glb");
    const size = ["--size", "512", "--padding", "4"];
    expect(
      json("unwrap", game, "--out", laid, ...size, "--tiles", "2"),
    ).toMatchObject({ tiles: 2, overlap: 0, flipped: 0 });
    const few = json(
      "unwrap",
      game,
      "--out",
      laid,
      ...size,
      "--islands",
      "2",
      "--rotate",
      "none",
    );
    const kept = json(
      "unwrap",
      laid,
      "--out",
      laid,
      ...size,
      "--keep-seams",
      "--overwrite",
    );
    expect(kept.islands).toBe(few.islands);
    const shared = json(
      "unwrap",
      game,
      "--out",
      laid,
      ...size,
      "--share",
      "all",
      "--hide",
      "0",
    );
    expect(shared).toMatchObject({ overlap: 0 });
    const thin = json(
      "unwrap",
      game,
      "--out",
      laid,
      ...size,
      "--density",
      "20",
      "--height",
      "256",
    );
    expect(Number(thin.density)).toBeCloseTo(20, 0);
    const svg = join(folder, "two.svg");
    expect(json("template", laid, "--out", svg, "--names")).toMatchObject({
      file: svg,
      width: 2048,
    });
    expect(readFileSync(svg, "utf8")).toContain("<svg");
    for (const words of [
      ["unwrap", game, "--out", laid, "--share", "maybe"],
      ["unwrap", game, "--out", laid, "--stretch", "none"],
      ["template", laid, "--out", "x.gif"],
    ])
      expect(arnik(...words).code).toBe(2);
  });

  it("make goes the whole route, the same bytes each time", () => {
    const words = [
      "make",
      source,
      "--triangles",
      "300",
      "--size",
      "128",
      "--samples",
      "4",
      "--out",
    ];
    const made = json(...words, join(folder, "one"));
    expect(made.files).toEqual([
      "ball.glb",
      "ball_normal.png",
      "ball_ao.png",
      "report.html",
      "report.json",
    ]);
    for (const stage of [
      "intake",
      "survey",
      "reduce",
      "edges",
      "unwrap",
      "bake",
      "collide",
      "ship",
    ])
      expect(made).toHaveProperty(stage);
    json(...words, join(folder, "two"));
    for (const name of ["ball.glb", "ball_normal.png", "ball_ao.png"])
      expect(
        Buffer.compare(
          readFileSync(join(folder, "one", name)),
          readFileSync(join(folder, "two", name)),
        ),
      ).toBe(0);
  });

  it("take several files in one call, paired by name; a game mesh that came along is kept", async () => {
    const high = join(folder, "pot_source.obj");
    const low = join(folder, "pot_game.obj");
    const lid = join(folder, "lid.stl");
    const put = async (path: string, mesh: Mesh) =>
      writeFileSync(
        path,
        await writeMeshFile(path, [
          { name: path.replace(/^.*[/]|[.].*$/g, ""), mesh },
        ]),
      );
    await put(high, sphere(40, 50, 0.2));
    await put(low, sphere(8, 10, 0.2));
    await put(lid, moved(sphere(40, 50, 0.1), 0, 0.5, 0));
    const counted = json("survey", high, lid);
    expect(
      (counted.perPart as { part: string }[]).map(({ part }) => part),
    ).toEqual(["pot", "lid"]);
    const out = join(folder, "pots");
    const made = json(
      "make",
      high,
      low,
      lid,
      "--triangles",
      "200",
      "--size",
      "64",
      "--samples",
      "4",
      "--out",
      out,
    );
    const { parts } = await readMeshFiles([
      {
        name: "pot.glb",
        bytes: readFileSync(join(out, (made.files as string[])[0])),
      },
    ]);
    const triangles = new Map(
      parts.map(({ name, mesh }) => [name, mesh.corners.length / 3]),
    );
    expect(triangles.get("pot")).toBe(sphere(8, 10, 0.2).corners.length / 3);
    expect(triangles.get("lid")).toBeLessThanOrEqual(200);
    const other = join(folder, "elsewhere");
    mkdirSync(other);
    await put(join(other, "lid.stl"), cube());
    const clash = arnik("survey", lid, join(other, "lid.stl"));
    expect(clash.code).toBe(2);
    expect(clash.err).toContain("two different files are called lid.stl");
  });

  it("operations lists them and run reaches each by its id", () => {
    const list = json("operations").operations as {
      id: string;
      options: { name: string }[];
    }[];
    expect(list.length).toBeGreaterThanOrEqual(13);
    const out = join(folder, "hard.obj");
    expect(
      json("run", "edges/hard-by-angle", source, "--out", out, "--angle", "5"),
    ).toHaveProperty("hardEdges");
    expect(existsSync(out)).toBe(true);
    expect(
      json(
        "run",
        "survey/repair",
        source,
        "--out",
        join(folder, "welded.stl"),
        "--tolerance",
        "1",
      ),
    ).toHaveProperty("mended");
    expect(
      json(
        "run",
        "unwrap/unwrap",
        join(folder, "game.obj"),
        "--out",
        join(folder, "u.gltf"),
        "--size",
        "128",
      ),
    ).toHaveProperty("fill");
    expect(
      json(
        "run",
        "bake/maps",
        join(folder, "laid.glb"),
        "--out",
        join(folder, "self"),
        "--size",
        "64",
        "--rays",
        "4",
      ),
    ).toHaveProperty("missed");
    expect(
      json(
        "run",
        "ship/archive",
        join(folder, "laid.glb"),
        "--out",
        join(folder, "laid.zip"),
      ),
    ).toHaveProperty("validator");
    expect(
      json(
        "run",
        "collide/hulls",
        source,
        "--out",
        join(folder, "box.stl"),
        "--kind",
        "box",
        "--max-hulls",
        "1",
      ),
    ).toMatchObject({ hulls: 1 });
  });
});

describe("run writes what an operation made", () => {
  const out = (name: string) => join(folder, name);
  const read = async (path: string) =>
    (await readMeshFiles([{ name: path, bytes: readFileSync(path) }])).parts;

  it("IDs and their names, and painted density, which the next call reads", async () => {
    const painted = out("painted.glb");
    json("run", "survey/paint-ids", two, "--by", "parts", "--out", painted);
    const { palette, parts } = await readMeshFiles([
      { name: painted, bytes: readFileSync(painted) },
    ]);
    expect(palette.map(({ name }) => name)).toEqual(["a", "b"]);
    expect(parts.map(({ mesh }) => mesh.ids?.[0])).toEqual([1, 2]);
    const finer = out("finer.glb");
    const faces = ["--faces", "a:0-3", "--mesh", "source"];
    json("run", "reduce/paint-density", painted, ...faces, "--out", finer);
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
    json("run", "survey/link-repeats", pegs, "--out", linked);
    const lay = (file: string, to: string) =>
      json("unwrap", file, "--out", to, "--size", "128", "--padding", "2");
    lay(linked, laid);
    lay(pegs, out("alone-pegs.glb"));
    const uvsOf = async (path: string) =>
      (await read(path)).map(({ mesh }) => [...mesh.uvs!]);
    const [first, second] = await uvsOf(laid);
    expect(second).toEqual(first);
    const [one, other] = await uvsOf(out("alone-pegs.glb"));
    expect(other).not.toEqual(one);
    const again = out("again-pegs.glb");
    json("unwrap", laid, "--out", again, "--size", "128", "--padding", "2");
    const [a, b] = await uvsOf(again);
    expect(b).toEqual(a);
    const lost = arnik(
      ...["run", "survey/link-repeats", pegs, "--out", out("linked.obj")],
    );
    expect(lost).toMatchObject({ code: 1 });
    expect(lost.err).toContain("does not hold repeats; write .glb or .gltf");
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
    json(
      ...["run", "intake/add-reference", two, "--plane", "side"],
      ...["--with", picture, "--out", seen],
    );
    json("run", "unwrap/paint-in", seen, "--with", picture, "--out", painted);
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
    json("run", "reduce/levels", seen, "--levels", "8", "--out", chain);
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
      json("unwrap", two, "--out", path, "--size", "128", "--padding", "2");
    const three = out("three.glb");
    const told = json(
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
    json(
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
    json("run", "finish/look", glass, "--out", red, "--colour", "#993333");
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
    json("run", "reduce/levels", source, "--levels", "400, 90", "--out", game);
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
    json("run", "survey/paint-ids", two, "--by", "parts", "--out", painted);
    for (const ending of ["obj", "stl"]) {
      const path = out(`boxes.${ending}`);
      json("run", "reduce/stand-in", painted, "--out", path);
      expect((await read(path)).length).toBeGreaterThan(0);
    }
    const small = out("small.obj");
    json("run", "reduce/to-budget", painted, "--out", small);
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

describe("wrong calls and failed work", () => {
  const fails = (code: number, pattern: RegExp, ...words: string[]) => {
    const done = arnik(...words);
    expect(done.code, done.err).toBe(code);
    expect(done.out).toBe("");
    expect(done.err.trim().split("\n")).toHaveLength(1);
    expect(done.err).toMatch(pattern);
  };

  it("exit 1 where a budget can't be reached, with what could be", async () => {
    const rings = join(folder, "rings.obj");
    const out = join(folder, "few.obj");
    const mesh = torus(20, 10);
    writeFileSync(rings, await writeMeshFile(rings, [{ name: "ring", mesh }]));
    const few = arnik("reduce", rings, "--triangles", "8", "--out", out);
    expect(few.code).toBe(1);
    expect(few.err).toMatch(
      /^arnik: 8 triangles can't be reached: \d+ are left/,
    );
    const made = arnik("make", rings, "--triangles", "8", "--out", folder);
    expect(made.code).toBe(1);
    expect(made.err).toMatch(/^arnik: 8 triangles can't be reached/);
  });

  it("say what they take, flag by flag, and an operation's options where it is named", () => {
    const reduce = arnik("reduce", "--help");
    expect([reduce.code, reduce.err]).toEqual([0, ""]);
    expect(reduce.out).toMatch(/^arnik reduce FILE… --triangles N/);
    expect(reduce.out).toMatch(
      /--triangles N +budget over all parts \(needed\)/,
    );
    expect(reduce.out).toMatch(/--grading N +quads: longest edges/);
    for (const name of ["survey", "bake", "make", "store", "operations"]) {
      const { code, out } = arnik(name, "--help");
      expect(code).toBe(0);
      expect(out).toMatch(/--json +prints one JSON object/);
    }
    expect(arnik("run", "edges/hard-by-angle", "--help").out).toMatch(
      /--angle /,
    );
  });

  it("exit 2 where the call is wrong", () => {
    fails(2, /no command "melt"/, "melt");
    fails(2, /one FILE expected/, "survey");
    fails(2, /--triangles N is needed/, "reduce", source, "--out", "x.obj");
    fails(
      2,
      /whole number from 4/,
      "reduce",
      source,
      "--triangles",
      "many",
      "--out",
      "x.obj",
    );
    fails(2, /there is no flag --fast/, "survey", source, "--fast");
    fails(2, /read are/, "survey", "notes.txt");
    fails(2, /STL holds no UVs/, "unwrap", source, "--out", "x.stl");
    fails(
      2,
      /--kind takes/,
      "collide",
      source,
      "--out",
      "x.obj",
      "--kind",
      "blob",
    );
    fails(
      2,
      /--maps takes normal, object, ao, /,
      "bake",
      "--source",
      source,
      "--game",
      source,
      "--out",
      "x",
      "--maps",
      "glow",
    );
    const few = ["reduce", source, "--out", "x.obj", "--triangles", "200"];
    fails(2, /--grading goes with --method quads/, ...few, "--grading", "3");
    fails(2, /--cells goes with --method skin/, ...few, "--cells", "90");
    fails(2, /grading/, ...few, "--method", "quads", "--grading", "9");
    fails(2, /no operation "a\/b"/, "run", "a/b", source, "--out", "x.obj");
    fails(
      2,
      /angle/,
      "run",
      "edges/hard-by-angle",
      source,
      "--out",
      "x.obj",
      "--angle",
      "900",
    );
    fails(2, /./, "bake", "--game", source, "--out", "x");
  });

  it("exit 1 with file and place where the work fails", () => {
    const broken = join(folder, "broken.obj");
    writeFileSync(broken, "v 0 0 0\nf 1 2 3\n");
    fails(
      1,
      /^arnik: .*broken\.obj: line 2: vertex 2 is out of range/,
      "survey",
      broken,
    );
    fails(
      1,
      /nothing\.obj: there is no such file/,
      "survey",
      join(folder, "nothing.obj"),
    );
    writeFileSync(join(folder, "empty.stl"), "");
    fails(
      1,
      /empty\.stl: the file is empty/,
      "survey",
      join(folder, "empty.stl"),
    );
    fails(
      1,
      /no game mesh has UVs/,
      "bake",
      "--source",
      source,
      "--game",
      source,
      "--out",
      join(folder, "nomaps"),
    );
    expect(existsSync(join(folder, "nomaps"))).toBe(false);
    fails(
      1,
      /no folder|something else/,
      "collide",
      source,
      "--out",
      join(source, "x.obj"),
    );
  });
});
