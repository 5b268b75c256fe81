import { expect, it } from "vitest";
import { cube, sphere } from "../../tests/shapes";
import { createMesh, meshFromTriangles } from "./change-faces";
import { diagonalsOf } from "./diagonals";
import { triangleCount } from "./mesh";
import { triangulate } from "./triangulate";

it("triangulating adds an edge for every triangle beyond the first of a face", () => {
  for (const mesh of [cube(), sphere(5, 7)])
    expect(diagonalsOf(mesh).length / 2).toBe(
      triangleCount(mesh) - (mesh.faceStarts.length - 1),
    );
});

it("none is added to triangles, and n − 3 to a face of n corners, none along its sides", () => {
  const box = cube();
  const split = meshFromTriangles(box.positions, triangulate(box).vertices);
  expect(diagonalsOf(split)).toHaveLength(0);
  const round = Array.from({ length: 9 }, (_, i) => [
    Math.cos((2 * Math.PI * i) / 9),
    0,
    Math.sin((2 * Math.PI * i) / 9),
  ]);
  const plate = createMesh({
    positions: Float32Array.from(round.flat()),
    corners: Uint32Array.from({ length: 9 }, (_, i) => i),
    faceStarts: Uint32Array.of(0, 9),
  });
  const pairs = diagonalsOf(plate);
  expect(pairs).toHaveLength(2 * 6);
  for (let i = 0; i < pairs.length; i += 2)
    expect([1, 8]).not.toContain(Math.abs(pairs[i] - pairs[i + 1]));
});
