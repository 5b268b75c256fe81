import { spawn, spawnSync } from "node:child_process";
import {
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { beforeAll, describe, expect, it } from "vitest";
import { createAsset, createPart } from "../core/asset/asset";
import { pathText, systemPath } from "../cli/paths";
import { Store, storeFile } from "../server/store/store";
import { cube } from "./shapes";
import { arnik } from "./call-arnik";

const folder = mkdtempSync(join(tmpdir(), "arnik-files-"));
const cubeText = `${[0, 1, 2, 3, 4, 5, 6, 7].map((i) => `v ${i & 1} ${(i >> 1) & 1} ${i >> 2}`).join("\n")}
f 1 3 4 2\nf 5 6 8 7\nf 1 2 6 5\nf 3 7 8 4\nf 1 5 7 3\nf 2 4 8 6\n`;
const source = join(folder, "cube.obj");

const left = (where: string) =>
  readdirSync(where).filter((name) => name.includes("arnik"));

beforeAll(() => writeFileSync(source, cubeText));

describe("the file that is read", () => {
  it("is never written over without a word, by whatever name it is called", () => {
    const other = join(folder, "same.obj");
    linkSync(source, other);
    for (const out of [source, `${folder}/./cube.obj`, other]) {
      const { code, err } = arnik(
        "reduce",
        source,
        "--triangles",
        "8",
        "--out",
        out,
      );
      expect(code).toBe(2);
      expect(err).toMatch(/this is a file that is read: .*--overwrite\n$/);
    }
    const made = arnik(
      "make",
      source,
      "--triangles",
      "8",
      "--out",
      folder,
      "--size",
      "32",
      "--samples",
      "4",
    );
    expect(made.err).not.toMatch(/file that is read/);
    const glb = join(folder, "cube.glb");
    const again = arnik(
      "make",
      glb,
      "--triangles",
      "8",
      "--out",
      folder,
      "--size",
      "32",
    );
    expect(again).toMatchObject({
      code: 2,
      err: expect.stringMatching(
        /cube\.glb: this is a file that is read/,
      ) as string,
    });
    expect(readFileSync(source, "utf8")).toBe(cubeText);
  });

  it("is written over where that is asked for", () => {
    const path = join(folder, "over.obj");
    writeFileSync(path, cubeText);
    expect(
      arnik("reduce", path, "--triangles", "8", "--out", path, "--overwrite")
        .code,
    ).toBe(0);
    expect(readFileSync(path, "utf8")).not.toBe(cubeText);
  });
});

describe("what is written", () => {
  it("leaves nothing behind where it can't be: a folder, a file in the way, a name too long", () => {
    const taken = join(folder, "taken.obj");
    mkdirSync(join(taken, "inside"), { recursive: true });
    const out = (path: string) =>
      arnik("reduce", source, "--triangles", "8", "--out", path);
    expect(out(taken)).toMatchObject({
      code: 1,
      err: expect.stringMatching(/taken\.obj: this is a folder/) as string,
    });
    expect(out(join(source, "deep", "x.obj"))).toMatchObject({
      code: 1,
      err: expect.stringMatching(
        /x\.obj: part of the path is no folder/,
      ) as string,
    });
    expect(out(join(folder, "new", `${"x".repeat(300)}.obj`))).toMatchObject({
      code: 1,
      err: expect.stringMatching(/the name is too long/) as string,
    });
    expect(left(folder)).toEqual([]);
    expect(existsSync(join(folder, "new"))).toBe(false);
  });

  it("may have a name of 255 bytes", () => {
    const path = join(folder, `${"n".repeat(251)}.obj`);
    expect(
      arnik("reduce", source, "--triangles", "8", "--out", path).code,
    ).toBe(0);
    expect(statSync(path).size).toBeGreaterThan(50);
    expect(left(folder)).toEqual([]);
  });

  it("and what is read may have names that are no UTF-8, byte for byte", () => {
    const place = mkdtempSync(join(tmpdir(), "arnik-bytes-"));
    const name = Buffer.concat([
      Buffer.from(`${place}/k`),
      Buffer.of(0xe9, 0xff),
      Buffer.from("e.obj"),
    ]);
    writeFileSync(name, cubeText);
    // A shell hands bytes on as they are; Node's own arguments would not.
    const script = `exec "$0" bin/arnik.mjs reduce ${place}/k*e.obj --triangles 8 --out "$(printf '${place}/out\\371.obj')"`;
    const done = spawnSync("/bin/sh", ["-c", script, process.execPath], {
      encoding: "utf8",
    });
    expect(done.stderr).toBe("");
    expect(done.status).toBe(0);
    const there = readdirSync(place, { encoding: "buffer" }).map((each) =>
      each.toString("latin1"),
    );
    expect(there.sort()).toEqual(["k\xe9\xffe.obj", "out\xf9.obj"]);
  });

  it("paths go from bytes to text and back unchanged", () => {
    for (const bytes of [
      Buffer.from("plain/ünïcode/模型 🐚.obj"),
      Buffer.of(0x61, 0xff, 0xc3, 0x28, 0xed, 0xa0, 0x80, 0xf0, 0x9f, 0x90),
      Buffer.from(Array.from({ length: 255 }, (_, i) => i + 1)),
    ])
      expect(Buffer.from(systemPath(pathText(bytes)))).toEqual(bytes);
    expect(systemPath("plain.obj")).toBe("plain.obj");
  });
});

describe("a call", () => {
  it("with a number below zero, or without a value, is answered in words of ours", () => {
    const told = (...words: string[]) => {
      const { code, err } = arnik(
        "reduce",
        source,
        "--out",
        join(folder, "x.obj"),
        ...words,
      );
      expect(code).toBe(2);
      return err;
    };
    expect(told("--triangles", "-5")).toBe(
      'arnik: --triangles takes a whole number from 4 to 2000000, not "-5"\n',
    );
    expect(told("--triangles")).toBe(
      "arnik: --triangles needs a value: --triangles N\n",
    );
    expect(told("--triangles", "8", "--json=yes")).toBe(
      "arnik: --json takes no value\n",
    );
    expect(told("--triangels", "8")).toBe(
      "arnik: there is no flag --triangels: arnik help lists them\n",
    );
  });

  it("whose output nobody reads to its end, ends quietly", async () => {
    const child = spawn(process.execPath, [
      "bin/arnik.mjs",
      "operations",
      "--json",
    ]);
    let said = "";
    child.stderr.on("data", (text: Buffer) => (said += text.toString()));
    child.stdout.destroy();
    await new Promise((resolve) => child.on("exit", resolve));
    expect(said).toBe("");
  });
});

describe("care of the store", () => {
  it("is taken on the command line, beside its user or alone", async () => {
    const data = mkdtempSync(join(tmpdir(), "arnik-care-"));
    const care = (...words: string[]) => {
      const { code, out, err } = arnik(
        "store",
        ...words,
        "--data",
        data,
        "--json",
      );
      return {
        code,
        err,
        found: JSON.parse(out || "{}") as Record<string, unknown>,
      };
    };
    expect(care("check")).toMatchObject({
      code: 1,
      err: expect.stringMatching(/there is no store in it/) as string,
    });
    const store = await Store.open(data, "a test");
    const asset = createAsset("Box", [
      createPart("box", 0, { source: cube() }),
    ]);
    const row = await store.createAsset(asset, "began");
    await store.commit(row.id, row.head, { ...asset, name: "Two" }, "two");

    expect(care("check")).toMatchObject({
      code: 0,
      found: { assets: 1, revisions: 2, troubles: [] },
    });
    const copy = join(data, "copy.sqlite");
    expect(care("backup", copy).code).toBe(0);
    expect(care("backup", copy)).toMatchObject({
      code: 2,
      err: expect.stringMatching(/something has that name/) as string,
    });
    expect(care("compact")).toMatchObject({
      code: 1,
      err: expect.stringMatching(/in use by a test \(process/) as string,
    });

    await store.database.write((trx) =>
      trx("streams").update({ bytes: Buffer.from("spoilt") }),
    );
    await store.close();
    const spoilt = care("check");
    expect(spoilt.code).toBe(1);
    expect(spoilt.err).toMatch(/troubles, such as: stream .* has other bytes/);
    expect(care("repair")).toMatchObject({
      code: 0,
      found: { assets: 0, lost: expect.arrayContaining([]) as unknown[] },
    });
    expect(care("check")).toMatchObject({ code: 0, found: { assets: 0 } });
    expect(care("compact").code).toBe(0);
    expect(existsSync(`${storeFile(data)}.before-repair`)).toBe(true);
    expect(arnik("store", "mend", "--data", data).code).toBe(2);
    expect(arnik("store", "backup", "--data", data).code).toBe(2);
  });
});
