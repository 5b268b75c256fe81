import fc from "fast-check";
import { expect, it } from "vitest";
import { laidOn, squareSheet } from "../../tests/laid";
import { cube } from "../../tests/shapes";
import { faceCount } from "./mesh";
import { tileAt, tileOf, tileOfFaces, tilesUsed, udimOf } from "./tiles";

it("tiles lie side by side and row upon row, by the UDIM convention", () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 99 }),
      fc.double({ min: 0.01, max: 0.99, noNaN: true }),
      (tile, off) => {
        const [right, up] = tileAt(tile);
        expect(tileOf(right + off, up + off)).toBe(tile);
        expect(udimOf(tile)).toBe(1001 + right + 10 * up);
      },
    ),
  );
  for (const [u, v] of [
    [-0.1, 0.5],
    [10.1, 0.5],
    [0.5, -0.1],
    [0.5, 10.1],
  ])
    expect(tileOf(u, v)).toBe(-1);
});

it("faces lie on the tile that their middle does, and meshes on those of their faces", () => {
  const [laid] = laidOn([cube()], squareSheet(64));
  const moved = (right: number, up: number) => ({
    ...laid,
    uvs: laid.uvs!.map((x, i) => x + (i % 2 ? up : right)),
  });
  expect(tileOfFaces(moved(2, 1))).toEqual(
    new Int32Array(faceCount(laid)).fill(12),
  );
  expect(tilesUsed([moved(2, 1), moved(0, 0), moved(2, 1)])).toEqual([0, 12]);
  // Where nothing lies on one, the first is meant.
  expect(tilesUsed([cube(), moved(-3, 0)])).toEqual([0]);
});
