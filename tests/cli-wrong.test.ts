import { existsSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { writeMeshFile } from "../core/formats/index";
import { arnik, folderOfMeshes } from "./call-arnik";
import { torus } from "./shapes";

const { folder, source } = await folderOfMeshes();

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
