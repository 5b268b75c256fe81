import { mkdtempSync, readFileSync, readdirSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { decode } from "fast-png";
import { beforeAll, expect, it } from "vitest";
import { MAP_KINDS } from "../core/base/pictures";
import { writeObj } from "../core/formats/write-obj";
import { laidOn, squareSheet } from "./laid";
import { cube, moved, sphere } from "./shapes";
import { arnik } from "./call-arnik";

const folder = mkdtempSync(join(tmpdir(), "arnik-bake-"));
const path = (name: string) => join(folder, name);

const bake = (game: string, out: string, ...more: string[]) =>
  arnik(
    "bake",
    "--source",
    path("source.obj"),
    "--game",
    path(game),
    "--out",
    path(out),
    "--size",
    "64",
    "--samples",
    "8",
    "--json",
    ...more,
  );
type Report = {
  maps: string[];
  findings: { kind: string; part: string; mend: string; texels: number }[];
};

beforeAll(() => {
  const ball = sphere(16, 24);
  const [game] = laidOn([ball], squareSheet(64));
  const far = { ...game, positions: game.positions.map((x) => 0.9 * x) };
  const save = (name: string, part: string, mesh: typeof ball) =>
    writeFileSync(path(name), writeObj([{ name: part, mesh }]));
  save("source.obj", "buoy_source", ball);
  save("game.obj", "buoy_game", game);
  save("off.obj", "buoy_game", moved(game, 9, 0, 0));
  save("far.obj", "buoy_game", far);
  const [box] = laidOn(
    [{ ...cube(), hard: new Uint8Array(24).fill(1) }],
    squareSheet(64),
  );
  save("box.obj", "box", box);
  const pair = [ball, moved(ball, 4, 0, 0)];
  const laid = laidOn(pair, squareSheet(64));
  for (const [marker, meshes] of [
    ["source", pair],
    ["game", laid],
  ] as const)
    writeFileSync(
      path(`pair_${marker}.obj`),
      writeObj(
        meshes.map((mesh, i) => ({
          name: `${["lid", "pot"][i]}_${marker}`,
          mesh,
        })),
      ),
    );
});

it("writes every map by its name, at the bits asked for, source and game paired by their markers", () => {
  const { code, out, err } = bake(
    "game.obj",
    "all",
    "--maps",
    MAP_KINDS.join(","),
    "--bits",
    "16",
  );
  expect(code).toBe(0);
  expect(err).toBe("");
  const report = JSON.parse(out) as Report;
  expect(report.maps).toEqual(MAP_KINDS.filter((kind) => kind !== "status"));
  expect(report.findings.map(({ kind }) => kind)).toEqual([
    "nothing to show",
    "nothing to show",
  ]);
  expect(readdirSync(path("all")).sort()).toEqual(
    MAP_KINDS.map((kind) => `source_${kind}.png`).sort(),
  );
  for (const kind of MAP_KINDS)
    expect(decode(readFileSync(path(`all/source_${kind}.png`)))).toMatchObject({
      width: 64,
      height: 64,
      depth: kind === "status" ? 8 : 16,
    });
});

it("bakes single parts from distances of their own, and says which it left out", () => {
  const baked = (...more: string[]) =>
    arnik(
      "bake",
      ...["--source", path("pair_source.obj")],
      ...["--game", path("pair_game.obj")],
      ...["--out", path("one"), "--size", "64", "--maps", "normal", "--json"],
      ...more,
    );
  const { code, out } = baked("--parts", "lid", "--distance", "lid=3");
  expect(code).toBe(0);
  const report = JSON.parse(out) as Report & {
    baked: string[];
    counts: { part: string; distance: number }[];
  };
  expect(report.baked).toEqual(["lid"]);
  expect(report.counts).toMatchObject([{ part: "lid", distance: 0.003 }]);
  expect(report.findings.map(({ kind }) => kind)).toEqual(["not baked"]);
  expect(report).not.toHaveProperty("prints");
  expect(readdirSync(path("one"))).toEqual(["pair_source_normal.png"]);
  const wrong = baked("--distance", "nobody=3");
  expect(wrong.code).not.toBe(0);
  expect(wrong.err).toMatch(/nobody/);
});

it("has 16 bits where steps would show, 8 where not, and rounds edges without a source", () => {
  const depths = (out: string, file: string) =>
    ["normal", "ao"].map(
      (kind) => decode(readFileSync(path(`${out}/${file}_${kind}.png`))).depth,
    );
  bake("game.obj", "deep", "--maps", "normal,ao");
  expect(depths("deep", "source")).toEqual([16, 8]);
  const alone = (...more: string[]) =>
    arnik(
      ...["bake", "--game", path("box.obj"), "--out", path("round")],
      ...["--size", "64", "--samples", "8", "--json", ...more],
    );
  const { code, out } = alone("--radius", "100");
  expect(code).toBe(0);
  expect((JSON.parse(out) as Report).findings).toEqual([]);
  expect(depths("round", "box")).toEqual([16, 8]);
  const { data } = decode(readFileSync(path("round/box_normal.png")));
  const turned = [...data].filter(
    (x, i) => i % 3 === 0 && Math.abs(x / 65535 - 0.5) > 0.05,
  );
  expect(turned.length).toBeGreaterThan(100);
  const { code: refused, err } = alone();
  expect(refused).toBe(2);
  expect(err).toContain("--source FILE, or --radius MM");
});

it("writes how far off the look is, and a shaped cage as a mesh; what no file holds is refused", () => {
  const { out } = bake("game.obj", "off", "--maps", "normal,angle");
  expect(JSON.parse(out) as Report).toMatchObject({
    maps: ["normal"],
    lookOff: { parts: [{ part: "buoy" }] },
  });
  const { data, channels } = decode(readFileSync(path("off/source_angle.png")));
  expect(channels).toBe(1);
  expect([...data].filter((x) => x > 0).length).toBeGreaterThan(200);
  const run = (id: string, file: string, ...more: string[]) =>
    arnik("run", id, path("box.obj"), "--out", path(file), ...more);
  const faces = ["--faces", "box:0-5", "--mesh", "game", "--distance", "20"];
  expect(run("bake/shape-cage", "cage.obj", ...faces).code).toBe(0);
  const lines = readFileSync(path("cage.obj"), "utf8").split("\n");
  expect(lines.filter((line) => line.startsWith("f "))).toHaveLength(6);
  const far = lines
    .filter((line) => line.startsWith("v "))
    .map((line) => Math.max(...line.split(" ").slice(1).map(Number)));
  expect(Math.max(...far)).toBeCloseTo(1 + 0.02 / Math.sqrt(3), 4);
  const folder = run("bake/shape-cage", "nowhere", ...faces);
  expect(folder.code).toBe(1);
  expect(folder.err).toContain("there are no maps to write");
  const edges = ["--edges", "box:0-1", "--radius", "5"];
  const round = run("edges/round", "round.glb", ...edges);
  expect(round.code).toBe(1);
  expect(round.err).toContain("does not hold radii of round edges");
});

it("turns green down and runs islands on as told", () => {
  const pixels = (file: string) => decode(readFileSync(path(file))).data;
  bake("game.obj", "up", "--maps", "normal", "--green", "up");
  bake("game.obj", "down", "--maps", "normal", "--green", "down");
  const [up, down] = ["up", "down"].map((out) =>
    pixels(`${out}/source_normal.png`),
  );
  for (let i = 0; i < up.length; i += 3)
    expect(Math.abs(up[i + 1] + down[i + 1] - 65535)).toBeLessThanOrEqual(1);
  const grey = (dilate: string) => {
    bake("game.obj", dilate, "--maps", "object", "--dilate", dilate);
    const data = pixels(`${dilate}/source_object.png`);
    let count = 0;
    for (let i = 0; i < data.length; i += 3)
      if ([0, 1, 2].every((k) => data[i + k] === 128)) count++;
    return count;
  };
  expect(grey("1")).toBeGreaterThan(0);
  expect(grey("8192")).toBe(0);
});

it("says what went wrong where, with what mends it, and the mend does", () => {
  const off = JSON.parse(bake("off.obj", "off").out) as Report;
  expect(off.findings[0]).toMatchObject({ kind: "apart", part: "buoy" });
  const short = JSON.parse(
    bake("far.obj", "far", "--distance", "20").out,
  ) as Report;
  const missed = short.findings.find(({ kind }) => kind === "missed")!;
  expect(missed).toMatchObject({ part: "buoy" });
  expect(missed.texels).toBeGreaterThan(100);
  const wanted = /to (\d+) mm/.exec(missed.mend)![1];
  const mended = JSON.parse(
    bake("far.obj", "mended", "--distance", wanted).out,
  ) as Report;
  expect(mended.findings).toEqual([]);
  // Without --json the same is said beside the report.
  const { err, out } = arnik(
    ...["bake", "--source", path("source.obj"), "--game", path("far.obj")],
    ...["--out", path("said"), "--size", "64", "--maps", "normal"],
    ...["--distance", "20"],
  );
  expect(err).toContain(`${missed.mend}\n`);
  // What the report has not is not told to people.
  expect(out).toMatch(/^missed: /m);
  expect(out).not.toContain("undefined");
});

it("refuses maps and parts that there are not, in a sentence", () => {
  const map = bake("game.obj", "x", "--maps", "normal,shine");
  expect(map).toMatchObject({ code: 2 });
  expect(map.err).toMatch(/^arnik: --maps takes normal, .* not "shine"\n/);
  const card = bake("game.obj", "x", "--cards", "sail");
  expect(card.code).toBeGreaterThan(0);
  expect(card.err).toMatch(/sail/);
});
