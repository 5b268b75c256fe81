import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../tests/laid";
import { cube, moved, sphere } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { areaOf } from "../mesh/area";
import { faceCount } from "../mesh/mesh";
import { plainContext } from "../base/context";
import { bringUpToDate, staleStages } from "../route";
import { checkUvs } from "./methods/check";
import { gatherIslands } from "./methods/sheet-islands";
import { SHEET, assetOf, run, laid, gameOf } from "../../tests/unwrapped";

describe("findings", () => {
  it("name overlaps, flips, what lies outside, has no area or stands too near", () => {
    const mesh = laid(cube());
    const find = (
      change: (u: number, v: number, face: number) => [number, number],
    ) => {
      const uvs = mesh.uvs!.slice();
      for (let f = 0; f < faceCount(mesh); f++)
        for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
          uvs.set(change(uvs[2 * c], uvs[2 * c + 1], f), 2 * c);
      const broken = { ...mesh, uvs };
      return checkUvs(
        ["box"],
        [broken],
        gatherIslands([broken], SHEET),
        SHEET,
      ).findings.map(({ kind }) => kind);
    };
    expect(find((u, v) => [u, v])).toEqual([]);
    expect(find((u, v) => [1 - u, v])).toContain("flipped");
    expect(find((u, v) => [u - 2, v])).toContain("outside");
    expect(find(() => [0.5, 0.5])).toContain("no area");
    expect(
      find((u, v, f) => (f === 0 ? [0.1 + 0.2 * u, 0.1 + 0.2 * v] : [u, v])),
    ).toContain("overlap");
    const near = laidOn([cube(), moved(cube(), 4, 0, 0)], squareSheet(512, 0));
    const close = squareSheet(512, 8);
    expect(
      checkUvs(
        ["a", "b"],
        near,
        gatherIslands(near, close),
        close,
      ).findings.map(({ kind }) => kind),
    ).toContain("padding");
  });
});

describe("doing it again", () => {
  it("marks the stage stale by what changed, and brings it up to date with seams and places kept", async () => {
    const source = sphere(40, 56);
    let at: Asset = createAsset("a", [createPart("ball", 0, { source })]);
    at = {
      ...at,
      brief: { ...at.brief, triangles: 600, sheetSize: 512, padding: 4 },
    };
    at = (await run(at, "reduce/to-budget")).asset;
    at = (await run(at, "unwrap/unwrap", { rounds: 4 })).asset;
    const islands = at.results.unwrap!.report.islands;
    at = { ...at, brief: { ...at.brief, triangles: 400 } };
    at = (await run(at, "reduce/to-budget")).asset;
    expect(gameOf(at).uvs).toBeNull();
    expect(gameOf(at).seams!.some((mark) => mark)).toBe(true);
    expect(at.parts[0].previousUnwrap?.uvs).toBeTruthy();
    expect(staleStages(at)).toContain("unwrap");
    const { asset: done, redone } = await bringUpToDate(at, plainContext());
    expect(redone).toContain("unwrap");
    expect(done.results.unwrap!.report).toMatchObject({
      islands,
      overlap: 0,
      flipped: 0,
    });
    expect(done.parts[0].previousUnwrap).toBeNull();
    expect(areaOf(gameOf(done))).toBeGreaterThan(0);
  });

  it("records the rounds that a search by time took, so that it can be repeated", async () => {
    const asset = assetOf({ one: cube(), two: moved(sphere(8, 12), 4, 0, 0) });
    const first = await run(asset, "unwrap/unwrap", { seconds: 0.3 });
    const { options } = first.asset.results.unwrap!;
    expect(Number(options.rounds)).toBe(first.report.rounds);
    const again = await run(asset, "unwrap/unwrap", { ...options, seconds: 0 });
    expect([...gameOf(again.asset).uvs!]).toEqual([
      ...gameOf(first.asset).uvs!,
    ]);
  });
});
