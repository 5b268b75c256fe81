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
import { join } from "node:path";
import { beforeAll, describe, expect, it } from "vitest";
import { readMeshFiles, writeMeshFile } from "../core/formats/index";
import { seededRandom } from "../core/space/random";
import type { Mesh } from "../core/mesh/mesh";
import { PLANTS, thirtyMeshes } from "./planted";
import { ballsInRows, cube, joined, moved, sphere, torus } from "./shapes";

const folder = mkdtempSync(join(tmpdir(), "arnik-cli-"));
const source = join(folder, "ball.ply");

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
    60,
    80,
    0.2,
    (a, t) => 0.006 * Math.sin(8 * a) * Math.cos(5 * t),
  );
  writeFileSync(
    source,
    await writeMeshFile("ball.ply", [{ name: "ball", mesh }]),
  );
});

describe("commands", () => {
  it("survey counts", () => {
    expect(json("survey", source)).toMatchObject({
      triangles: 9440,
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
    const high = join(folder, "pot_high.obj");
    const low = join(folder, "pot_low.obj");
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
      /--maps takes normal and ao/,
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
