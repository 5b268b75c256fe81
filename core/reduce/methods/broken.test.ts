import { describe, expect, it } from "vitest";
import { cadAssembly } from "../../../tests/cad-like";
import { cube, joined, moved, tubeMesh } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import type { Asset } from "../../asset/asset";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { triangleCount } from "../../mesh/mesh";
import { plainContext } from "../../base/context";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";
import { unbrokenWords } from "./broken-words";

interface Report {
  triangles: number;
  rms: number;
  breaking: string[];
  unbroken: {
    shapes: { part: string; shape: string; triangles: number }[];
    baked: string[];
  };
}

async function reduce(asset: Asset, triangles: number, broken = false) {
  const done = await runOperation(
    findOperation("reduce/to-budget"),
    asset,
    { triangles, broken },
    plainContext(),
  );
  return { ...done, report: done.report as unknown as Report };
}

const assetOf = (meshes: Record<string, Mesh>) =>
  createAsset(
    "set",
    Object.entries(meshes).map(([name, source], i) =>
      createPart(name, i, { source }),
    ),
  );

describe("parts that a budget breaks", () => {
  const { parts, hidden } = cadAssembly(1, 24, 12_000);
  const asset = assetOf(
    Object.fromEntries(parts.map(({ name, mesh }) => [name, mesh])),
  );

  it("are shapes where those come nearer, or only baked, never shards; the budget is kept", async () => {
    const budget = 360;
    const [whole, broken] = [
      await reduce(asset, budget),
      await reduce(asset, budget, true),
    ];
    const { shapes, baked } = whole.report.unbroken;
    expect(shapes.length).toBeGreaterThan(1);
    expect(broken.report.unbroken).toEqual({ shapes: [], baked: [] });
    expect(whole.report.triangles).toBeLessThanOrEqual(budget);
    expect(whole.report.triangles).toBeGreaterThanOrEqual(0.99 * budget);
    expect(whole.report.rms).toBeLessThan(0.7 * broken.report.rms);
    for (const { part, triangles } of shapes) {
      const { game } = whole.asset.parts.find(({ name }) => name === part)!;
      expect(triangleCount(game!)).toBe(triangles);
      expect([...buildEdges(game!).uses].every((n) => n === 2)).toBe(true);
      expect(whole.report.breaking).not.toContain(part);
    }
    for (const { name, game } of whole.asset.parts)
      if (baked.includes(name)) expect(game).toBeNull();
      else if (game && !hidden.includes(name))
        expect(triangleCount(game)).toBeGreaterThanOrEqual(4);
  });

  it("are reduced as ever where the budget is enough, or where they were seen to", async () => {
    const enough = await reduce(asset, 12_000);
    expect(enough.report.unbroken).toEqual({ shapes: [], baked: [] });
    const low = await reduce(asset, 360);
    const [first] = low.report.unbroken.shapes;
    const seenTo = {
      ...asset,
      parts: asset.parts.map((part) =>
        part.name === first.part ? { ...part, budget: 40 } : part,
      ),
    };
    const again = await reduce(seenTo, 360);
    expect(again.report.unbroken.shapes.map(({ part }) => part)).not.toContain(
      first.part,
    );
  });

  it("never become a block where they are a net", async () => {
    const rods: Mesh[] = [];
    for (let i = 0; i < 40; i++)
      rods.push(moved(tubeMesh(10, 40, 0.01, 2), 0.05 * i, 0, 0));
    const net = assetOf({
      net: joined(...rods),
      post: moved(cube(), -3, 0, 0),
    });
    const { report } = await reduce(net, 200);
    expect(report.triangles).toBeLessThanOrEqual(200);
    expect(report.unbroken.shapes.map(({ part }) => part)).not.toContain("net");
  });
});

it("says in words what was done", () => {
  const shapes = ["a", "b", "c", "d"].map((part) => ({
    part,
    shape: "box",
    triangles: 12,
  }));
  expect(unbrokenWords({ shapes, baked: ["e", "f"] })).toBe(
    "simple shapes stand for 4 parts, e, f are only baked: reduced to so few triangles they would break",
  );
  expect(unbrokenWords({ shapes: [], baked: ["e"] })).toMatch(/^e is only/);
  expect(unbrokenWords({ shapes: [], baked: [] })).toBeNull();
});
