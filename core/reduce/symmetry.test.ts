import { buildEdges } from "../mesh/edges";
import { describe, expect, it } from "vitest";
import { moved, sphere } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount } from "../mesh/mesh";
import { run, lone, game, total, face } from "../../tests/reduce-run";

/** Whether every vertex and every face has its exact image across x = 0. */
function isMirrored(mesh: Mesh): boolean {
  const at = (v: number, flip: boolean) => {
    const [x, y, z] = mesh.positions.subarray(3 * v, 3 * v + 3);
    return `${(flip ? -x : x) + 0} ${y} ${z}`;
  };
  const faces = (flip: boolean) => {
    const list: string[] = [];
    for (let f = 0; f < faceCount(mesh); f++)
      list.push(
        Array.from(
          mesh.corners.subarray(mesh.faceStarts[f], mesh.faceStarts[f + 1]),
          (v) => at(v, flip),
        )
          .sort()
          .join("|"),
      );
    return list.sort();
  };
  const [own, image] = [faces(false), faces(true)];
  return own.every((text, i) => text === image[i]);
}

describe("symmetry", () => {
  it("finds the plane and gives exact mirror images, closed, within the budget", async () => {
    const { asset, report } = await run(lone(face), "reduce/to-budget", {
      triangles: 600,
      symmetry: "find",
    });
    expect((report.plane as { normal: number[] }).normal).toEqual([1, 0, 0]);
    expect(total(asset)).toBeLessThanOrEqual(600);
    expect(total(asset)).toBeGreaterThan(580);
    expect(isMirrored(game(asset))).toBe(true);
    expect([...buildEdges(game(asset)).uses].every((uses) => uses === 2)).toBe(
      true,
    );
  });

  it("works one of two parts that are each other's mirror image", async () => {
    const right = moved(
      sphere(30, 40, 0.3, (a) => 0.03 * Math.cos(2 * a)),
      1,
      0,
      0,
    );
    const left = {
      ...right,
      positions: right.positions.map((x, i) => (i % 3 ? x : -x)),
      corners: right.corners.slice().reverse(),
    };
    const asset = createAsset("pair", [
      createPart("right", 0, { source: right }),
      createPart("left", 1, { source: left }),
      createPart("body", 2, { source: face }),
    ]);
    const done = (
      await run(asset, "reduce/to-budget", { triangles: 900, symmetry: "x" })
    ).asset;
    expect(triangleCount(game(done, 0))).toBe(triangleCount(game(done, 1)));
    expect(
      [...game(done, 1).positions].map((x, i) => (i % 3 ? x : -x)),
    ).toEqual([...game(done, 0).positions]);
    expect(total(done)).toBeLessThanOrEqual(900);
    expect(isMirrored(game(done, 2))).toBe(true);
  });

  it("says where there is no plane, and halves all the same when told to", async () => {
    const odd = sphere(
      30,
      40,
      1,
      (a, t) =>
        0.2 * Math.sin(a + 0.4) * Math.sin(3 * t + 1) +
        0.1 * Math.cos(3 * a + 1),
    );
    await expect(
      run(lone(odd), "reduce/to-budget", { triangles: 300, symmetry: "find" }),
    ).rejects.toThrow(/no mirror plane/);
    const { asset } = await run(lone(odd), "reduce/to-budget", {
      triangles: 300,
      symmetry: "x",
      halveAll: true,
    });
    expect(isMirrored(game(asset))).toBe(true);
  });
});
