import { describe, expect, it } from "vitest";
import { cadPart } from "../tests/cad-like";
import { DIRTY, scanLike } from "../tests/scan-like";
import { createAsset, createPart } from "./asset/asset";
import { bulgeOf } from "./collide/methods/convex-hull";
import { buildEdges } from "./mesh/edges";
import type { Mesh } from "./mesh/mesh";
import { triangleCount } from "./mesh/mesh";
import { plainContext } from "./base/context";
import { findOperation, KERNELS } from "./operations";
import { runOperation } from "./route";
import { boundsOf, diagonalOf } from "./space/bounds";
import type { UvFinding } from "./unwrap/methods/check";

const context = plainContext(KERNELS);
const sources: [string, () => Mesh][] = [
  ["a scan", () => scanLike(5, 3000, DIRTY)],
  ["a CAD part", () => cadPart(9, 600)],
];
const run = (id: string, source: Mesh, options: object) =>
  runOperation(
    findOperation(id),
    createAsset("dirt", [createPart("dirt", 0, { source })]),
    options,
    context,
  );
const usesOf = (mesh: Mesh) => [...buildEdges(mesh).uses];

describe.each(sources)("%s, as it came,", (_, make) => {
  const source = make();

  it("goes through reducing, unwrapping and hulls", async () => {
    let { asset } = await run("reduce/to-budget", source, {
      triangles: 300,
      measure: false,
    });
    const [{ game }] = asset.parts;
    expect(triangleCount(game!)).toBeLessThanOrEqual(300);
    expect(usesOf(game!).filter((uses) => uses > 2)).toEqual([]);
    const laid = await runOperation(
      findOperation("unwrap/unwrap"),
      asset,
      { rounds: 4 },
      context,
    );
    asset = laid.asset;
    const wrong = (laid.report.findings as UvFinding[]).filter(({ kind }) =>
      ["overlap", "outside", "flipped", "no area"].includes(kind),
    );
    expect(wrong).toEqual([]);
    const { uvs } = asset.parts[0].game!;
    expect(uvs!.every((x) => x >= 0 && x <= 1)).toBe(true);
    const hulled = await runOperation(
      findOperation("collide/hulls"),
      asset,
      { maxHulls: 4 },
      context,
    );
    const { hulls } = hulled.asset.parts[0];
    expect(hulls.length).toBeGreaterThan(0);
    expect(hulls.length).toBeLessThanOrEqual(4);
    for (const { positions, triangles } of hulls) {
      const size = diagonalOf(boundsOf(positions));
      expect(bulgeOf({ positions, triangles }, size)).toBeLessThan(1e-4 * size);
    }
  });

  it("is skinned over, closed, and laid over with quads", async () => {
    const skinned = await run("reduce/skin-over", source, { cells: 40 });
    expect(
      usesOf(skinned.asset.parts[0].game!).every((uses) => uses === 2),
    ).toBe(true);
    const quads = await run("reduce/even-quads", source, { triangles: 400 });
    const { game } = quads.asset.parts[0];
    expect(triangleCount(game!)).toBeGreaterThan(20);
    expect(usesOf(game!).filter((uses) => uses > 2)).toEqual([]);
  });
});
