import {
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  writeFileSync,
} from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { seededRandom } from "../core/base/random";
import { readMeshFiles, writeMeshFile } from "../core/formats/index";
import type { Mesh } from "../core/mesh/mesh";
import { arnik, arnikJson, folderOfMeshes } from "./call-arnik";
import { PLANTS, thirtyMeshes } from "./planted";
import { ballsInRows, cube, joined, moved, sphere } from "./shapes";

const { folder, source } = await folderOfMeshes();

describe("commands", () => {
  it("survey counts", () => {
    expect(arnikJson("survey", source)).toMatchObject({
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
    const found = arnikJson("survey", broken);
    const kinds = (found.findings as { kind: string; part: string }[]).map(
      ({ kind, part }) => `${part} ${kind}`,
    );
    PLANTS.forEach(({ name, finds }) =>
      expect(kinds).toContain(`${name.replaceAll(" ", "_")} ${finds}`),
    );
    const after = arnikJson(
      "survey",
      broken,
      "--repair",
      "all",
      "--out",
      mended,
    );
    expect(after).toMatchObject({ defects: 0, closed: true });
    expect(arnikJson("survey", mended)).toMatchObject({
      defects: 0,
      closed: true,
    });
    const welded = arnikJson(
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
    expect(arnikJson("survey", nested, "--unseen")).toMatchObject({
      triangles: 12,
      parts: [{ part: "nested", faces: "6-11" }],
    });
    expect(
      arnikJson("survey", nested, "--unseen", "--from", "on-a-floor").triangles,
    ).toBe(14);
    expect(
      arnikJson("survey", nested, "--unseen", "--from", "5,0,0;0,0,5")
        .triangles,
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
    const reduced = arnikJson(
      "reduce",
      source,
      "--triangles",
      "400",
      "--out",
      game,
    );
    expect(reduced.triangles).toBeLessThanOrEqual(400);
    for (const key of ["budget", "rms", "max", "parts", "seconds"])
      expect(reduced).toHaveProperty(key);
    const unwrapped = arnikJson(
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
    const baked = arnikJson(
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
    const hulls = arnikJson(
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
      arnikJson("collide", laid, "--out", join(folder, "shapes.glb"), ...words);
    const prism = shapes("--kind", "prism", "--max-vertices", "12");
    expect(prism).toMatchObject({ hulls: 1, vertices: 12 });
    // Hulls alone are looked at and dropped, and stay the shapes that they are.
    const alone = join(folder, "shapes.glb");
    expect(arnikJson("survey", alone)).toMatchObject({
      vertices: 12,
      closed: true,
    });
    const again = await readMeshFiles([
      { name: "shapes.glb", bytes: readFileSync(alone) },
    ]);
    expect(again.parts[0].hull).toMatchObject({ kind: "prism" });
    expect(arnikJson("drop", alone)).toHaveProperty("trials");
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
      arnikJson("unwrap", game, "--out", laid, ...size, "--tiles", "2"),
    ).toMatchObject({ tiles: 2, overlap: 0, flipped: 0 });
    const few = arnikJson(
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
    const kept = arnikJson(
      "unwrap",
      laid,
      "--out",
      laid,
      ...size,
      "--keep-seams",
      "--overwrite",
    );
    expect(kept.islands).toBe(few.islands);
    const shared = arnikJson(
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
    const thin = arnikJson(
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
    expect(arnikJson("template", laid, "--out", svg, "--names")).toMatchObject({
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
    const made = arnikJson(...words, join(folder, "one"));
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
    arnikJson(...words, join(folder, "two"));
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
    const counted = arnikJson("survey", high, lid);
    expect(
      (counted.perPart as { part: string }[]).map(({ part }) => part),
    ).toEqual(["pot", "lid"]);
    const out = join(folder, "pots");
    const made = arnikJson(
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
    const list = arnikJson("operations").operations as {
      id: string;
      options: { name: string }[];
    }[];
    expect(list.length).toBeGreaterThanOrEqual(13);
    const out = join(folder, "hard.obj");
    expect(
      arnikJson(
        "run",
        "edges/hard-by-angle",
        source,
        "--out",
        out,
        "--angle",
        "5",
      ),
    ).toHaveProperty("hardEdges");
    expect(existsSync(out)).toBe(true);
    expect(
      arnikJson(
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
      arnikJson(
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
      arnikJson(
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
      arnikJson(
        "run",
        "ship/archive",
        join(folder, "laid.glb"),
        "--out",
        join(folder, "laid.zip"),
      ),
    ).toHaveProperty("validator");
    expect(
      arnikJson(
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
