import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../tests/laid";
import { cube, sphere } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { buildEdges } from "../mesh/edges";
import { engineVertices } from "../mesh/engine-vertices";
import { hardAbove } from "../mesh/hard-angle";
import type { Mesh } from "../mesh/mesh";
import { cornerNormals } from "../mesh/normals";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import { countHard } from "./methods/shade";

const run = (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
const assetOf = (game: Mesh, source: Mesh | null = null) =>
  createAsset("a", [createPart("p", 0, { game, source })]);
const gameOf = ({ parts }: Asset) => parts[0].game!;
const boxed = () => ({ ...cube(), hard: hardAbove(cube(), 60).hard });

describe("what splits cost", () => {
  it("is what an engine counts: a cube has 8 places, 24 vertices with hard edges", () => {
    expect(engineVertices(cube())).toEqual({ places: 8, split: 8 });
    const box = boxed();
    expect(engineVertices({ ...box, normals: cornerNormals(box) })).toEqual({
      places: 8,
      split: 24,
    });
    const laid = laidOn([sphere(10, 14)], squareSheet(256))[0];
    expect(engineVertices(laid).split).toBeGreaterThan(
      engineVertices(laid).places,
    );
    const two = {
      ...cube(),
      materials: ["a", "b"],
      faceMaterials: Uint16Array.from([0, 0, 0, 1, 1, 1]),
    };
    expect(engineVertices(two).split).toBeGreaterThan(8);
  });

  it("is told before and after each step", async () => {
    const { report } = await run(assetOf(cube()), "edges/hard-by-angle", {
      angle: 60,
    });
    expect(report).toMatchObject({
      hardEdges: 12,
      verticesBefore: 8,
      vertices: 24,
      places: 8,
    });
  });
});

describe("hard and smooth", () => {
  it("go round chosen faces, and smooth within them", async () => {
    const hard = await run(assetOf(cube()), "edges/mark", {
      faces: ["p:0"],
      mesh: "game",
    });
    expect(countHard(gameOf(hard.asset)).hard).toBe(4);
    const box = await run(assetOf(boxed()), "edges/mark", {
      faces: ["p:0-5"],
      mesh: "game",
      to: "smooth",
    });
    expect(countHard(gameOf(box.asset)).hard).toBe(0);
    await expect(run(assetOf(cube()), "edges/mark")).rejects.toThrow(
      /no edges/,
    );
  });

  it("change normals at the ends of what is marked only: those a file gave stay elsewhere", async () => {
    const ball = sphere(10, 14);
    const given = cornerNormals(ball).map((x, i) => (i % 3 ? x : -x));
    const { asset } = await run(
      assetOf({ ...ball, normals: given }),
      "edges/mark",
      { faces: ["p:60"], mesh: "game" },
    );
    const made = gameOf(asset);
    const ends = new Set(
      ball.corners.subarray(ball.faceStarts[60], ball.faceStarts[61]),
    );
    let kept = 0;
    for (let c = 0; c < made.corners.length; c++)
      if (!ends.has(made.corners[c])) {
        kept++;
        expect([...made.normals!.subarray(3 * c, 3 * c + 3)]).toEqual([
          ...given.subarray(3 * c, 3 * c + 3),
        ]);
      }
    expect(kept).toBeGreaterThan(500);
    expect(made.normals).not.toEqual(given);
    expect(countHard(made).hard).toBe(ends.size);
  });

  it("lie where IDs and materials meet", async () => {
    const mesh = {
      ...cube(),
      ids: Uint16Array.from([1, 2, 2, 2, 2, 2]),
      materials: ["a", "b"],
      faceMaterials: Uint16Array.from([0, 0, 0, 0, 0, 1]),
    };
    for (const [where, count] of [
      ["IDs", 4],
      ["materials", 4],
      ["both", 7],
    ] as const) {
      const done = await run(assetOf(mesh), "edges/hard-at-borders", { where });
      const { hard } = countHard(gameOf(done.asset));
      expect(hard).toBe(where === "both" ? countBoth(mesh) : count);
    }
  });

  it("keep the rule that a hard edge is a UV split, mended either way", async () => {
    const laid = laidOn([sphere(12, 16)], squareSheet(256))[0];
    const marked = { ...laid, hard: hardAbove(laid, 8).hard };
    expect(countHard(marked).unsplit).toBeGreaterThan(0);
    const smooth = await run(assetOf(marked), "edges/smooth-unsplit");
    expect(smooth.report.hardWithoutSplit).toBe(0);
    const split = await run(assetOf(marked), "unwrap/split-at");
    expect(countHard(gameOf(split.asset)).unsplit).toBe(0);
    for (const id of ["edges/smooth-unsplit", "unwrap/split-at"])
      await expect(run(assetOf(laid), id)).rejects.toThrow(/UV split already/);
    const islands = await run(assetOf(marked), "edges/hard-at-islands");
    expect(islands.report.hardWithoutSplit).toBe(0);
  });

  it("hide seams where the surface turns", async () => {
    const laid = laidOn([cube()], squareSheet(256))[0];
    const done = await run(assetOf(laid), "edges/harden-seams", { angle: 30 });
    const game = gameOf(done.asset);
    const edges = buildEdges(game);
    for (let e = 0; e < edges.count; e++)
      expect(game.hard![edges.first[e]]).toBe(game.seams![edges.first[e]]);
  });
});

describe("normals", () => {
  it("are unit length however they are weighed", () => {
    fc.assert(
      fc.property(
        fc.constantFrom("area", "angle", "area and angle" as const),
        fc.integer({ min: 4, max: 20 }),
        (by, rings) => {
          const normals = cornerNormals(sphere(rings, rings + 3), by as "area");
          for (let i = 0; i < normals.length; i += 3)
            expect(
              Math.hypot(normals[i], normals[i + 1], normals[i + 2]),
            ).toBeCloseTo(1, 5);
        },
      ),
      { numRuns: 15 },
    );
  });

  it("by area lean to the larger face", async () => {
    const mesh = cube();
    const long = {
      ...mesh,
      positions: mesh.positions.map((x, i) => (i % 3 === 0 ? 10 * x : x)),
    };
    const lean = async (by: string) =>
      Math.abs(
        gameOf((await run(assetOf(long), "edges/weigh-normals", { by })).asset)
          .normals![0],
      );
    expect(await lean("area")).toBeLessThan(await lean("angle"));
  });

  it("come from a source, a sphere, a box or a part, by strength, and stay", async () => {
    const flat = {
      ...sphere(10, 14),
      normals: new Float32Array(3 * sphere(10, 14).corners.length).map(
        (_, i) => (i % 3 === 1 ? 1 : 0),
      ),
    };
    const asset = {
      ...assetOf(flat, sphere(30, 40)),
      parts: [
        ...assetOf(flat, sphere(30, 40)).parts,
        createPart("other", 1, { game: cube() }),
      ],
    };
    const outward = (mesh: Mesh) => {
      let least = 1;
      mesh.corners.forEach((v, c) => {
        const p = mesh.positions.subarray(3 * v, 3 * v + 3);
        const dot = [0, 1, 2].reduce(
          (sum, k) => sum + p[k] * mesh.normals![3 * c + k],
          0,
        );
        least = Math.min(least, dot / Math.hypot(...p));
      });
      return least;
    };
    for (const options of [
      { from: "source" },
      { from: "source", by: "direction" },
      { from: "sphere" },
    ]) {
      const done = await run(asset, "edges/take-normals", {
        ...options,
        parts: ["p"],
      });
      expect(outward(gameOf(done.asset))).toBeGreaterThan(0.98);
      const later = await run(done.asset, "edges/hard-by-angle", { angle: 10 });
      expect(outward(gameOf(later.asset))).toBeGreaterThan(0.98);
      const own = await run(done.asset, "edges/drop-normals", { parts: ["p"] });
      expect(gameOf(own.asset).ownNormals).toBeNull();
    }
    // Of some faces only: the others keep what they took.
    const all = await run(asset, "edges/take-normals", { from: "sphere" });
    const some = await run(all.asset, "edges/drop-normals", {
      faces: ["p:0-3"],
      mesh: "game",
    });
    const taken = gameOf(all.asset);
    const kept = gameOf(some.asset);
    expect([...kept.ownNormals!]).toEqual(
      [...taken.ownNormals!].map((own, f) => (f < 4 ? 0 : own)),
    );
    const from = 3 * kept.faceStarts[4];
    expect(kept.normals!.slice(from)).toEqual(taken.normals!.slice(from));
    expect(kept.normals!.slice(0, from)).not.toEqual(
      taken.normals!.slice(0, from),
    );
    const half = await run(asset, "edges/take-normals", {
      from: "box",
      strength: 0.5,
      faces: ["p:0-3"],
      mesh: "game",
    });
    expect(
      gameOf(half.asset).ownNormals!.reduce((sum, mark) => sum + mark, 0),
    ).toBe(4);
    await run(asset, "edges/take-normals", {
      from: "part",
      part: "other",
      parts: ["p"],
    });
    await expect(
      run(asset, "edges/take-normals", { from: "source", parts: ["other"] }),
    ).rejects.toThrow(/no source/);
  });
});

function countBoth(mesh: Mesh): number {
  const edges = buildEdges(mesh);
  let count = 0;
  for (let e = 0; e < edges.count; e++) {
    const [f, g] = [edges.first[e], edges.second[e]].map((c) =>
      Math.floor(c / 4),
    );
    if (
      mesh.ids![f] !== mesh.ids![g] ||
      mesh.faceMaterials![f] !== mesh.faceMaterials![g]
    )
      count++;
  }
  return count;
}
