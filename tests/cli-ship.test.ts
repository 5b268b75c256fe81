import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { decode, decodeApng } from "fast-png";
import { beforeAll, describe, expect, it } from "vitest";
import { readMeshFiles, writeMeshFile } from "../core/formats/index";
import { boundsOf } from "../core/space/bounds";
import { cube, moved, sphere } from "./shapes";
import { arnik } from "./call-arnik";

/** What leaves by the command line: deliveries and what they are tried in. */

const folder = mkdtempSync(join(tmpdir(), "arnik-ship-"));
const path = (name: string) => join(folder, name);

beforeAll(async () => {
  const parts = [
    { name: "ball", mesh: moved(sphere(20, 24), 3, 1, 0) },
    { name: "box", mesh: moved(cube(), 0, 1, 0) },
  ];
  writeFileSync(path("pair.glb"), await writeMeshFile("pair.glb", parts));
});

describe("ship", () => {
  it("writes a delivery with levels and a report, and tells its check list", async () => {
    const done = arnik(
      ...["ship", path("pair.glb"), "--out", path("out")],
      ...["--levels", "300,120", "--pivot", "bottom", "--obj", "--json"],
    );
    expect(done.err).toBe("");
    expect(done.code).toBe(0);
    const told = JSON.parse(done.out) as {
      files: string[];
      checks: { name: string; limit: string; ok: boolean }[];
      readBack: { differs: string[] }[];
      validator: object;
      levels: number[];
    };
    expect(told.files.sort()).toEqual([
      "pair.glb",
      "pair.mtl",
      "pair.obj",
      "pair_lod1.obj",
      "pair_lod2.obj",
      "report.html",
      "report.json",
    ]);
    for (const name of told.files)
      expect(existsSync(join(path("out"), name))).toBe(true);
    const open = told.checks.flatMap(({ name, ok }) => (ok ? [] : [name]));
    expect(open).toEqual(["Parts without UVs"]);
    expect(told.readBack).toHaveLength(4);
    expect(told.readBack.flatMap(({ differs }) => differs)).toEqual([]);
    expect(told.validator).toMatchObject({ errors: 0, warnings: 0 });
    expect(told.levels[0]).toBeLessThanOrEqual(300);
    const level = told.checks.find(({ name }) => /level 1/.test(name))!;
    expect(level.limit).toBe("≤ 300");
    const bytes = readFileSync(join(path("out"), "pair.glb"));
    const { parts } = await readMeshFiles([{ name: "pair.glb", bytes }]);
    expect(parts.filter((part) => part.level === 2)).toHaveLength(2);
    const { min, max } = boundsOf(...parts.map(({ mesh }) => mesh.positions));
    expect(min[1]).toBeCloseTo(0, 4);
    expect(min[0] + max[0]).toBeCloseTo(0, 2);
    const page = readFileSync(join(path("out"), "report.html"), "utf8");
    expect(page).not.toMatch(/<script/);
    expect(page.match(/data:image\/png/g)!.length).toBeGreaterThanOrEqual(6);
  });

  it("writes nothing but the report where a check stops it, unless that is insisted on", () => {
    const call = ["ship", path("pair.glb"), "--triangles", "100", "--out"];
    const held = arnik(...call, path("held"));
    expect(held.code).toBe(1);
    expect(held.err).toMatch(/nothing is shipped: Triangles: \d+, ≤ 100/);
    expect(existsSync(join(path("held"), "pair.glb"))).toBe(false);
    expect(existsSync(join(path("held"), "report.json"))).toBe(true);
    const insisted = arnik(...call, path("all"), "--insist");
    expect(insisted.code).toBe(0);
    expect(existsSync(join(path("all"), "pair.glb"))).toBe(true);
  });

  it("takes parts by name, a file each, and says where a call is wrong", () => {
    const call = ["ship", path("pair.glb"), "--out", path("split")];
    const done = arnik(...call, "--parts", "box", "--split");
    expect(done.code).toBe(0);
    expect(existsSync(join(path("split"), "pair_box.glb"))).toBe(true);
    expect(existsSync(join(path("split"), "pair_ball.glb"))).toBe(false);
    for (const [words, what] of [
      [["--parts", "lid"], /--parts lid: there is no such part/],
      [["--pivot", "top"], /--pivot takes origin, bottom, centre or three/],
      [["--pivot", "1,2"], /--pivot takes/],
      [["--profile", "none"], /--profile takes/],
    ] as const) {
      const wrong = arnik(...call, ...words);
      expect(wrong.code).toBe(2);
      expect(wrong.err).toMatch(what);
    }
  });
});

describe("drop", () => {
  it("tells when hulls rest and whether they stand, the same each time", async () => {
    writeFileSync(
      path("box.glb"),
      await writeMeshFile("box.glb", [{ name: "box", mesh: cube() }]),
    );
    const told = () => {
      const done = arnik("drop", path("box.glb"), "--json");
      expect(done.err).toBe("");
      expect(done.code).toBe(0);
      const { seconds, ...found } = JSON.parse(done.out) as Record<
        string,
        unknown
      >;
      expect(seconds).toBeGreaterThan(0);
      return found;
    };
    const found = told();
    expect(found).toMatchObject({ stands: true, fellThrough: false });
    expect(found.restSeconds).toBeLessThan(5);
    expect(found.penetrationMetres).toBeLessThan(0.002);
    expect(told()).toEqual(found);
    const wrong = arnik("drop", path("box.glb"), "--slope", "80");
    expect(wrong.code).toBe(2);
    expect(wrong.err).toMatch(/--slope takes a number from 0 to 60/);
  });
});

describe("a profile of one's own", () => {
  const profile = {
    format: "arnik delivery profile",
    version: 1,
    ...{ name: "Harbour engine", up: "z", unit: "cm", green: "down" },
    ...{ ply: true, page: false, pivot: "centre", compressed: true },
    ...{ nameFile: "SM_{asset}", nameMesh: "SM_{part}" },
  };

  it("is read from its file: axes, names and files are as it says, but for what the call says", async () => {
    writeFileSync(path("own.json"), JSON.stringify(profile));
    const done = arnik(
      ...["ship", path("pair.glb"), "--out", path("own")],
      ...["--profile", path("own.json"), "--pivot", "bottom", "--json"],
    );
    expect(done.err).toBe("");
    const told = JSON.parse(done.out) as { files: string[]; profile: string };
    expect(told.profile).toBe("Harbour engine");
    expect(told.files.sort()).toEqual([
      "SM_pair.glb",
      "SM_pair.ply",
      "report.json",
    ]);
    const read = async (name: string) => {
      const bytes = readFileSync(join(path("own"), name));
      return (await readMeshFiles([{ name, bytes }])).parts;
    };
    const glb = await read("SM_pair.glb");
    expect(glb.map(({ name }) => name)).toEqual(["SM_ball", "SM_box"]);
    // Centimetres, z up, standing at nought.
    const { min, max } = boundsOf(
      (await read("SM_pair.ply"))[0].mesh.positions,
    );
    expect(min[2]).toBeCloseTo(0, 3);
    expect(max[2]).toBeCloseTo(200, 0);
  });

  it("is refused by its file and what is wrong in it", () => {
    for (const [change, words] of [
      [{ nameMesh: "mesh" }, "nameMesh: {part} has to be in it"],
      [{ version: 7 }, "version 7"],
      [{ insist: true }, "insist: there is no such option"],
    ] as const) {
      writeFileSync(
        path("bad.json"),
        JSON.stringify({ ...profile, ...change }),
      );
      const done = arnik(
        ...["ship", path("pair.glb"), "--out", path("bad")],
        ...["--profile", path("bad.json")],
      );
      expect(done.code).not.toBe(0);
      expect(done.err).toContain("bad.json");
      expect(done.err).toContain(words);
      expect(existsSync(path("bad"))).toBe(false);
    }
  });
});

describe("turntable", () => {
  it("draws a turn, picture by picture and as one that moves", () => {
    const done = arnik(
      ...["turntable", path("pair.glb"), "--out", path("turn")],
      ...["--frames", "5", "--size", "64", "--look", "plain", "--json"],
    );
    expect(done.err).toBe("");
    expect(done.code).toBe(0);
    const { files } = JSON.parse(done.out) as { files: string[] };
    expect(files).toHaveLength(6);
    const frames = files
      .slice(0, 5)
      .map((name) => decode(readFileSync(path(`turn/${name}`))));
    expect(frames.map(({ width, height }) => [width, height])).toEqual(
      Array.from({ length: 5 }, () => [64, 64]),
    );
    // It is seen from another side each time.
    expect(new Set(frames.map(({ data }) => data.join())).size).toBe(5);
    const moving = decodeApng(readFileSync(path(`turn/${files[5]}`)));
    expect(moving.frames).toHaveLength(5);
    const wrong = arnik(
      "turntable",
      path("pair.glb"),
      "--out",
      path("turn"),
      "--look",
      "x",
    );
    expect(wrong.code).toBe(2);
  });
});

describe("project", () => {
  const told = (...words: string[]) => {
    const done = arnik(...words, "--json");
    expect(done.err).toBe("");
    expect(done.code).toBe(0);
    return JSON.parse(done.out) as Record<string, unknown>;
  };

  it("keeps from call to call what no mesh file holds", async () => {
    told("project", "pack", path("pair.glb"), "--out", path("a.zip"));
    const opened = path("opened.zip");
    expect(
      told("run", "intake/open-project", path("a.zip"), "--out", opened),
    ).toMatchObject({ parts: 2, summary: "pair" });
    expect(readFileSync(opened)).toEqual(readFileSync(path("a.zip")));
    told("reduce", path("a.zip"), "--triangles", "300", "--out", path("b.zip"));
    const hard = ["run", "edges/hard-by-angle", path("b.zip"), "--angle", "30"];
    told(...hard, "--out", path("c.zip"));
    told("unwrap", path("c.zip"), "--out", path("d.zip"), "--size", "256");
    told(
      "run",
      "reduce/levels",
      path("d.zip"),
      "--levels",
      "150",
      "--out",
      path("e.zip"),
    );
    const hulls = ["run", "collide/hulls", path("e.zip"), "--kind", "box"];
    told(...hulls, "--out", path("h.zip"));
    const placed = told(
      "run",
      "collide/place",
      path("h.zip"),
      ...["--parts", "box", "--kind", "sphere"],
      "--out",
      path("h2.zip"),
    );
    expect(placed).toMatchObject({ hulls: 3, byHand: ["box"] });
    const hand = ["--hulls", "box_hull_1,box_hull_2", "--out", path("h3.zip")];
    expect(told("run", "collide/merge", path("h2.zip"), ...hand)).toMatchObject(
      { hulls: 2 },
    );
    const gone = arnik(
      "run",
      "collide/remove",
      path("h3.zip"),
      "--hulls",
      "box_hull_9",
      "--out",
      path("no.zip"),
    );
    expect(gone.code).toBe(1);
    expect(gone.err).toContain("there are ball_hull_1, box_hull_1");
    const rays = ["run", "bake/maps", path("h.zip"), "--rays", "4"];
    told(...rays, "--out", path("f.zip"));
    const shipped = told("ship", path("f.zip"), "--out", path("from-project"));
    const checks = shipped.checks as {
      name: string;
      figure: string;
      limit: string;
    }[];
    const figure = (name: string) => checks.find((each) => each.name === name)!;
    // The budget is the project's, and hulls and levels came along.
    expect(figure("Triangles").limit).toBe("≤ 300");
    expect(shipped.hulls).toBe(2);
    expect(shipped.levels).toHaveLength(1);
    // The sheet is as large as it was laid out for, and maps are baked from the project's own sources.
    expect(shipped.maps).toContain("ao 256×256, 8 bit");
    const bake = ["bake", "--game", path("f.zip"), "--maps", "normal"];
    const size = (...more: string[]) =>
      told(...bake, "--samples", "4", "--out", path("baked"), ...more).size;
    expect(size()).toBe(256);
    expect(size("--size", "2048")).toBe(2048);
    const out = told(
      "project",
      "unpack",
      path("f.zip"),
      "--out",
      path("unpacked"),
    );
    const names = (out.files as string[]).map((file) => file.split("/").pop());
    expect(names).toEqual([
      "pair_source.glb",
      "pair.glb",
      "pair_lod1.glb",
      "pair_normal.png",
      "pair_ao.png",
    ]);
  });

  it("says where a call or an archive is wrong", () => {
    writeFileSync(path("bad.zip"), "not an archive");
    for (const [words, code, what] of [
      [
        ["pack", path("pair.glb"), "--out", path("x.glb")],
        2,
        /a project is a \.zip/,
      ],
      [
        ["unpack", path("pair.glb"), "--out", path("x")],
        2,
        /takes one PROJECT\.zip/,
      ],
      [["send", path("a.zip"), "--out", path("x")], 2, /takes pack or unpack/],
      [
        ["unpack", path("bad.zip"), "--out", path("x")],
        1,
        /bad\.zip: it is no archive/,
      ],
    ] as const) {
      const done = arnik("project", ...words);
      expect(done.err).toMatch(what);
      expect(done.code).toBe(code);
    }
  });
});
