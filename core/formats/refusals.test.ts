import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, joined } from "../../tests/shapes";
import { ArnikError } from "../base/errors";
import { triangleCount, vertexCount } from "../mesh/mesh";
import { endingOf, isMeshFile, readMeshFiles, writeMeshFile } from "./index";
import { distinctNames, safeName } from "./raw-mesh";
import { read, refusal } from "../../tests/format-run";

describe("repairs and refusals", () => {
  it("leaves out what can't be mended and says how much", async () => {
    const { parts, notes } = await read(
      "a.obj",
      "v 0 0 0\nv 1 0 0\nv 0 1 0\nv nan 0 0\nv 0 0 inf\nf 1 2 3\nf 1 2 4\nf 1 2\nf 1\nf 1 1 2 3\nf 5 1 2\n",
    );
    expect(triangleCount(parts[0].mesh)).toBe(2);
    expect(notes.join("; ")).toMatch(
      /2 faces with coordinates that are no numbers.*2 faces with fewer than three corners.*1 faces with repeated corners/,
    );
  });

  it("refuses empty files, other files, and files of which nothing is left", async () => {
    expect(await refusal("a.obj", "")).toBe("a.obj: the file is empty");
    expect(await refusal("a.txt", "hello")).toMatch(/not a mesh file/);
    expect(await refusal("a.obj", "v 0 0 0\nv 1 0 0\nf 1 2\n")).toMatch(
      /nothing usable is left/,
    );
    await expect(readMeshFiles([])).rejects.toThrow(/not a mesh file/);
  });

  it("keeps zero-area faces for the survey to find", async () => {
    const { parts } = await read(
      "a.obj",
      "v 0 0 0\nv 1 0 0\nv 2 0 0\nv 0 1 0\nf 1 2 3\nf 1 2 4\n",
    );
    expect(triangleCount(parts[0].mesh)).toBe(2);
  });

  it("makes names safe and distinct", async () => {
    const { parts } = await read(
      "a.obj",
      'v 0 0 0\nv 1 0 0\nv 0 1 0\no ../../etc/passwd\nf 1 2 3\no <img src=x>"\nf 1 2 3\n',
    );
    for (const { name } of parts) expect(name).not.toMatch(/[/\\<>"]|^\./);
    expect(distinctNames(["a", "a", "b", "a"])).toEqual([
      "a",
      "a.2",
      "b",
      "a.3",
    ]);
    expect(safeName("\u0000..", "part")).toBe("part");
    expect(safeName("x".repeat(500), "part")).toHaveLength(80);
    expect(endingOf("dir.x/a.GLB")).toBe("glb");
    expect(isMeshFile("a.png")).toBe(false);
  });

  it("never throws anything but a clear error, whatever the bytes", async () => {
    const seeds = await Promise.all(
      ["obj", "ply", "stl", "glb", "gltf"].map(async (ending) => ({
        ending,
        bytes: await writeMeshFile(`a.${ending}`, [
          { name: "a", mesh: joined(cube()) },
        ]),
      })),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...seeds),
        fc.array(fc.tuple(fc.nat(), fc.nat(255)), { maxLength: 12 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        async ({ ending, bytes }, changes, cut) => {
          const damaged = bytes.slice(
            0,
            Math.ceil(bytes.length * (cut < 0.5 ? 1 : cut)),
          );
          for (const [at, value] of changes)
            damaged[at % damaged.length] = value;
          try {
            const { parts } = await read(`a.${ending}`, damaged);
            for (const { mesh } of parts)
              for (const v of mesh.corners)
                expect(v).toBeLessThan(vertexCount(mesh));
          } catch (error) {
            expect(error).toBeInstanceOf(ArnikError);
            expect((error as Error).message).toContain(`a.${ending}`);
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  it("never throws anything but a clear error on words at random", async () => {
    const word = fc.constantFrom(
      "v",
      "vt",
      "vn",
      "f",
      "o",
      "g",
      "s",
      "usemtl",
      "ply",
      "element",
      "vertex",
      "face",
      "solid",
      "1",
      "-1",
      "0",
      "1e9",
      "nan",
      "1/2/3",
      "//",
      "\n",
      "\n",
      "\\\n",
      "property",
      "list",
    );
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom("obj", "ply", "stl", "gltf"),
        fc.array(word, { maxLength: 60 }),
        async (ending, words) => {
          const error = await read(`a.${ending}`, words.join(" ")).then(
            () => null,
            (reason: unknown) => reason,
          );
          if (error) expect(error).toBeInstanceOf(ArnikError);
        },
      ),
      { numRuns: 300 },
    );
  });
});
