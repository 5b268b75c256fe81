import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { squareSheet } from "../../../tests/laid";
import { one } from "../../../tests/one-part";
import { cube, joined, moved, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { meshFromTriangles } from "../../mesh/change-faces";
import { plainContext } from "../../base/context";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";
import { measureUnwrap } from "../methods/measure";
import { packIslands } from "../methods/pack";
import { bulkOf } from "../methods/pack/turned";

describe("packing", () => {
  const square = (edge: number) => ({
    triangles: Float64Array.from([
      0,
      0,
      edge,
      0,
      edge,
      edge,
      0,
      0,
      edge,
      edge,
      0,
      edge,
    ]),
  });

  it("never lets islands touch, and fills well", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.double({ min: 0.05, max: 1, noNaN: true }),
            fc.double({ min: 0.05, max: 1, noNaN: true }),
          ),
          { minLength: 1, maxLength: 24 },
        ),
        (sizes) => {
          const items = sizes.map(([w, h]) => ({
            triangles: Float64Array.from([0, 0, w, 0, w, h, 0, 0, w, h, 0, h]),
          }));
          const { placements, texelsPerMetre } = packIslands(
            items,
            { ...squareSheet(256, 2), texelsPerMetre: 0, rounds: 3 },
            () => {},
          );
          const boxes = placements.map(({ angle, x, y }, i) => {
            const corners = [0, 2, 4, 8].map((k) => {
              const [u, v] = [items[i].triangles[k], items[i].triangles[k + 1]];
              return [
                x +
                  texelsPerMetre * (Math.cos(angle) * u - Math.sin(angle) * v),
                y +
                  texelsPerMetre * (Math.sin(angle) * u + Math.cos(angle) * v),
              ];
            });
            for (const [px, py] of corners) {
              expect(Math.min(px, py)).toBeGreaterThan(-1e-6);
              expect(Math.max(px, py)).toBeLessThan(256 + 1e-6);
            }
            return corners;
          });
          const axis = (corners: number[][]) =>
            corners.every(
              ([px], i) =>
                i === 0 ||
                Math.abs(px - corners[0][0]) < 1e-6 ||
                Math.abs(corners[i][1] - corners[0][1]) < 1e-6 ||
                i === 2,
            );
          boxes.forEach((a, i) =>
            boxes.slice(i + 1).forEach((b) => {
              if (!axis(a) || !axis(b)) return;
              const range = (list: number[][], k: number) => [
                Math.min(...list.map((p) => p[k])),
                Math.max(...list.map((p) => p[k])),
              ];
              const apart = [0, 1].some(
                (k) =>
                  range(a, k)[1] <= range(b, k)[0] + 1e-6 ||
                  range(b, k)[1] <= range(a, k)[0] + 1e-6,
              );
              expect(apart).toBe(true);
            }),
          );
        },
      ),
      { numRuns: 15 },
    );
  });

  it("keeps to a wanted density, or says that it does not fit", () => {
    expect(
      packIslands(
        [square(1)],
        { ...squareSheet(256, 4), texelsPerMetre: 100, rounds: 6 },
        () => {},
      ).texelsPerMetre,
    ).toBe(100);
    expect(() =>
      packIslands(
        [square(1)],
        { ...squareSheet(256, 4), texelsPerMetre: 400, rounds: 6 },
        () => {},
      ),
    ).toThrow(/do not fit on a sheet of 256 × 256 px at 400/);
  });

  it("survives nothing and islands without area", () => {
    expect(
      packIslands(
        [],
        { ...squareSheet(64, 2), texelsPerMetre: 0, rounds: 6 },
        () => {},
      ).placements,
    ).toEqual([]);
    expect(
      packIslands(
        [{ triangles: new Float64Array(6) }, square(1)],
        { ...squareSheet(64, 2), texelsPerMetre: 0, rounds: 6 },
        () => {},
      ).placements,
    ).toHaveLength(2);
    expect(bulkOf(square(2))).toBeCloseTo(1, 6);
  });
});

describe("pack only", () => {
  it("keeps the islands and evens out their density", async () => {
    const asset = createAsset("a", [
      createPart("ball", 0, { game: sphere(12, 16) }),
    ]);
    const first = await runOperation(
      findOperation("unwrap/unwrap"),
      asset,
      { size: 256 },
      plainContext(),
    );
    const second = await runOperation(
      findOperation("unwrap/pack"),
      first.asset,
      { size: 256, padding: 2 },
      plainContext(),
    );
    expect(second.report.islands).toBe(first.report.islands);
    expect(second.report).toMatchObject({ overlap: 0, flipped: 0 });
    await expect(
      runOperation(findOperation("unwrap/pack"), asset, {}, plainContext()),
    ).rejects.toThrow(/unwrap first/);
  });
});

it("deals islands out over several tiles at one density, as dense as all of them go", async () => {
  const run = async (asset: Asset, id: string, options: object) =>
    runOperation(findOperation(id), asset, options, plainContext());
  // Boards of many sizes, as a crate has them.
  const board = cube();
  const boards = joined(
    ...Array.from({ length: 40 }, (_, i) => {
      const size = [0.2 + 0.02 * i, 0.03, 0.1];
      const positions = board.positions.map((x, k) => x * size[k % 3]);
      return moved({ ...board, positions }, 0, i, 0);
    }),
  );
  const laid = await run(one(boards), "unwrap/unwrap", {
    size: 512,
    rounds: 1,
  });
  for (const tiles of [2, 5]) {
    const { report } = await run(laid.asset, "unwrap/pack", {
      ...{ size: 512, rounds: 1, tiles },
    });
    expect(report).toMatchObject({ tiles, overlap: 0, flipped: 0 });
    expect(report.fill).toBeGreaterThan(0.6);
    expect(Number(report.densityMax) / Number(report.densityMin)).toBeLessThan(
      1.05,
    );
  }
});

it("counts a triangle without area as turned over where it covers texels the wrong way round", () => {
  const mesh = meshFromTriangles(
    new Float32Array([0, 0, 0, 1, 0, 0, 2, 0, 0, 1, 1, 0]),
    new Uint32Array([0, 1, 2, 0, 2, 3]),
  );
  const sheet = { width: 64, height: 64 };
  const flippedAt = (u: number, v: number) =>
    measureUnwrap(
      [
        {
          ...mesh,
          uvs: new Float32Array([
            0,
            0.2,
            u,
            v,
            1,
            0.2,
            0,
            0.2,
            1,
            0.2,
            0.5,
            0.9,
          ]),
        },
      ],
      sheet,
    ).flipped;
  expect(flippedAt(0.5, 0.2)).toBe(0);
  expect(flippedAt(0.5, 0.7)).toBe(1);
});
