import { describe, expect, it } from "vitest";
import { triangleCount } from "../mesh/mesh";
import { readMeshFiles } from "./index";

const read = (name: string, content: string | Uint8Array) =>
  readMeshFiles([
    {
      name,
      bytes:
        typeof content === "string"
          ? new TextEncoder().encode(content)
          : content,
    },
  ]);

const triangle = "o bücher\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n";

function utf16(text: string, little: boolean): Uint8Array {
  const bytes = new Uint8Array(2 + 2 * text.length);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, 0xfeff, little);
  for (let i = 0; i < text.length; i++)
    view.setUint16(2 + 2 * i, text.charCodeAt(i), little);
  return bytes;
}

describe("text files", () => {
  it("are read with a byte order mark, in UTF-8 and both orders of UTF-16", async () => {
    for (const content of [
      triangle,
      `\ufeff${triangle}`,
      utf16(triangle, true),
      utf16(triangle, false),
    ]) {
      const { parts } = await read("a.obj", content);
      expect(parts.map(({ name }) => name)).toEqual(["bücher"]);
      expect(triangleCount(parts[0].mesh)).toBe(1);
    }
  });

  it("of points or lines say that they hold no faces, and how many points", async () => {
    await expect(read("p.obj", "v 0 0 0\nv 1 0 0\nl 1 2\n")).rejects.toThrow(
      "p.obj: it holds no faces, only 2 points and 1 lines",
    );
    await expect(
      read(
        "p.ply",
        "ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n1 0 0\n",
      ),
    ).rejects.toThrow("p.ply: it holds no faces, only 2 points");
  });
});

describe("triangle strips of PLY", () => {
  it("are triangles that face one way, several strips in one list", async () => {
    const points = [0, 1, 2]
      .flatMap((x) => [`${x} 1 0`, `${x} 0 0`])
      .join("\n");
    const { parts } = await read(
      "strips.ply",
      `ply\nformat ascii 1.0\nelement vertex 6\nproperty float x\nproperty float y\nproperty float z\nelement tristrips 1\nproperty list int int vertex_indices\nend_header\n${points}\n10 0 1 2 3 4 5 -1 0 1 2\n`,
    );
    const { positions: p, corners } = parts[0].mesh;
    expect(corners.length / 3).toBe(5);
    for (let c = 0; c < corners.length; c += 3) {
      const [a, b, d] = [0, 1, 2].map((k) => 3 * corners[c + k]);
      const turn =
        (p[b] - p[a]) * (p[d + 1] - p[a + 1]) -
        (p[b + 1] - p[a + 1]) * (p[d] - p[a]);
      expect(turn).toBeGreaterThan(0);
    }
    await expect(
      read(
        "strips.ply",
        `ply\nformat ascii 1.0\nelement vertex 6\nproperty float x\nproperty float y\nproperty float z\nelement tristrips 1\nproperty list int int vertex_indices\nend_header\n${points}\n3 0 1 9\n`,
      ),
    ).rejects.toThrow(/tristrips 1 of 1 names vertex 9, but there are 6/);
  });
});
