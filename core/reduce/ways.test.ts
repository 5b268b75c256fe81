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
import type { Asset } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { streamsOf, toDocument } from "../asset/document";
import { fromDocument } from "../asset/read-document";
import { previewOf } from "../decimate/kept-record";
import { DENSITY_LEFT } from "../decimate/density";
import { faceAreas } from "../mesh/area";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount } from "../mesh/mesh";
import { meshFromTriangles } from "../mesh/change-faces";
import { quadShare } from "../remesh/pair-quads";
import { subdivide } from "../mesh/subdivide";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import type { Judgement } from "./operations/judge";

const run = (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
const lone = (source: Mesh, name = "body") =>
  createAsset("lone", [createPart(name, 0, { source })]);
const game = (asset: Asset, i = 0) => asset.parts[i].game!;
const total = (asset: Asset) =>
  asset.parts.reduce(
    (sum, part) => sum + (part.game ? triangleCount(part.game) : 0),
    0,
  );

/** A ball with a nose, the same on both sides of x = 0. */
const face = sphere(
  50,
  80,
  1,
  (a, t) =>
    0.2 * Math.exp(-8 * ((Math.sin(a) + 1) ** 2 + t * t)) +
    0.03 * Math.cos(6 * a),
);

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

describe("density", () => {
  const ball = sphere(60, 80);
  const above = (mesh: Mesh) => {
    let count = 0;
    for (let t = 0; t < mesh.corners.length; t += 3) {
      const y = [0, 1, 2].reduce(
        (sum, k) => sum + mesh.positions[3 * mesh.corners[t + k] + 1],
        0,
      );
      if (y > 0) count++;
    }
    return count / (mesh.corners.length / 3);
  };
  const upper: number[] = [];
  for (let f = 0; f < faceCount(ball); f++)
    if (ball.positions[3 * ball.corners[3 * f] + 1] > 0.05) upper.push(f);
  const faces = [`body:${upper.join(",")}`];

  it("moves triangles to where finer was painted, and away from coarser", async () => {
    const shares: number[] = [];
    for (const wish of ["coarser", "plain", "finer"]) {
      const painted = (
        await run(lone(ball), "reduce/paint-density", {
          faces,
          wish,
          strength: 0.8,
        })
      ).asset;
      shares.push(
        above(
          game(
            (await run(painted, "reduce/to-budget", { triangles: 600 })).asset,
          ),
        ),
      );
    }
    expect(shares[0]).toBeLessThan(0.35);
    expect(shares[1]).toBeCloseTo(0.5, 1);
    expect(shares[2]).toBeGreaterThan(0.65);
  });

  it("leaves faces as they are where that is asked", async () => {
    const some = upper.slice(0, 200);
    const painted = (
      await run(lone(ball), "reduce/paint-density", {
        faces: [`body:${some.join(",")}`],
        wish: "leave",
      })
    ).asset;
    expect(painted.parts[0].source!.density![some[0]]).toBe(DENSITY_LEFT);
    const made = game(
      (await run(painted, "reduce/to-budget", { triangles: 800 })).asset,
    );
    const places = new Set<string>();
    const key = (mesh: Mesh, v: number) =>
      [0, 1, 2].map((k) => mesh.positions[3 * v + k].toFixed(3)).join(" ");
    made.corners.forEach((v) => places.add(key(made, v)));
    const kept = some.filter((f) =>
      [0, 1, 2].every((k) => places.has(key(ball, ball.corners[3 * f + k]))),
    );
    expect(kept.length).toBeGreaterThan(0.6 * some.length);
  });

  it("fades out, and is mirrored", async () => {
    const one = upper
      .filter((f) => ball.positions[3 * ball.corners[3 * f]] > 0.5)
      .slice(0, 20);
    const { asset, report } = await run(lone(ball), "reduce/paint-density", {
      faces: [`body:${one.join(",")}`],
      falloff: 300,
      mirror: true,
    });
    expect(Number(report.faces)).toBeGreaterThan(60);
    const values = asset.parts[0].source!.density!;
    const steps = new Set(values);
    expect(steps.size).toBeGreaterThan(4);
    let left = 0;
    values.forEach((value, f) => {
      if (value && ball.positions[3 * ball.corners[3 * f]] < -0.3) left++;
    });
    expect(left).toBeGreaterThan(20);
  });

  it("is computed from curvature and from joints; seen needs a look first", async () => {
    const bent = sheetMesh(30, (x) => (x > 0.5 ? 0.5 * (x - 0.5) : 0));
    const curved = (
      await run(lone(bent), "reduce/compute-density", { from: "curved" })
    ).asset;
    const values = curved.parts[0].source!.density!;
    const crest = [...values.keys()].filter(
      (f) => Math.abs(bent.positions[3 * bent.corners[3 * f]] - 0.5) < 0.04,
    );
    expect(Math.max(...crest.map((f) => values[f]))).toBeGreaterThan(150);
    const two = createAsset("two", [
      createPart("a", 0, { source: ball }),
      createPart("b", 1, { source: moved(sphere(20, 30, 0.5), 1.5, 0, 0) }),
    ]);
    const joint = (
      await run(two, "reduce/compute-density", { from: "joint", parts: ["a"] })
    ).asset;
    const near = joint.parts[0].source!.density!;
    expect(near.some((value) => value > 160)).toBe(true);
    expect(near.filter((value) => value > 128).length).toBeLessThan(
      0.2 * near.length,
    );
    await expect(
      run(two, "reduce/compute-density", { from: "seen" }),
    ).rejects.toThrow(/nobody has looked/);
  });
});

describe("a kept record", () => {
  it("survives being stored, and gives previews by part", async () => {
    const asset = createAsset("pair", [
      createPart("large", 0, { source: sphere(60, 80, 1) }),
      createPart("ring", 1, { source: moved(torus(60, 24), 3, 0, 0) }),
    ]);
    const done = (await run(asset, "reduce/to-budget", { triangles: 1000 }))
      .asset;
    const blobs = new Map<string, Uint8Array>();
    const document = toDocument(done, (hash, bytes) => blobs.set(hash, bytes));
    for (const { hash } of streamsOf(document))
      expect(blobs.has(hash)).toBe(true);
    const back = fromDocument(
      JSON.parse(JSON.stringify(document)) as typeof document,
      (hash) => blobs.get(hash)!,
    );
    const preview = previewOf(back.record!, 500, {}, { ring: 120 });
    const counts = [...preview.values()].map((mesh) => triangleCount(mesh!));
    expect(counts[0] + counts[1]).toBeLessThanOrEqual(500);
    expect(counts[0] + counts[1]).toBeGreaterThan(490);
    expect(counts[1]).toBeLessThanOrEqual(120);
  });

  it("reports a curve for all and for each part", async () => {
    const { report } = await run(lone(sphere(60, 80)), "reduce/to-budget", {
      triangles: 500,
    });
    const curve = report.curve as { triangles: number[]; rms: number[] };
    const at = curve.triangles.findIndex((n) => n >= 500);
    // The estimate is of the collapse alone; fitting only comes nearer.
    expect(Number(report.rms) * Number(report.diagonal)).toBeLessThan(
      1.2 * curve.rms[at],
    );
    expect((report.parts as { curve: unknown }[])[0].curve).toEqual(curve);
  });
});

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

/** A lone needle, ten thousand times as long as it is wide. */
const needle = () =>
  meshFromTriangles(
    new Float32Array([0, 0, 2, 1, 0, 2, 0.5, 1e-4, 2]),
    new Uint32Array([0, 1, 2]),
  );

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
