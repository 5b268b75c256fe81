import { buildEdges } from "../mesh/edges";
import { describe, expect, it } from "vitest";
import {
  cube,
  joined,
  moved,
  sheetMesh,
  sphere,
  torus,
  tubeMesh,
} from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { faceAreas } from "../mesh/area";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { quadShare } from "../remesh/pair-quads";
import { subdivide } from "../mesh/subdivide";
import { run, lone, game, total } from "../../tests/reduce-run";

/** A lone needle, ten thousand times as long as it is wide. */
const needle = () =>
  meshFromTriangles(
    new Float32Array([0, 0, 2, 1, 0, 2, 0.5, 1e-4, 2]),
    new Uint32Array([0, 1, 2]),
  );

describe("quads", () => {
  it("come out where they went in", async () => {
    const body = subdivide(cube(), 4);
    expect(quadShare(body)).toBe(1);
    const made = game(
      (await run(lone(body), "reduce/to-budget", { triangles: 600 })).asset,
    );
    expect(quadShare(made)).toBeGreaterThan(0.5);
    const plain = game(
      (
        await run(lone(body), "reduce/to-budget", {
          triangles: 600,
          quads: "never",
        })
      ).asset,
    );
    expect(quadShare(plain)).toBe(0);
    expect(triangleCount(plain)).toBe(triangleCount(made));
  });

  it("are laid evenly over all parts by area", async () => {
    const asset = createAsset("two", [
      createPart("large", 0, { source: sphere(40, 60, 1) }),
      createPart("small", 1, { source: moved(sphere(40, 60, 0.5), 3, 0, 0) }),
    ]);
    const { asset: done, report } = await run(asset, "reduce/even-quads", {
      triangles: 1500,
    });
    const ratio = triangleCount(game(done, 0)) / triangleCount(game(done, 1));
    expect(ratio).toBeGreaterThan(3);
    expect(ratio).toBeLessThan(5);
    expect(Number(report.quads)).toBeGreaterThan(0.95);
  });
});

describe("materials and IDs", () => {
  /** Share of a mesh's area, by its triangles, whose faces have a value. */
  const shareOf = (mesh: Mesh, of: "faceMaterials" | "ids", value: number) => {
    const areas = faceAreas(mesh);
    const sum = (keep: (f: number) => boolean) =>
      areas.reduce((total, area, f) => total + (keep(f) ? area : 0), 0);
    return sum((f) => mesh[of]?.[f] === value) / sum(() => true);
  };

  it.each([
    ["reduce/even-quads", { triangles: 500 }],
    ["reduce/skin-over", { cells: 40 }],
  ] as const)("stay where they are through %s", async (id, options) => {
    const ball = sphere(30, 40);
    const upper = Uint16Array.from(faceAreas(ball), (_, f) =>
      ball.positions[3 * ball.corners[3 * f] + 1] > 0.02 ? 1 : 0,
    );
    const source = {
      ...ball,
      faceMaterials: upper,
      ids: upper.map((of) => 2 - of),
      materials: ["oak", "brass"],
    };
    const made = game((await run(lone(source), id, options)).asset);
    expect(made.materials).toEqual(["oak", "brass"]);
    for (const [of, value] of [
      ["faceMaterials", 1],
      ["ids", 2],
    ] as const) {
      const was = shareOf(source, of, value);
      expect(Math.abs(shareOf(made, of, value) - was)).toBeLessThan(0.05);
    }
  });

  it("a part too small for quads keeps triangles, and the others their quads", async () => {
    const asset = createAsset("two", [
      createPart("ball", 0, { source: sphere(30, 40) }),
      createPart("speck", 1, { source: needle() }),
    ]);
    const { asset: made, report } = await run(asset, "reduce/even-quads", {
      triangles: 600,
    });
    expect(report.asTriangles).toEqual(["speck"]);
    expect(quadShare(game(made, 0))).toBeGreaterThan(0.9);
    expect(triangleCount(game(made, 1))).toBe(1);
  });
});

it("skins that a budget can't be reached for say so", async () => {
  const { report } = await run(lone(cube()), "reduce/skin-over", {
    ...{ cells: 12, triangles: 4, result: "each" },
  });
  if (Number(report.triangles) > 4)
    expect(report.failed).toContain("4 triangles can't be reached");
  const both = createAsset("two", [
    createPart("a", 0, { source: cube() }),
    createPart("b", 1, { source: moved(torus(), 5, 0, 0) }),
  ]);
  const tight = await run(both, "reduce/skin-over", {
    ...{ cells: 20, triangles: 10, result: "together" },
  });
  expect(Number(tight.report.triangles)).toBeGreaterThan(10);
  expect(tight.report.failed).toContain("10 triangles can't be reached");
});

describe("skin over and loops as operations", () => {
  it("skins each part, to a budget, or all as a new source", async () => {
    const asset = createAsset("two", [
      createPart("a", 0, { source: joined(cube(), moved(cube(), 1, 1, 1)) }),
      createPart("b", 1, { source: moved(sphere(30, 40), 1.5, 0, 0) }),
    ]);
    const each = await run(asset, "reduce/skin-over", {
      cells: 40,
      triangles: 400,
    });
    expect(total(each.asset)).toBeLessThanOrEqual(400);
    const one = await run(asset, "reduce/skin-over", {
      cells: 40,
      result: "together",
    });
    expect(one.asset.parts.map((part) => part.name)).toEqual([
      "a",
      "b",
      "skin",
    ]);
    expect(
      [...buildEdges(one.asset.parts[2].source!).uses].every((n) => n === 2),
    ).toBe(true);
    await expect(
      run(lone(sheetMesh(4)), "reduce/skin-over", { cells: 20 }),
    ).rejects.toThrow(/holds no room/);
  });

  it("thins to a count, and says where there are no loops", async () => {
    const { asset, report } = await run(
      lone(tubeMesh(24, 30)),
      "reduce/thin-loops",
      {
        triangles: 400,
      },
    );
    expect(total(asset)).toBeLessThanOrEqual(400);
    expect(Number(report.loops)).toBeGreaterThan(5);
    await expect(
      run(lone(sphere(20, 30)), "reduce/thin-loops", { triangles: 100 }),
    ).rejects.toThrow(/no edge loop/);
  });

  it("says what it can't reach", async () => {
    const thin = await run(lone(tubeMesh(12, 8)), "reduce/thin-loops", {
      ...{ triangles: 6, farthest: 1 },
    });
    expect(Number(thin.report.triangles)).toBeGreaterThan(6);
    expect(thin.report.failed).toContain("6 triangles can't be reached");
    expect(thin.report.failed).toContain("farther than allowed");
    const quads = await run(lone(cube()), "reduce/even-quads", {
      triangles: 4,
    });
    expect(quads.report.failed).toContain("4 triangles can't be reached");
  });

  it("changes single loops by an edge, and refuses what is no edge", async () => {
    const asset = {
      ...lone(tubeMesh(16, 4)),
      parts: [createPart("body", 0, { game: tubeMesh(16, 4) })],
    };
    const { report } = await run(asset, "reduce/loops", {
      edges: ["body:16-17"],
    });
    expect(report.saved).toBe(32);
    const slid = await run(asset, "reduce/loops", {
      edges: ["body:16-17"],
      action: "slide one way",
    });
    expect(slid.report.welded).toBe(16);
    // Two loops apart, and two of which one slides onto the other; an edge of a loop that is chosen already adds none.
    for (const edges of [
      ["body:16-17", "body:48-49", "body:17-18"],
      ["body:16-17", "body:32-33"],
    ])
      for (const action of ["slide one way", "slide the other way"]) {
        const two = await run(asset, "reduce/loops", { edges, action });
        expect(two.report.welded).toBe(32);
        expect(two.report.saved).toBe(64);
      }
    await expect(
      run(asset, "reduce/loops", { edges: ["body:0-40"] }),
    ).rejects.toThrow(/no edge/);
    await expect(run(asset, "reduce/loops", { edges: ["x"] })).rejects.toThrow(
      /part:vertex/,
    );
  });
});
