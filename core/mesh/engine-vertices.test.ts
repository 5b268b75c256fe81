import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cube, sphere } from "../../tests/shapes";
import { engineVertices } from "./engine-vertices";
import type { Mesh } from "./mesh";
import { faceCount } from "./mesh";

/** The same count by keys. */
function byKeys(mesh: Mesh): number {
  const keys = new Set<string>();
  for (let f = 0; f < faceCount(mesh); f++)
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
      keys.add(
        [
          mesh.corners[c],
          mesh.faceMaterials?.[f] ?? 0,
          ...[0, 1, 2].map((k) => Math.round(1000 * mesh.normals![3 * c + k])),
          ...(mesh.uvs ? [mesh.uvs[2 * c], mesh.uvs[2 * c + 1]] : []),
        ].join(" "),
      );
  return keys.size;
}

describe("vertices as an engine counts them", () => {
  it("are those that differ in place, material, normal or UV, whatever these are", () => {
    const few = fc.constantFrom(0, 0.5, 1, -1, 0.7071);
    fc.assert(
      fc.property(
        fc.array(few, { minLength: 72, maxLength: 72 }),
        fc.option(fc.array(few, { minLength: 48, maxLength: 48 })),
        fc.array(fc.nat(2), { minLength: 6, maxLength: 6 }),
        (normals, uvs, materials) => {
          const mesh: Mesh = {
            ...cube(),
            normals: Float32Array.from(normals),
            uvs: uvs && Float32Array.from(uvs),
            faceMaterials: Uint16Array.from(materials),
            materials: ["a", "b", "c"],
          };
          expect(engineVertices(mesh)).toEqual({
            places: 8,
            split: byKeys(mesh),
          });
        },
      ),
    );
  });

  it("are the places of a smooth body, and count none that no face uses", () => {
    const ball = sphere(20, 30);
    const { places, split } = engineVertices(ball);
    expect(split).toBe(places);
    const loose = {
      ...ball,
      positions: Float32Array.of(...ball.positions, 9, 9, 9),
    };
    expect(engineVertices(loose).places).toBe(places);
  });
});
