import { expect, it } from "vitest";
import { boxMesh } from "../../core/mesh/collider-shape";
import { WORLD_AXES } from "../../core/space/principal-axes";
import { volumeOf } from "../../core/collide/methods/convex-hull";
import { inPieces } from "./hull-heat";

it("pieces of a hull are small against it, and make up the same body", () => {
  const box = boxMesh(WORLD_AXES, [
    [0, 1],
    [0, 2],
    [0, 4],
  ]);
  const { positions, triangles } = inPieces(box);
  expect(volumeOf(positions, triangles)).toBeCloseTo(8, 4);
  expect(Math.max(...triangles)).toBe(positions.length / 3 - 1);
  let longest = 0;
  for (let t = 0; t < triangles.length; t++) {
    const a = triangles[t];
    const b = triangles[t % 3 === 2 ? t - 2 : t + 1];
    longest = Math.max(
      longest,
      Math.hypot(
        ...[0, 1, 2].map((k) => positions[3 * a + k] - positions[3 * b + k]),
      ),
    );
  }
  expect(longest).toBeLessThan(4.5 / 10);
});
