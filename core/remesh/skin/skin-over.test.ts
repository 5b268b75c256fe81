import { describe, expect, it } from "vitest";
import { cube, joined, moved, sphere, torus } from "../../../tests/shapes";
import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { sampleSurface } from "../../space/sample";
import { faceComponents } from "../../mesh/components";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { skinOver } from "./skin-over";
import { WindingNumber } from "../../space/winding-number";

function volume(mesh: Mesh): number {
  const { vertices } = triangulate(mesh);
  const p = mesh.positions;
  let sum = 0;
  for (let i = 0; i < vertices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * vertices[i + k]);
    sum +=
      (p[a] * (p[b + 1] * p[c + 2] - p[b + 2] * p[c + 1]) -
        p[a + 1] * (p[b] * p[c + 2] - p[b + 2] * p[c]) +
        p[a + 2] * (p[b] * p[c + 1] - p[b + 1] * p[c])) /
      6;
  }
  return sum;
}

describe("winding number", () => {
  it("is 1 inside, 0 outside, and adds up where bodies overlap", () => {
    const body = joined(sphere(24, 32), moved(sphere(24, 32), 1, 0, 0));
    const winding = new WindingNumber(
      buildBvh(body.positions, triangulate(body).vertices),
    );
    expect(winding.at(-0.6, 0, 0)).toBeCloseTo(1, 2);
    expect(winding.at(0.5, 0, 0)).toBeCloseTo(2, 1);
    expect(winding.at(0, 3, 0)).toBeCloseTo(0, 2);
  });
});

describe("skin over", () => {
  const cases: [string, Mesh[]][] = [
    ["a ball", [sphere(40, 60)]],
    [
      "two balls through each other",
      [sphere(40, 60), moved(sphere(40, 60), 0.7, 0.3, 0)],
    ],
    [
      "a cube, a ball and a ring",
      [
        cube(),
        moved(sphere(40, 60, 0.8), 0.9, 0.9, 0.2),
        torus(60, 30, 1.6, 0.25),
      ],
    ],
    ["two cubes that only touch at an edge", [cube(), moved(cube(), 2, 2, 0)]],
  ];
  for (const [name, pieces] of cases)
    for (const cells of [18, 40])
      it(`of ${name} at ${cells} cells is closed, manifold and near`, () => {
        const skin = skinOver(pieces, cells, () => {});
        expect([...buildEdges(skin).uses].every((uses) => uses === 2)).toBe(
          true,
        );
        expect(volume(skin)).toBeGreaterThan(0);
        const all = joined(...pieces);
        const closest = new ClosestPoint(
          buildBvh(all.positions, triangulate(all).vertices),
        );
        const { points } = sampleSurface(
          skin.positions,
          triangulate(skin).vertices,
          3000,
        );
        let sum = 0;
        for (let i = 0; i < points.length; i += 3) {
          closest.find(points[i], points[i + 1], points[i + 2]);
          sum += closest.distance2;
        }
        const span = Math.max(
          ...[0, 1, 2].map((k) => {
            const own = all.positions.filter((_, i) => i % 3 === k);
            return Math.max(...own) - Math.min(...own);
          }),
        );
        expect(Math.sqrt(sum / 3000)).toBeLessThan((0.5 * span) / cells);
      });

  it("keeps sharp edges and takes insides out", () => {
    const inner = { ...cube(), positions: cube().positions.map((x) => x / 2) };
    const skin = skinOver([cube(), inner], 30, () => {});
    expect(faceComponents(skin).count).toBe(1);
    expect(volume(skin)).toBeCloseTo(8, 2);
  });
});
