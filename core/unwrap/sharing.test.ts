import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { laidOn } from "../../tests/laid";
import { cube, joined, moved, sphere, torus } from "../../tests/shapes";
import { DEMO_ASSETS } from "../../demo/index";
import type { Asset } from "../asset/asset";
import { createPart } from "../asset/asset";
import { reduceTogether } from "../decimate/reduce-together";
import type { Mesh } from "../mesh/mesh";
import { agedBy } from "../asset/stale";
import { plainContext } from "../base/context";
import { bringUpToDate, describe as describeAsset } from "../route";
import { transformMesh } from "../mesh/transform";
import { findAlike } from "./methods/alike/find-alike";
import { TOLERANCE } from "./methods/alike/share-islands";
import type { RepeatRow } from "./operations/find-repeats";
import { measureUnwrap } from "./methods/measure";
import { islandsOf } from "./methods/connected-islands";
import { gatherIslands } from "./methods/sheet-islands";
import { SHEET, run, turned, wedge, assetOf } from "../../tests/sharing-run";

describe("pieces that are copies of one another", () => {
  const cases: [string, Mesh[]][] = [
    ["in meshes of their own", [wedge(), turned(wedge(), 0.7, 8)]],
    ["in one mesh", [joined(wedge(), turned(wedge(), 2, 8))]],
    [
      "with a body that is like neither",
      [
        joined(torus(18, 8), moved(wedge(), 5, 0, 0)),
        turned(wedge(), 1, 0),
        moved(sphere(10, 14), 0, 6, 0),
      ],
    ],
  ];
  it.each(cases)("get the same islands %s", async (_, meshes) => {
    const { asset } = await run(assetOf(meshes), "unwrap/unwrap", {
      rounds: 0,
    });
    const found = findAlike(
      asset.parts.map(({ game }) => game!),
      gatherIslands(
        asset.parts.map(({ game }) => game!),
        SHEET,
      ),
      TOLERANCE,
      plainContext(),
    );
    expect(found.length).toBeGreaterThan(0);
    const count = asset.parts.reduce(
      (sum, { game }) => sum + islandsOf(game!).count,
      0,
    );
    expect(asset.results.unwrap!.report.islands).toBe(count);
    expect(asset.results.unwrap!.report.overlap).toBe(0);
  });
});

describe("islands that are alike", () => {
  it("are found turned and mirrored, and others are not", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 6, noNaN: true }),
        fc.boolean(),
        (angle, mirror) => {
          const [one, ring] = laidOn(
            [wedge(), moved(torus(18, 8), 20, 0, 0)],
            SHEET,
            { islands: 99 },
          );
          const meshes = [one, turned(one, angle, 8, mirror), ring];
          const islands = gatherIslands(meshes, SHEET);
          const groups = findAlike(meshes, islands, TOLERANCE, plainContext());
          for (const { first, others } of groups)
            for (const other of others) {
              const ring = (i: number) => islands[i].mesh === 2;
              expect(ring(other.island)).toBe(ring(first));
              expect(islands[other.island].area).toBeCloseTo(
                islands[first].area,
                3,
              );
            }
          expect(groups.length).toBeGreaterThan(0);
        },
      ),
      { numRuns: 5, endOnFailure: true },
    );
  });

  it("are found however they are turned on the sheet", () => {
    const [one] = laidOn([wedge()], SHEET, { islands: 99 });
    const count = gatherIslands([one], SHEET).length;
    for (const angle of [0.3, 1.1, 2.5, 4]) {
      const [cos, sin] = [0.7 * Math.cos(angle), 0.7 * Math.sin(angle)];
      const uvs = one.uvs!.map((v, i, all) =>
        i % 2
          ? 0.5 + sin * (all[i - 1] - 0.5) + cos * (v - 0.5)
          : 0.5 + cos * (v - 0.5) - sin * (all[i + 1] - 0.5),
      );
      const meshes = [one, { ...one, uvs }];
      const groups = findAlike(
        meshes,
        gatherIslands(meshes, SHEET),
        TOLERANCE,
        plainContext(),
      );
      expect(
        groups.reduce((sum, { others }) => sum + others.length, 0),
      ).toBeGreaterThanOrEqual(count);
    }
  });

  it("lie exactly on each other once they share, and free what was foretold", async () => {
    const asset = assetOf([
      wedge(),
      turned(wedge(), 0.7, 8),
      turned(wedge(), 2, 16, true),
    ]);
    const laid = (
      await run(asset, "unwrap/unwrap", { rounds: 4, symmetric: false })
    ).asset;
    const found = await run(laid, "unwrap/find-repeats");
    const rows = found.report.groups as RepeatRow[];
    expect(rows.length).toBeGreaterThan(0);
    const before = measureUnwrap(
      laid.parts.map(({ game }) => game!),
      SHEET,
    );
    const shared = await run(laid, "unwrap/share", { only: "all" });
    expect(Number(shared.report.freed)).toBeCloseTo(
      Number(found.report.freed),
      2,
    );
    expect(shared.report.overlap).toBe(0);
    const after = measureUnwrap(
      shared.asset.parts.map(({ game }) => game!),
      SHEET,
    );
    expect(
      Math.abs(after.fill - before.fill * (1 - Number(found.report.freed))),
    ).toBeLessThan(0.02);
    // The list of what is alike says of each what has just been done, and is of what is there now.
    const { faces, count } = rows[0];
    const one = await run(found.asset, "unwrap/share", { faces, only: "all" });
    const sharedIn = ({ asset: at }: typeof one) =>
      at.reports["unwrap/find-repeats"].report.groups as RepeatRow[];
    expect(sharedIn(one)[0].shared).toBe(count - 1);
    expect(agedBy(describeAsset(one.asset), "unwrap/find-repeats")).toBe(null);
    const none = await run(one.asset, "unwrap/share", { faces, only: "none" });
    expect(sharedIn(none)[0].shared).toBe(0);
    const anew = await run(none.asset, "unwrap/pack", { rounds: 1 });
    expect(agedBy(describeAsset(anew.asset), "unwrap/find-repeats")).toBe(
      "UVs changed since",
    );
    // Every corner of a copy lies on a corner of what it shares.
    const own = new Set<string>();
    const copies: string[] = [];
    for (const { game } of shared.asset.parts)
      for (let f = 0; f + 1 < game!.faceStarts.length; f++)
        for (let c = game!.faceStarts[f]; c < game!.faceStarts[f + 1]; c++) {
          const at = `${game!.uvs![2 * c]} ${game!.uvs![2 * c + 1]}`;
          if (game!.copies?.[f]) copies.push(at);
          else own.add(at);
        }
    expect(copies.length).toBeGreaterThan(0);
    for (const at of copies) expect(own.has(at)).toBe(true);
    const packed = await run(shared.asset, "unwrap/pack", { rounds: 4 });
    expect(packed.report.overlap).toBe(0);
    expect(Number(packed.report.density)).toBeGreaterThan(
      Number(shared.report.density),
    );
    const unique = await run(packed.asset, "unwrap/share", { only: "none" });
    expect(unique.asset.parts.every(({ game }) => !game!.copies)).toBe(true);
  });

  it("lie on each other again when all is unwrapped anew, and not once they were set free", async () => {
    const asset = assetOf([wedge(), turned(wedge(), 0.7, 8)]);
    const options = { rounds: 2, symmetric: false };
    let at = (await run(asset, "unwrap/unwrap", options)).asset;
    at = (await run(at, "unwrap/share", { only: "all" })).asset;
    const copied = ({ parts }: Asset) =>
      parts.some(({ game }) => game!.copies?.some(Boolean));
    at = (await run(at, "unwrap/unwrap", options)).asset;
    expect(copied(at)).toBe(true);
    expect(at.results.unwrap!.report.overlap).toBe(0);
    at = (await run(at, "unwrap/share", { only: "none" })).asset;
    at = (await run(at, "unwrap/unwrap", options)).asset;
    expect(copied(at)).toBe(false);
  });

  it("are packed by the options of the last packing when the mesh has changed", async () => {
    let at = assetOf([wedge(), moved(torus(18, 8), 20, 0, 0)]);
    at = (await run(at, "unwrap/unwrap", { rounds: 2, stretch: 1.06 })).asset;
    at = (await run(at, "unwrap/pack", { rounds: 1, rotate: "none" })).asset;
    const { operation, options } = at.results.unwrap!;
    expect(operation).toBe("unwrap/unwrap");
    expect(options).toMatchObject({ stretch: 1.06, rotate: "none" });
    const changed: Asset = {
      ...at,
      parts: [
        createPart("p0", 0, { game: moved(wedge(), 0, 3, 0) }),
        at.parts[1],
      ],
    };
    const { asset: next } = await bringUpToDate(changed, plainContext());
    expect(next.parts.every(({ game }) => game!.uvs)).toBe(true);
  });

  it("share only where no two are seen together, unless asked", async () => {
    // One wedge is walled in: nobody sees it with the other.
    const wall = (
      x: number,
      y: number,
      z: number,
      sx: number,
      sy: number,
      sz: number,
    ) =>
      transformMesh(cube(), [
        sx,
        0,
        0,
        0,
        0,
        sy,
        0,
        0,
        0,
        0,
        sz,
        0,
        x,
        y,
        z,
        1,
      ]);
    const room = joined(
      wall(10, 4, 0, 5, 0.2, 5),
      wall(10, -4, 0, 5, 0.2, 5),
      wall(5, 0, 0, 0.2, 5, 5),
      wall(15, 0, 0, 0.2, 5, 5),
      wall(10, 0, 4.5, 5, 5, 0.2),
      wall(10, 0, -4.5, 5, 5, 0.2),
    );
    const hidden = assetOf([wedge(), turned(wedge(), 1, 10), room]);
    const open = assetOf([wedge(), turned(wedge(), 0, 10)]);
    for (const [asset, free] of [
      [hidden, true],
      [open, false],
    ] as const) {
      const laid = (
        await run(asset, "unwrap/unwrap", {
          rounds: 2,
          hide: 0,
          islands: 99,
          symmetric: false,
        })
      ).asset;
      const rows = (await run(laid, "unwrap/find-repeats")).report
        .groups as RepeatRow[];
      const wedges = rows.filter(
        ({ parts, size }) =>
          parts.includes("p0") && parts.includes("p1") && size > 24,
      );
      expect(wedges.length).toBeGreaterThan(0);
      expect(wedges.every((row) => row.free)).toBe(free);
    }
  });

  it("are all found on the crate's slats, none wrong", async () => {
    const crate = DEMO_ASSETS["fish-crate"]();
    const slats = crate.parts.filter(({ source }) => source);
    const game = reduceTogether([slats[0].source!], 60, plainContext())[0]!;
    const copies = [0, 1, 2, 3].map((i) => turned(game, i, 2 * i, i === 3));
    const laid = (
      await run(assetOf(copies), "unwrap/unwrap", {
        rounds: 2,
        hide: 0,
        symmetric: false,
        islands: 4000,
      })
    ).asset;
    const rows = (await run(laid, "unwrap/find-repeats")).report
      .groups as RepeatRow[];
    const islands = islandsOf(laid.parts[0].game!).count;
    const found = rows.reduce((sum, row) => sum + row.count, 0);
    expect(found).toBeGreaterThanOrEqual(4 * islands - 2);
  });
});
