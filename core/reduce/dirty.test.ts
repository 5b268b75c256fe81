import { describe, expect, it } from "vitest";
import { cadAssembly, cadPart } from "../../tests/cad-like";
import { DIRTY, scanLike } from "../../tests/scan-like";
import {
  ballsInRows,
  bridged,
  cube,
  moved,
  sphere,
  torus,
} from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { reduceTogether } from "../decimate/reduce-together";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceComponents } from "../mesh/components";
import { faceCount, triangleCount } from "../mesh/mesh";
import {
  joinMeshes,
  meshFromTriangles,
  reverseFaces,
} from "../mesh/change-faces";
import { keepSettled, settledOf } from "../settle/settled-of";
import { plainContext } from "../base/context";
import { runOperation } from "../route";
import { boundsOf, diagonalOf } from "../space/bounds";
import { triangleArea } from "../space/sample";
import { measureDeviation } from "../space/deviation";
import { transformMesh, translation } from "../mesh/transform";
import { judge, surfaceOf } from "./operations/judge";
import { reduceToBudget } from "./operations/to-budget";

const reduce = (mesh: Mesh, budget: number, options = {}) =>
  reduceTogether([mesh], budget, plainContext(), options)[0]!;

const scaled = (by: number) => [
  by,
  0,
  0,
  0,
  0,
  by,
  0,
  0,
  0,
  0,
  by,
  0,
  0,
  0,
  0,
  1,
];

const usesOf = (mesh: Mesh) => [...buildEdges(mesh).uses];

/** Faces whose height is less than a millionth of their longest edge. */
function withoutArea({ positions: p, corners }: Mesh): number {
  let count = 0;
  for (let t = 0; t < corners.length / 3; t++) {
    const [a, b, c] = corners.subarray(3 * t, 3 * t + 3);
    const side = (v: number, w: number) =>
      Math.hypot(...[0, 1, 2].map((k) => p[3 * v + k] - p[3 * w + k]));
    const longest = Math.max(side(a, b), side(b, c), side(c, a));
    if (!(2 * triangleArea(p, corners, t) > 1e-6 * longest * longest)) count++;
  }
  return count;
}

describe("reducing what is dirty", () => {
  it("keeps to the budget, makes no face without area and no edge of more than two faces", () => {
    const sources = [
      scanLike(2, 6000, DIRTY),
      cadPart(3, 3000),
      cadPart(7, 3000),
    ];
    for (const source of sources) {
      const small = reduce(source, 500);
      expect(triangleCount(small)).toBeLessThanOrEqual(500);
      expect(triangleCount(small)).toBeGreaterThanOrEqual(495);
      expect(withoutArea(small)).toBe(0);
      expect(usesOf(small).filter((uses) => uses > 2)).toEqual([]);
    }
  });

  it("leaves closed what is closed, at any size and place", () => {
    const scan = scanLike(3, 3000);
    for (const [size, at] of [
      [1e-4, 0],
      [1e5, 0],
      [1, 300],
    ]) {
      const matrix = [
        size,
        0,
        0,
        0,
        0,
        size,
        0,
        0,
        0,
        0,
        size,
        0,
        at,
        at,
        at,
        1,
      ];
      const small = reduce(transformMesh(scan, matrix), 400);
      expect(triangleCount(small)).toBeLessThanOrEqual(400);
      expect(usesOf(small).every((uses) => uses === 2)).toBe(true);
    }
  });

  /** Cubes in a grid, so many along each side, each its own size. */
  const crumbs = (side: number): Mesh =>
    joinMeshes(
      Array.from({ length: side ** 3 }, (_, i) => {
        const at = [i % side, Math.floor(i / side) % side, i / side ** 2];
        return moved(
          transformMesh(cube(), scaled(0.1 + 0.2 * ((i * 0.618) % 1))),
          at[0],
          at[1],
          Math.floor(at[2]),
        );
      }),
    );
  /** A cone whose tip all of its faces share. */
  const fan = (faces: number): Mesh =>
    meshFromTriangles(
      Float32Array.from({ length: 3 * (faces + 1) }, (_, i) => {
        const v = Math.floor(i / 3);
        if (!v) return i === 1 ? 1 : 0;
        const a = (2 * Math.PI * v) / faces;
        return [Math.cos(a), 0.02 * Math.sin(9 * a), -Math.sin(a)][i % 3];
      }),
      Uint32Array.from({ length: 3 * faces }, (_, i) => {
        const v = Math.floor(i / 3);
        return [0, 1 + v, 1 + ((v + 1) % faces)][i % 3];
      }),
    );
  const nested = joinMeshes(
    Array.from({ length: 12 }, (_, i) => sphere(16, 24, 1 - 0.07 * i)),
  );
  const plate = sphere(24, 32);
  const bothSides = joinMeshes([
    plate,
    reverseFaces(plate, new Uint8Array(faceCount(plate)).fill(1)),
  ]);

  it.each([
    ["thousands of small pieces", crumbs(13), 4400],
    ["pieces inside pieces", nested, 4100],
    ["a sheet with both its sides", bothSides, 700],
    ["one vertex with thousands of faces", fan(2000), 1000],
    [
      "a body a million metres away",
      moved(transformMesh(sphere(60, 80), scaled(2000)), 1e6, 1e6, -1e6),
      4200,
    ],
  ])("goes through with %s", (_, mesh, budget) => {
    // Exchanging triangles in the end has tests of its own.
    const small = reduce(mesh, budget, { exchange: false });
    expect(triangleCount(small)).toBeLessThanOrEqual(budget);
    expect(triangleCount(small)).toBeGreaterThanOrEqual(0.9 * budget);
    expect(withoutArea(small)).toBe(0);
    expect(usesOf(small).filter((uses) => uses > 2)).toEqual([]);
    const open = (of: Mesh) => usesOf(of).some((uses) => uses === 1);
    if (!open(mesh)) expect(open(small)).toBe(false);
    const [own, its] = [boundsOf(mesh.positions), boundsOf(small.positions)];
    const size = diagonalOf(own);
    for (let k = 0; k < 3; k++) {
      expect(Math.abs(own.min[k] - its.min[k])).toBeLessThan(0.03 * size);
      expect(Math.abs(own.max[k] - its.max[k])).toBeLessThan(0.03 * size);
    }
  });

  it("works on a soup of triangles that share no vertices", () => {
    const ball = sphere(24, 32);
    const { corners, positions } = settledOf(ball).mesh;
    const split = reduce(ball, 300);
    const alone = {
      ...settledOf(ball).mesh,
      positions: Float32Array.from(
        { length: 3 * corners.length },
        (_, i) => positions[3 * corners[(i / 3) | 0] + (i % 3)],
      ),
      corners: corners.map((_, c) => c),
    };
    const small = reduce(alone, 300);
    expect(triangleCount(small)).toBe(triangleCount(split));
    expect(usesOf(small).every((uses) => uses === 2)).toBe(true);
  });
});

describe("slivers thinner than their numbers can tell", () => {
  it("forbid nothing round them", () => {
    // Two tessellations of each circle stitched, so far off that what lies between them is noise.
    for (const seed of [3, 4, 6]) {
      const mesh = settledOf(
        transformMesh(cadPart(seed, 4000, { apart: 1 }), translation(20, 0, 0)),
      ).mesh;
      const [reduced] = reduceTogether([mesh], 900, plainContext());
      const off = measureDeviation(surfaceOf([mesh]), surfaceOf([reduced!]));
      expect(off.max).toBeLessThan(0.0015);
    }
  });
});

describe("a budget", () => {
  const run = (meshes: [string, Mesh][], options: object) =>
    runOperation(
      reduceToBudget,
      createAsset(
        "dirty",
        meshes.map(([name, source], i) => createPart(name, i, { source })),
      ),
      { measure: false, ...options },
      plainContext(),
    );

  it("that can't be reached says so and what could be", async () => {
    const ring = torus(30, 16);
    const { report, asset } = await run([["ring", ring]], { triangles: 8 });
    expect(report.failed).toContain("8 triangles can't be reached");
    expect(triangleCount(asset.parts[0].game!)).toBe(report.triangles);
    expect(usesOf(asset.parts[0].game!).every((uses) => uses === 2)).toBe(true);
    const enough = await run([["ring", ring]], { triangles: 200 });
    expect(enough.report.failed).toBeUndefined();
  });

  it("takes the game mesh of what is for the source only away, and says that it was not worked", async () => {
    const ring = torus(30, 16);
    const first = await run(
      [
        ["ring", ring],
        ["plate", sphere(12, 16)],
      ],
      { triangles: 200 },
    );
    const sourceOnly = new Uint8Array(faceCount(ring)).fill(1);
    const marked = {
      ...first.asset,
      parts: first.asset.parts.map((part, i) =>
        i ? part : { ...part, source: { ...ring, sourceOnly } },
      ),
    };
    const { asset, report } = await runOperation(
      reduceToBudget,
      marked,
      { triangles: 200, measure: false },
      plainContext(),
    );
    expect(asset.parts.map(({ game }) => game === null)).toEqual([true, false]);
    expect(report.parts).toMatchObject([
      { part: "ring", triangles: 0, curve: null },
      { part: "plate", curve: { rms: expect.anything() } },
    ]);
  });

  const ball = () => sphere(30, 40, 0.2);
  const box = (): Mesh => transformMesh(cube(), scaled(1));
  const trianglesOf = (asset: Asset, name: string) => {
    const { game } = asset.parts.find((part) => part.name === name)!;
    return game ? triangleCount(game) : 0;
  };

  it("heeds that what nobody sees gets its share, also where somebody has looked", async () => {
    const looked = { ...ball(), visibility: new Uint8Array(faceCount(ball())) };
    const meshes: [string, Mesh][] = [
      ["box", box()],
      ["ball", looked],
      ["outside", moved(ball(), 3, 0, 0)],
    ];
    const none = await run(meshes, { triangles: 200 });
    expect(trianglesOf(none.asset, "ball")).toBeLessThan(10);
    const all = await run(meshes, { triangles: 200, unseen: true });
    expect(trianglesOf(all.asset, "ball")).toBeGreaterThan(50);
  });

  it("counts a part as seen where one of its repeats is", async () => {
    const matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 5, 0, 0, 1];
    const parts = [
      createPart("box", 0, { source: box() }),
      createPart("ball", 1, { source: ball() }),
      createPart("again", 2, {
        source: transformMesh(ball(), matrix),
        repeat: { of: "ball", matrix },
      }),
    ];
    const { asset, report } = await runOperation(
      reduceToBudget,
      createAsset("repeats", parts),
      { triangles: 400, measure: false },
      plainContext(),
    );
    expect(report.hidden).toEqual([]);
    expect(trianglesOf(asset, "ball")).toBeGreaterThan(100);
  });

  it("leaves no shard of a piece: what can't have six triangles goes to the map", () => {
    const { balls, wall } = ballsInRows(30);
    for (const budget of [120, 200, 320]) {
      const game = reduceTogether(
        [joinMeshes([balls, wall])],
        budget,
        plainContext(),
      )[0]!;
      const { count, ofFace } = faceComponents(game);
      const sizes = new Uint32Array(count);
      for (const c of ofFace) sizes[c]++;
      expect(Math.min(...sizes)).toBeGreaterThanOrEqual(6);
      expect(triangleCount(game)).toBeGreaterThanOrEqual(0.9 * budget);
    }
  });

  it("gives what nobody sees next to nothing and names it, unless that is asked for", async () => {
    const { parts, hidden } = cadAssembly(4, 12, 14_000);
    const meshes = parts.map(({ name, mesh }): [string, Mesh] => [name, mesh]);
    const inside = (names: readonly { name: string; game: Mesh | null }[]) =>
      names
        .filter(({ name }) => hidden.includes(name))
        .reduce((sum, { game }) => sum + (game ? triangleCount(game) : 0), 0);
    const { asset, report } = await run(meshes, { triangles: 1400 });
    expect(
      (report.hidden as { part: string }[]).map(({ part }) => part),
    ).toEqual(hidden);
    expect(inside(asset.parts)).toBeLessThan(0.02 * 1400);
    expect(asset.parts.every(({ source }) => !source!.visibility)).toBe(true);
    const judged = await runOperation(judge, asset, {}, plainContext());
    expect(judged.report.max).toBeLessThan(0.02);
    const all = await run(meshes, { triangles: 1400, unseen: true });
    expect(all.report.hidden).toEqual([]);
    expect(inside(all.asset.parts)).toBeGreaterThan(0.1 * 1400);
  });

  it("leaves out what is far smaller than a triangle, says where, and keeps it on request", async () => {
    const body = sphere(60, 80);
    const bridge = (around: number) =>
      [around * 118 + 60, around * 118 + 68] as const;
    const speck = transformMesh(cube(), scaled(0.01));
    const scan = joinMeshes([
      bridged(body, [bridge(3), bridge(30), bridge(55)]),
      moved(speck, 1.3, 0, 0),
      moved(speck, 0, 1.4, 0.2),
    ]);
    keepSettled(scan, { mesh: scan, faces: null, done: [] });
    const asset = createAsset("scan", [
      createPart("scan", 0, { source: scan }),
    ]);
    const run = async (options: object) => {
      const { asset: made, report } = await runOperation(
        reduceToBudget,
        asset,
        { triangles: 100, measure: false, ...options },
        plainContext(),
      );
      const { game } = made.parts[0];
      const edges = buildEdges(game!);
      const { count } = faceComponents(game!);
      const euler =
        new Set(game!.corners).size - edges.count + faceCount(game!);
      return { report, game: game!, count, handles: (2 * count - euler) / 2 };
    };
    const small = await run({});
    expect(small.report.tooSmall).toMatchObject({ pieces: 2, handles: 3 });
    const { places } = small.report.tooSmall as { places: { part: string }[] };
    expect(places).toHaveLength(5);
    expect(places.every(({ part }) => part === "scan")).toBe(true);
    expect([small.count, small.handles]).toEqual([1, 0]);
    expect(usesOf(small.game).every((uses) => uses === 2)).toBe(true);
    const whole = await run({ smallest: true });
    expect(whole.report.tooSmall).toMatchObject({ pieces: 0, handles: 0 });
    expect(whole.handles).toBe(3);
  });
});
