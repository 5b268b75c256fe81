import { describe, expect, it } from "vitest";
import { sheetMesh, sphere } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import type { Judgement } from "./operations/judge";
import { run, lone } from "../../tests/reduce-run";

describe("levels of detail", () => {
  let made: ReturnType<typeof run> | null = null;
  const reduced = () =>
    (made ??= run(
      lone(sphere(80, 100, 1, (a) => 0.05 * Math.sin(7 * a))),
      "reduce/to-budget",
      {
        triangles: 2000,
      },
    ));

  it("fall, share UVs, and set in farther and farther away", async () => {
    const { asset, report } = await run(
      (await reduced()).asset,
      "reduce/levels",
      {
        levels: "900, 300, 90",
      },
    );
    const counts = asset.parts[0].levels.map(triangleCount);
    counts.forEach((n, i) => expect(n).toBeLessThanOrEqual([900, 300, 90][i]));
    const levels = report.levels as { distance: number; screenSize: number }[];
    expect(levels[1].distance).toBeGreaterThan(levels[0].distance);
    expect(levels[2].distance).toBeGreaterThan(levels[1].distance);
    expect(levels[2].screenSize).toBeLessThan(levels[1].screenSize);
  });

  it("can be asked for by screen size", async () => {
    const { asset } = await run((await reduced()).asset, "reduce/levels", {
      by: "screen size",
      levels: "300, 80",
    });
    const [first, second] = asset.parts[0].levels.map(triangleCount);
    expect(first).toBeLessThan(2000);
    expect(second).toBeLessThan(first);
  });

  it("hold open borders also where they share no UVs", async () => {
    const sheet = sheetMesh(14);
    const waves = {
      ...sheet,
      positions: sheet.positions.map((x, i) =>
        i % 3 === 1 ? 0.1 * Math.sin(7 * sheet.positions[i - 1]) : x,
      ),
    };
    const reduced = await run(lone(waves), "reduce/to-budget", {
      triangles: 200,
    });
    const borderOf = (mesh: Mesh) => {
      const edges = buildEdges(mesh);
      const places = new Set<string>();
      for (let e = 0; e < edges.count; e++)
        if (edges.uses[e] === 1)
          for (const v of edges.vertices.subarray(2 * e, 2 * e + 2))
            places.add([...mesh.positions.subarray(3 * v, 3 * v + 3)].join());
      return places;
    };
    const { asset } = await run(reduced.asset, "reduce/levels", {
      ...{ levels: "120, 80", share: false, holdBorders: true },
    });
    const [{ game: first, levels }] = asset.parts;
    expect(levels).toHaveLength(2);
    for (const level of levels)
      expect(borderOf(level)).toEqual(borderOf(first!));
  });

  it("refuse lists that do not fall", async () => {
    const { asset } = await reduced();
    for (const levels of ["300, 900", "abc", "5000"])
      await expect(run(asset, "reduce/levels", { levels })).rejects.toThrow(
        /falling/,
      );
  });
});

describe("judging", () => {
  it("measures nothing off between a mesh and itself", async () => {
    const body = sphere(30, 40);
    const asset = createAsset("same", [
      createPart("body", 0, { source: body, game: body }),
    ]);
    const report = (await run(asset, "reduce/judge"))
      .report as unknown as Judgement;
    expect(report.rms).toBeLessThan(1e-6);
    expect(report.silhouetteMax).toBe(0);
    expect(report.normalMean).toBeLessThan(1);
  });

  it("tells which side, where and how far", async () => {
    const asset = createAsset("grown", [
      createPart("body", 0, {
        source: sphere(40, 60),
        game: sphere(
          40,
          60,
          1,
          (a, t) => 0.1 * Math.exp(-20 * ((Math.cos(a) - 1) ** 2 + t * t)),
        ),
      }),
    ]);
    const report = (await run(asset, "reduce/judge"))
      .report as unknown as Judgement;
    expect(report.outside).toBeGreaterThan(0.08);
    expect(report.inside).toBeLessThan(0.005);
    expect(report.places[0].at[0]).toBeGreaterThan(0.85);
    expect(report.places[0].distance).toBeGreaterThan(0.08);
    expect(report.silhouetteMax).toBeGreaterThan(0);
    expect(report.worstViews).toHaveLength(4);
  });
});
