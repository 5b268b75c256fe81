import { describe, expect, it } from "vitest";
import { cube, joined, moved, sphere } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import { totalTriangles } from "../asset/parts";
import { triangleCount, vertexCount } from "../mesh/mesh";
import {
  multiply,
  rotation,
  transformMesh,
  translation,
} from "../mesh/transform";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import type { FoundFamily } from "./methods/repeat-families";
import { context, run, assetOf, scaled, lump } from "../../tests/surveyed";

describe("repeats", () => {
  const base = lump();
  const turn = multiply(translation(5, 1, 0), rotation([0.6, 0, 0.8], 1.1));
  const mirror = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -8, 0, 0, 1];
  const bigger = [1.5, 0, 0, 0, 0, 1.5, 0, 0, 0, 0, 1.5, 0, 0, 9, 0, 1];
  const asset = assetOf({
    lump: base,
    turned: transformMesh(base, turn),
    mirrored: transformMesh(base, mirror),
    bigger: transformMesh(base, bigger),
    other: moved(sphere(9, 13), 0, 0, 9),
  });

  it("are found moved, turned, mirrored and scaled", async () => {
    const { report } = await run("count", asset, { tolerance: 0.1 });
    const [family] = report.repeats as FoundFamily[];
    expect(family).toMatchObject({ part: "lump", mirrored: 1, scaled: 1 });
    expect(family.copies.map(({ part }) => part)).toEqual([
      "turned",
      "mirrored",
      "bigger",
    ]);
  });

  it("are found when their vertices come in another order", async () => {
    const count = vertexCount(base);
    const order = Uint32Array.from(
      { length: count },
      (_, v) => (v * 37) % count,
    );
    expect(new Set(order).size).toBe(count);
    const placed = transformMesh(base, turn);
    const positions = new Float32Array(placed.positions.length);
    order.forEach((to, v) =>
      positions.set(placed.positions.slice(3 * v, 3 * v + 3), 3 * to),
    );
    const shuffled = {
      ...placed,
      positions,
      corners: placed.corners.map((v) => order[v]),
    };
    const { report } = await run("count", assetOf({ lump: base, shuffled }), {
      tolerance: 0.1,
    });
    expect((report.repeats as FoundFamily[]).length).toBe(1);
  });

  it("linked follow the one that is worked, with their winding right", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    expect(linked.parts.filter((part) => part.repeat).length).toBe(3);
    const { asset: after } = await run("subdivide", linked, {
      parts: ["lump"],
      levels: 1,
    });
    const [first, ...copies] = after.parts
      .filter(({ name }) => name !== "other")
      .map(({ source }) => triangleCount(source!));
    expect(first).toBeGreaterThan(triangleCount(base));
    expect(copies).toEqual([first, first, first]);
    const { report } = await run("count", after);
    expect(report.flippedFaces).toBe(0);
  });

  it("count as often as they are placed, and the budget holds", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    const { asset: reduced, report } = await runOperation(
      findOperation("reduce/to-budget"),
      linked,
      { triangles: 400 },
      context,
    );
    expect(totalTriangles(reduced, "game")).toBeLessThanOrEqual(400);
    expect(totalTriangles(reduced, "game")).toBe(report.triangles);
    const [one, ...rest] = reduced.parts
      .filter(({ name }) => name !== "other")
      .map(({ game }) => triangleCount(game!));
    for (const each of rest) expect(each).toBe(one);
  });

  it("share their texels: they are not unwrapped again", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    const step = (from: Asset, id: string, options = {}) =>
      runOperation(findOperation(id), from, options, context);
    const reduced = (await step(linked, "reduce/to-budget", { triangles: 400 }))
      .asset;
    const { asset: unwrapped, report } = await step(
      reduced,
      "unwrap/unwrap",
      {},
    );
    expect(report.overlap).toBe(0);
    const [a, b] = ["lump", "turned"].map(
      (name) => unwrapped.parts.find((part) => part.name === name)!.game!,
    );
    expect(b.uvs).toEqual(a.uvs);
  });

  it("stand for themselves once unlinked", async () => {
    const { asset: linked } = await run("link-repeats", asset);
    const { asset: free } = await run("unlink-repeats", linked, {
      parts: ["turned"],
    });
    expect(free.parts.find(({ name }) => name === "turned")!.repeat).toBeNull();
    expect(free.parts.filter((part) => part.repeat).length).toBe(2);
  });

  it("within one part become parts of their own", async () => {
    const studs = joined(base, moved(base, 6, 0, 0), moved(base, 12, 0, 0));
    const { asset: linked } = await run("link-repeats", assetOf({ studs }));
    expect(linked.parts.length).toBe(3);
    expect(linked.parts.filter((part) => part.repeat).length).toBe(2);
    expect(totalTriangles(linked, "source")).toBe(3 * triangleCount(base));
  });

  it("are strewn over a surface, standing on it", async () => {
    const ground = scaled(cube(), 4);
    const { asset: strewnOver } = await run(
      "place-copies",
      assetOf({ stud: scaled(cube(), 0.1), ground }),
      { parts: ["stud", "ground"], count: 20, scale: 0, seed: 4 },
    );
    const copies = strewnOver.parts.filter((part) => part.repeat);
    expect(copies.length).toBe(20);
    for (const { source } of copies) {
      const far = [...source!.positions].map(Math.abs);
      expect(Math.max(...far)).toBeLessThan(4.3);
      expect(Math.max(...far)).toBeGreaterThan(3.99);
    }
    const again = await run(
      "place-copies",
      assetOf({ stud: scaled(cube(), 0.1), ground }),
      {
        parts: ["stud", "ground"],
        count: 20,
        scale: 0,
        seed: 4,
      },
    );
    expect(again.asset.parts[5].source!.positions).toEqual(
      strewnOver.parts[5].source!.positions,
    );
  });
});
