import { describe, expect, it } from "vitest";
import { cube, moved, sphere } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { texelDensityOf, densitySeenFrom, sheetFor } from "../asset/density";
import { previewOf } from "../decimate/kept-record";
import { errorCurves } from "../decimate/collapse-record";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import { boundsOf } from "../space/bounds";
import { translation } from "../mesh/transform";
import { run } from "../../tests/intake-run";

describe("scale", () => {
  const asset = createAsset("a", [
    createPart("box", 0, { source: cube(), game: cube() }),
    createPart("copy", 1, {
      source: moved(cube(), 5, 0, 0),
      repeat: { of: "box", matrix: translation(5, 0, 0) },
    }),
  ]);
  const extent = (each: Asset, i: number) =>
    boundsOf(each.parts[i].source!.positions);

  it("follows from a height, copies keeping their places", async () => {
    const { asset: set, report } = await run("scale", asset, { height: 1 });
    expect(report.factor).toBeCloseTo(0.5);
    expect(extent(set, 0).max[1]).toBeCloseTo(0.5, 6);
    expect(extent(set, 1).max[0]).toBeCloseTo(3, 5);
    expect(set.parts[0].game!.positions).toEqual(
      set.parts[0].source!.positions,
    );
  });

  it("takes levels, the unwrap before and the record of the reduction along", async () => {
    const ball = sphere(20, 30, 1, (a, t) => 0.05 * Math.sin(3 * a) * t);
    const source = moved(ball, 2, 3, -1);
    const { asset: reduced } = await runOperation(
      findOperation("reduce/to-budget"),
      createAsset("a", [createPart("p", 0, { source })]),
      { triangles: 200, symmetry: "find" },
      plainContext(),
    );
    const [part] = reduced.parts;
    const before = {
      ...reduced,
      parts: [{ ...part, previousUnwrap: part.game, levels: [part.game!] }],
    };
    const { asset: after } = await run("scale", before, {
      factor: 3,
      turn: "x+",
    });
    const [scaled] = after.parts;
    expect(scaled.previousUnwrap!.positions).toEqual(scaled.game!.positions);
    expect(scaled.levels[0].positions).toEqual(scaled.game!.positions);
    for (const budget of [60, 150]) {
      const then = previewOf(before.record!, budget).get("p")!;
      const now = previewOf(after.record!, budget).get("p")!;
      expect([...now.corners]).toEqual([...then.corners]);
      then.positions.forEach((_, i) => {
        const [x, y, z] = then.positions.slice(i - (i % 3), i - (i % 3) + 3);
        expect(now.positions[i]).toBeCloseTo(3 * [x, -z, y][i % 3], 4);
      });
    }
    const curve = (asset: Asset) =>
      errorCurves(asset.record!.record).all.rms.at(-3)!;
    expect(curve(after) / curve(before)).toBeCloseTo(3, 3);
  });

  it("turns exactly and puts on the ground", async () => {
    const tall = createAsset("a", [
      createPart("p", 0, { source: moved(sphere(), 0, 0, 7) }),
    ]);
    const { asset: turned } = await run("scale", tall, { turn: "x-" });
    expect(extent(turned, 0).max[1]).toBeCloseTo(8, 5);
    const { asset: stood } = await run("scale", turned, { ground: true });
    expect(extent(stood, 0).min[1]).toBeCloseTo(0, 6);
    await expect(
      run("scale", createAsset("none"), { height: 2 }),
    ).rejects.toThrow(/no height/);
  });
});

describe("the brief", () => {
  it("gives texels from where the asset is seen, and the sheet from texels", async () => {
    expect(densitySeenFrom(1, 1000, 90)).toBeCloseTo(500, 6);
    expect(texelDensityOf(1024, 0.6)).toBeCloseTo(1024, 6);
    expect(sheetFor(1000, 0.6)).toBe(1024);
    expect(sheetFor(1e9, 0.6)).toBe(4096);
    const asset = createAsset("a", [createPart("box", 0, { source: cube() })]);
    const { asset: set } = await run("brief", asset, {
      by: "seen",
      seenFrom: 4,
      screen: 1080,
    });
    expect(set.brief.texelsPerMetre).toBe(234);
    expect(set.brief.sheetSize).toBe(sheetFor(234, 24));
  });

  it("takes levels of detail that fall", async () => {
    const asset = createAsset("a");
    const { asset: set } = await run("brief", asset, {
      triangles: 8000,
      levels: "3000, 800",
    });
    expect(set.brief.levels).toEqual([3000, 800]);
    await expect(
      run("brief", asset, { triangles: 8000, levels: "9000" }),
    ).rejects.toThrow(/smaller/);
    await expect(run("brief", asset, { levels: "some" })).rejects.toThrow(
      /smaller/,
    );
  });

  it("fixes a part's triangles or gives it a share, not both", async () => {
    const asset = createAsset("a", [createPart("box", 0, { source: cube() })]);
    const { report } = await run("part-rules", asset, { share: 20 });
    expect(report.summary).toBe("all parts: 20\u2009% of the budget");
    const own = { parts: ["box"], budget: 400, capped: true, locked: true };
    expect((await run("part-rules", asset, own)).report.summary).toBe(
      "box: 400 triangles at most of its own, locked",
    );
    expect(report.fixedTriangles).toBe(1000);
    await expect(
      run("part-rules", asset, { share: 20, budget: 4 }),
    ).rejects.toThrow(/not both/);
  });
});
