import { describe, expect, it } from "vitest";
import type { BakedMap } from "../base/pictures";
import { meshFromTriangles } from "../mesh/change-faces";
import type { DrawnLook } from "./drawing";
import { BONE, Drawing } from "./drawing";

const SIZE = 64;

/** A square of two triangles that faces the eye, its UVs filling the sheet. */
const square = () => {
  const places = [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0];
  const triangles = [0, 1, 2, 0, 2, 3];
  const mesh = meshFromTriangles(
    Float32Array.from(places),
    Uint32Array.from(triangles),
  );
  const uvs = triangles.flatMap((v) =>
    [0, 1].map((k) => (places[3 * v + k] + 1) / 2),
  );
  return { mesh: { ...mesh, uvs: Float32Array.from(uvs) }, tint: BONE };
};

const flat = (kind: "normal" | "ao", value: readonly number[]): BakedMap => ({
  ...{ kind, width: 2, height: 2, depth: 8 },
  channels: value.length as 1 | 3,
  pixels: Uint8Array.from([0, 1, 2, 3].flatMap(() => value)),
});

function drawn(look: DrawnLook, maps: BakedMap[] = []) {
  const pixels = new Drawing([square()], maps).draw({
    back: [0, 0, 1],
    ...{ look, width: SIZE, height: SIZE },
  });
  const at = (x: number, y: number) => [
    ...pixels.subarray(3 * (y * SIZE + x), 3 * (y * SIZE + x) + 3),
  ];
  return { pixels, at };
}

const light = (colour: number[]) => colour[0] + colour[1] + colour[2];

describe("a drawing", () => {
  it("shows occlusion and the normals of maps", () => {
    const middle = (maps: BakedMap[]) => light(drawn("baked", maps).at(30, 34));
    const plain = middle([flat("normal", [128, 128, 255])]);
    expect(middle([flat("ao", [128])])).toBeLessThan(0.6 * plain);
    // The light comes from the upper left.
    expect(middle([flat("normal", [60, 128, 230])])).toBeGreaterThan(
      1.02 * middle([flat("normal", [196, 128, 230])]),
    );
    expect(middle([flat("normal", [128, 196, 230])])).toBeGreaterThan(
      1.02 * middle([flat("normal", [128, 60, 230])]),
    );
  });

  it("shows triangles by their sides, and the checker by the UVs", () => {
    const wire = drawn("wire");
    const plain = drawn("plain");
    const changed = wire.pixels.filter((x, i) => x !== plain.pixels[i]).length;
    expect(changed).toBeGreaterThan(3 * SIZE);
    expect(changed).toBeLessThan(wire.pixels.length / 4);
    const colours = new Set<string>();
    const checker = drawn("checker");
    for (let x = 20; x < 44; x++) colours.add(checker.at(x, 32).join());
    expect(colours.size).toBeGreaterThan(1);
  });

  it("is the same picture twice", () => {
    expect(drawn("wire").pixels).toEqual(drawn("wire").pixels);
  });
});
