import { describe, expect, it } from "vitest";
import {
  glb,
  hostileFiles,
  soundGltf,
  triangleData,
} from "../../tests/hostile-files";
import { triangleCount } from "../mesh/mesh";
import { readMeshFiles } from "./index";

/** What is looked up in a file that lies takes no time; what is made for what it promises takes minutes, ms. */
const AT_ONCE = 20_000;

describe("counts that promise more than a file holds", () => {
  it.each(hostileFiles().map((file) => [file.name, file] as const))(
    "%s is refused at once, naming the place",
    async (name, { bytes, says }) => {
      const refused = readMeshFiles([{ name, bytes }]);
      await expect(refused).rejects.toMatchObject({ name: "MeshFormatError" });
      await expect(refused).rejects.toThrow(says);
      await expect(refused).rejects.toThrow(name);
    },
    AT_ONCE,
  );

  it("are not found in a sound file", async () => {
    const { parts } = await readMeshFiles([
      { name: "a.glb", bytes: glb(soundGltf(), triangleData()) },
    ]);
    expect(triangleCount(parts[0].mesh)).toBe(1);
  });
});

describe("an OBJ of many pieces over many vertices", () => {
  it(
    "costs what its pieces use, not what the file has for each",
    async () => {
      const vertices = 200_000;
      const text = [
        ...Array.from({ length: vertices }, (_, i) => `v ${i} 0 ${i % 7}`),
        ...Array.from(
          { length: 5000 },
          (_, i) => `g ${i}\nf 1 ${i + 2} ${vertices}`,
        ),
      ].join("\n");
      const { parts } = await readMeshFiles([
        { name: "a.obj", bytes: new TextEncoder().encode(text) },
      ]);
      expect(parts).toHaveLength(5000);
      expect(parts[7].mesh.positions).toEqual(
        Float32Array.of(0, 0, 0, 8, 0, 1, vertices - 1, 0, (vertices - 1) % 7),
      );
    },
    AT_ONCE,
  );
});
