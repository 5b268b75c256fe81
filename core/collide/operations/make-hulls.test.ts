import { toDocument } from "../../asset/document";
import { readOptions } from "../../asset/operation";
import { stageStates } from "../../asset/stale";
import { CancelledError } from "../../base/errors";
import { createMesh, meshFromTriangles } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { triangulate } from "../../mesh/triangulate";
import { runOperation } from "../../route";
import { collideAsset } from "./make-hulls";
import { plainContext } from "../../base/context";
import { translation } from "../../mesh/transform";
import { run } from "../../../tests/one-part";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  cube,
  moved,
  sheetMesh,
  sphere,
  torus,
  tubeMesh,
  strewn,
  joined,
} from "../../../tests/shapes";
import { flatRing } from "../../../tests/solids";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { convexHull, volumeOf } from "../methods/convex-hull";
import { hullsOf } from "../methods/solids";
import { fitBox, fitCapsule, fitSphere } from "../methods/fitted-shapes";
import { principalAxes } from "../../space/principal-axes";
import { boundingSphere } from "../../space/round-bounds";
import { buildEdges } from "../../mesh/edges";

describe("Collide", () => {
  it("wraps points in a closed convex hull", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 2, max: 60 }),
        (seed, count) => {
          const { positions } = strewn(count, seed);
          const hull = convexHull(positions)!;
          const edges = buildEdges({
            corners: hull.triangles,
            faceStarts: Uint32Array.from(
              { length: hull.triangles.length / 3 + 1 },
              (_, f) => 3 * f,
            ),
          });
          expect([...edges.uses].every((uses) => uses === 2)).toBe(true);
          expect(volumeOf(hull.positions, hull.triangles)).toBeGreaterThan(0);
          for (let t = 0; t < hull.triangles.length; t += 3) {
            const [a, b, c] = [0, 1, 2].map((k) => [
              ...hull.positions.subarray(
                3 * hull.triangles[t + k],
                3 * hull.triangles[t + k] + 3,
              ),
            ]);
            const u = b.map((x, k) => x - a[k]);
            const v = c.map((x, k) => x - a[k]);
            const n = [
              u[1] * v[2] - u[2] * v[1],
              u[2] * v[0] - u[0] * v[2],
              u[0] * v[1] - u[1] * v[0],
            ];
            const size = Math.hypot(...n);
            if (size < 1e-5) continue;
            for (let i = 0; i < positions.length; i += 3)
              expect(
                n.reduce(
                  (sum, x, k) => sum + (x / size) * (positions[i + k] - a[k]),
                  0,
                ),
              ).toBeLessThan(1e-4);
          }
        },
      ),
      { numRuns: 30 },
    );
    expect(convexHull(sheetMesh(3).positions)).toBeNull();
    expect(
      convexHull(sphere(20, 30).positions, 12)!.positions.length / 3,
    ).toBeLessThanOrEqual(12);
  });

  it("fits a turned box, the smallest sphere and a capsule", () => {
    const turn = cube().positions.map((_, i, p) => {
      const v = 3 * Math.floor(i / 3);
      const [x, y, z] = [p[v] * 3, p[v + 1], p[v + 2] * 0.5];
      return [0.8 * x - 0.6 * y, 0.6 * x + 0.8 * y, z][i % 3];
    });
    const box = fitBox(turn);
    expect(volumeOf(box.positions, box.triangles)).toBeCloseTo(12, 0);
    expect(boundingSphere(sphere().positions).radius).toBeCloseTo(1, 2);
    expect(
      volumeOf(
        fitSphere(cube().positions).positions,
        fitSphere(cube().positions).triangles,
      ),
    ).toBeGreaterThan(15);
    const capsule = fitCapsule(tubeMesh(24, 12, 0.5, 6).positions);
    expect(volumeOf(capsule.positions, capsule.triangles)).toBeLessThan(
      1.6 * Math.PI * 0.25 * 6,
    );
    expect(principalAxes(tubeMesh().positions)[0].map(Math.abs)[1]).toBeCloseTo(
      1,
      5,
    );
  });

  it("cuts where that frees volume, and keeps to the number of hulls", () => {
    const decompose = (
      solids: readonly ReturnType<typeof cube>[],
      most: number,
      vertices: number,
      times?: readonly number[],
    ) =>
      hullsOf(solids, { most, vertices, tolerance: 0 }, plainContext(), times);
    const ring = torus(40, 16);
    const volume = (most: number) =>
      decompose([ring], most, 64).reduce(
        (sum, { hull }) => sum + volumeOf(hull.positions, hull.triangles),
        0,
      );
    expect(volume(8)).toBeLessThan(0.8 * volume(1));
    expect(decompose([ring], 8, 64).length).toBeLessThanOrEqual(8);
    const many = Array.from({ length: 6 }, (_, i) =>
      moved(sphere(6, 8), 3 * i, 0, 0),
    );
    const three = decompose(many, 3, 32);
    expect(three).toHaveLength(3);
    expect(new Set(three.map(({ of }) => of)).size).toBe(3);
    // What stands three times counts three times, and is joined with nothing else.
    const repeated = decompose(many, 5, 32, [3, 1, 1, 1, 1, 1]);
    expect(repeated.filter(({ of }) => of === 0)).toHaveLength(1);
    expect(repeated).toHaveLength(3);
    const each = decompose(many, 9, 32, [1, 1, 1, 1, 1, 1]);
    for (const { hull, of } of each)
      expect(Math.abs(hull.positions[0] - 3 * of)).toBeLessThan(1.5);
  });

  it("count with the repeats that follow, and say where the brief is too small for them", async () => {
    const post = sphere(6, 8);
    const asset = createAsset("fence", [
      createPart("post", 0, { game: post }),
      ...[1, 2, 3].map((i) =>
        createPart(`post ${i}`, i, {
          game: moved(post, 4 * i, 0, 0),
          repeat: { of: "post", matrix: [...translation(4 * i, 0, 0)] },
        }),
      ),
      createPart("rail", 4, { game: moved(torus(20, 8), 6, 3, 0) }),
    ]);
    const make = (maxHulls: number, kind = "hulls") =>
      run("collide/hulls", asset, { kind, maxHulls });
    const eight = await make(8);
    const count = (of: Asset) => of.parts.map((part) => part.hulls.length);
    expect(count(eight.asset)).toEqual([1, 1, 1, 1, 4]);
    expect(eight.headline).toBe("8 hulls");
    expect(eight.report).toMatchObject({ hulls: 8 });
    expect(eight.report.failed).toBeUndefined();
    expect(eight.asset.parts[2].hulls[0].name).toBe("post 2_hull_1");
    // Too few for one each: repeats are joined with what is near, and kept with what nothing repeats.
    for (const kind of ["hulls", "box", "hull"]) {
      const three = await make(3, kind);
      expect(count(three.asset)).toEqual([0, 0, 0, 0, 3]);
      expect(three.report.failed).toBeUndefined();
      expect(three.report.hulls).toBe(3);
    }
    const posts = { ...asset, parts: asset.parts.slice(0, 4) };
    const four = await run("collide/hulls", posts, { maxHulls: 3 });
    expect(count(four.asset)).toEqual([1, 1, 1, 1]);
    expect(four.report.failed).toMatch(/^4 hulls are the fewest here, 3/);
    for (const kind of ["box", "sphere", "capsule", "hull"])
      expect((await make(5, kind)).report).toMatchObject({ hulls: 5 });
  });

  it("keep to their number as single shapes too, and name what is flat", async () => {
    const asset = createAsset("row", [
      ...[0, 1, 2, 3].map((i) =>
        createPart(`ball ${i}`, i, {
          game: moved(sphere(6, 8), i < 2 ? 2.2 * i : 20 + 2.2 * i, 0, 0),
        }),
      ),
      createPart("pane", 4, { game: moved(sheetMesh(2), 0, 50, 0) }),
    ]);
    for (const kind of ["box", "sphere", "capsule", "hull"]) {
      const two = await run("collide/hulls", asset, {
        kind,
        maxHulls: 2,
        parts: asset.parts.slice(0, 4).map(({ name }) => name),
      });
      expect(two.report.hulls).toBe(2);
      expect(two.report.flat).toEqual([]);
      // Near ones share a shape: none reaches over the gap.
      for (const { hulls } of two.asset.parts)
        for (const { positions } of hulls) {
          const xs = positions.filter((_, i) => i % 3 === 0);
          expect(Math.max(...xs) - Math.min(...xs)).toBeLessThan(8);
        }
    }
    // What is only baked has no hull, and no share in the figures.
    const baked = createPart("detail", 5, { source: sphere(20, 30) });
    const [bare, detailed] = await Promise.all(
      [[], [baked]].map((more) =>
        run("collide/hulls", { ...asset, parts: [...asset.parts, ...more] }),
      ),
    );
    expect({ ...detailed.report, seconds: 0 }).toEqual({
      ...bare.report,
      seconds: 0,
    });
    const flat = await run("collide/hulls", asset, { kind: "hull" });
    expect(flat.report.flat).toEqual(["pane"]);
  });

  it("makes the cheapest shapes that stay within an error, and says where none does", async () => {
    const asset = createAsset("post", [
      createPart("ball", 0, { game: moved(sphere(24, 32), 0, 5, 0) }),
      createPart("block", 1, { game: cube() }),
    ]);
    const best = (error: number, maxHulls = 4) =>
      run("collide/hulls", asset, { kind: "best", error, maxHulls });
    const near = await best(150);
    expect(near.asset.parts.map(({ hulls }) => hulls[0].kind)).toEqual([
      "sphere",
      "box",
    ]);
    expect(near.report.failed).toBeUndefined();
    expect(near.report.maxDistance).toBeLessThanOrEqual(0.15);
    const all = await best(10, 1);
    expect(all.report.failed).toMatch(/stands \d+\.\d mm off, 10\.0 mm are/);
  });

  it("tells of a gap that counts and is covered, and leaves it open where it may", async () => {
    const asset = createAsset("ring", [
      createPart("ring", 0, { game: flatRing(24) }),
    ]);
    const make = (maxHulls: number, smallestGap: number) =>
      run("collide/hulls", asset, { maxHulls, smallestGap });
    expect((await make(1, 100)).report.failed).toMatch(/^a gap of 1[0-9]{3}/);
    expect((await make(1, 2000)).report.failed).toBeUndefined();
    expect((await make(16, 500)).report.failed).toBeUndefined();
  });

  it("lays a ground mesh that is light and near, is not dropped, and holds nothing", async () => {
    const bumps = sphere(40, 60, 1, (angle) => 0.02 * Math.sin(9 * angle));
    const asset = createAsset("rock", [createPart("rock", 0, { game: bumps })]);
    const laid = await run("collide/hulls", asset, {
      kind: "ground",
      error: 20,
    });
    const [ground] = laid.asset.parts[0].hulls;
    expect(ground.kind).toBe("ground");
    expect(ground.triangles.length).toBeLessThan(bumps.corners.length / 4);
    expect(laid.report.outside).toBeLessThanOrEqual(0.0201);
    expect(laid.report.failed).toBeUndefined();
    await expect(run("collide/drop", laid.asset)).rejects.toThrow(
      "a ground mesh never moves",
    );
  });

  it("makes one shape for a group, from the mesh that is asked for, without tiny pieces", async () => {
    const rivets = joined(cube(), moved(sphere(6, 8, 0.01), 0, 3, 0));
    const part = (name: string, order: number, group: string, x: number) => ({
      ...createPart(name, order, {
        game: moved(rivets, x, 0, 0),
        source: moved(sphere(12, 16, 2), x, 0, 0),
        levels: [moved(cube(), x, 1, 0)],
      }),
      group,
    });
    const asset = createAsset("kit", [
      part("a", 0, "pair", 0),
      part("b", 1, "pair", 3),
      part("c", 2, "", 10),
    ]);
    const make = async (options: object) =>
      (
        await run("collide/hulls", asset, {
          kind: "box",
          smallestPiece: 0.001,
          ...options,
        })
      ).asset;
    const high = ({
      hulls: [hull],
    }: {
      hulls: { positions: Float32Array }[];
    }) => Math.max(...hull.positions.filter((_, i) => i % 3 === 1));
    const grouped = await make({ together: "group" });
    expect(grouped.parts.map(({ hulls }) => hulls.length)).toEqual([1, 0, 1]);
    expect(grouped.parts[0].hulls[0].name).toBe("pair_hull_1");
    expect(high(grouped.parts[2])).toBeCloseTo(3, 1);
    expect(high((await make({ smallestPiece: 100 })).parts[2])).toBeCloseTo(1);
    expect(high((await make({ from: "1" })).parts[2])).toBeCloseTo(2);
    expect(high((await make({ from: "source" })).parts[2])).toBeCloseTo(2, 1);
    await expect(make({ from: "2" })).rejects.toThrow("have no mesh");
  });

  it("makes hulls of every level where that is asked, of its own mesh, and counts them apart", async () => {
    const asset = createAsset("post", [
      createPart("post", 0, {
        game: sphere(12, 16),
        levels: [sphere(6, 8), cube()],
      }),
      createPart("again", 1, {
        game: moved(sphere(12, 16), 4, 0, 0),
        levels: [moved(sphere(6, 8), 4, 0, 0), moved(cube(), 4, 0, 0)],
        repeat: { of: "post", matrix: translation(4, 0, 0) },
      }),
    ]);
    const { asset: made, headline } = await run("collide/hulls", asset, {
      kind: "hull",
      vertices: 255,
      forLevels: true,
    });
    const [post, again] = made.parts;
    expect(post.hulls.map(({ name, level = 0 }) => [name, level])).toEqual([
      ["post_hull_1", 0],
      ["post_lod1_hull_1", 1],
      ["post_lod2_hull_1", 2],
    ]);
    expect(post.hulls.map(({ positions }) => positions.length / 3)).toEqual([
      asset.parts[0].game!.positions.length / 3,
      asset.parts[0].levels[0].positions.length / 3,
      8,
    ]);
    expect(again.hulls.map(({ level = 0 }) => level)).toEqual([0, 1, 2]);
    expect(headline).toBe("2 hulls");
    const dropped = await run("collide/drop", made, {});
    const bare = await run("collide/hulls", asset, {
      kind: "hull",
      vertices: 255,
    });
    expect(bare.asset.parts[0].hulls).toHaveLength(1);
    // Only the asset's own fall.
    const plain = await run("collide/drop", bare.asset, {});
    expect(dropped.report.trials).toEqual(plain.report.trials);
  });

  it("leaves out what is tiny or seen by nobody, unless that is asked for or there is nothing else", async () => {
    const withPiece = (piece: Mesh, seen: number) => {
      const mesh = joined(cube(), piece);
      const visibility = Uint8Array.from(
        { length: mesh.faceStarts.length - 1 },
        (_, f) => (f < 6 ? 200 : seen),
      );
      const game = { ...mesh, visibility };
      return createAsset("box", [createPart("box", 0, { game })]);
    };
    const high = async (asset: Asset, options: object = {}) => {
      const made = await run("collide/hulls", asset, {
        kind: "box",
        ...options,
      });
      const [{ positions }] = made.asset.parts[0].hulls;
      return Math.max(...positions.filter((_, i) => i % 3 === 1));
    };
    const rivet = moved(sphere(6, 8, 0.01), 0, 1.2, 0);
    expect(await high(withPiece(rivet, 200))).toBeCloseTo(1, 5);
    expect(
      await high(withPiece(rivet, 200), { smallestPiece: 0.001 }),
    ).toBeGreaterThan(1.2);
    const lump = moved(sphere(6, 8, 0.5), 0, 3, 0);
    expect(await high(withPiece(lump, 200))).toBeCloseTo(3.5, 1);
    expect(await high(withPiece(lump, 0))).toBeCloseTo(1, 5);
    expect(await high(withPiece(lump, 0), { unseenToo: true })).toBeCloseTo(
      3.5,
      1,
    );
    const hidden = withPiece(lump, 0);
    hidden.parts[0].game!.visibility!.fill(0);
    expect(await high(hidden)).toBeCloseTo(3.5, 1);
  });

  it("keeps loose pieces apart by where they are, not by shared vertices, and leaves tiny ones out of what is told", async () => {
    // As STL gives it: no triangle shares a vertex with another.
    const soup = ({ positions, corners, faceStarts }: Mesh): Mesh => {
      const { vertices } = triangulate(
        createMesh({ positions, corners, faceStarts }),
      );
      return meshFromTriangles(
        Float32Array.from(
          [...vertices].flatMap((v) => [
            ...positions.subarray(3 * v, 3 * v + 3),
          ]),
        ),
        Uint32Array.from(vertices, (_, i) => i),
      );
    };
    const ball = soup(
      joined(sphere(12, 16), moved(sphere(6, 8, 0.01), 0, 3, 0)),
    );
    const asset = createAsset("ball", [createPart("ball", 0, { game: ball })]);
    const made = await run("collide/hulls", asset, {
      kind: "box",
      smallestPiece: 1000,
      error: 800,
    });
    const ys = made.asset.parts[0].hulls[0].positions.filter(
      (_, i) => i % 3 === 1,
    );
    expect(Math.max(...ys)).toBeCloseTo(1, 1);
    expect(Math.min(...ys)).toBeCloseTo(-1, 1);
    expect(made.report.outside).toBeLessThan(0.01);
    expect(made.report.failed).toBeUndefined();
  });

  it("holds a shape to the error and the gap alike in words and in figures", async () => {
    const asset = createAsset("ring", [
      createPart("ring", 0, { game: flatRing(24) }),
    ]);
    const make = async (options: object) =>
      (await run("collide/hulls", asset, { maxHulls: 1, ...options })).report;
    expect(await make({})).toMatchObject({ allowed: null });
    // A gap that may be covered is not held against the error.
    const wide = { error: 1, smallestGap: 2000, vertices: 64 };
    const both = await make(wide);
    expect(both.allowed).toBe(1);
    expect(both.failed).toBeUndefined();
    expect((await make({ error: 100 })).failed).toMatch(/off, 100.0 mm are/);
  });

  it("goes stale with the mesh and the groups it was made from, and with no others", async () => {
    const part = createPart("a", 0, {
      game: cube(),
      source: sphere(12, 16, 2),
      levels: [cube()],
    });
    const asset = createAsset("kit", [part]);
    const states = async (options: object, change: Partial<typeof part>) => {
      const made = (await run("collide/hulls", asset, options)).asset;
      const next = { ...made, parts: [{ ...made.parts[0], ...change }] };
      return stageStates(toDocument(next, () => {})).find(
        ({ stage }) => stage === "collide",
      )!.state;
    };
    const source = { source: sphere(12, 16, 3) };
    const levels = { levels: [sphere(6, 8)] };
    expect(await states({}, source)).toBe("current");
    expect(await states({ from: "source" }, source)).toBe("stale");
    expect(await states({}, levels)).toBe("current");
    expect(await states({ from: "1" }, levels)).toBe("stale");
    expect(await states({}, { group: "b" })).toBe("current");
    expect(await states({ together: "group" }, { group: "b" })).toBe("stale");
  });

  it("takes what was recorded when all together was a flag", () => {
    const read = (raw: object) => readOptions(collideAsset, raw);
    expect(read({ whole: true }).together).toBe("asset");
    expect(read({ whole: false }).together).toBe("part");
    expect(read({ together: "group" }).together).toBe("group");
    expect(() => read({ all: true })).toThrow("no such option");
  });

  it("tells how far it is, and stops at once wherever it is asked to", async () => {
    const asset = createAsset("ring", [
      createPart("ring", 0, { game: torus(32, 12) }),
    ]);
    const shares: number[] = [];
    let asked = 0;
    const context = (stopAt: number) => ({
      ...plainContext(),
      progress: (share: number) => shares.push(share),
      check() {
        if (++asked === stopAt) throw new CancelledError();
      },
    });
    const make = (stopAt: number) =>
      runOperation(collideAsset, asset, { maxHulls: 6 }, context(stopAt));
    await make(Infinity);
    const all = asked;
    expect(Math.max(...shares)).toBeGreaterThan(0.8);
    expect(new Set(shares).size).toBeGreaterThan(5);
    for (const share of [0, 0.3, 0.6, 0.99]) {
      asked = 0;
      await expect(
        Promise.resolve().then(() => make(1 + Math.floor(share * (all - 1)))),
      ).rejects.toThrow(CancelledError);
    }
  });

  for (const kind of [
    "best",
    "box",
    "sphere",
    "capsule",
    "prism",
    "hull",
    "hulls",
  ])
    it(`makes ${kind} for each part and for all`, async () => {
      const asset = createAsset("two", [
        createPart("a", 0, { game: sphere(8, 10) }),
        createPart("b", 1, { game: moved(cube(), 4, 0, 0) }),
      ]);
      const each = await run("collide/hulls", asset, { kind, maxHulls: 4 });
      expect(each.asset.parts.every((part) => part.hulls.length >= 1)).toBe(
        true,
      );
      expect(each.asset.parts[0].hulls[0].name).toBe("a_hull_1");
      expect(each.report.volumeRatio).toBeGreaterThan(0.9);
      const all = await run("collide/hulls", asset, {
        kind,
        maxHulls: 1,
        together: "asset",
      });
      expect(all.report.hulls).toBe(1);
      expect(Number(all.report.added)).toBeGreaterThan(0);
    });
});
