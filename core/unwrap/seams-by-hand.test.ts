import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { laidOn } from "../../tests/laid";
import {
  cube,
  joined,
  moved,
  sheetMesh,
  sphere,
  torus,
  tubeMesh,
} from "../../tests/shapes";
import { buildEdges } from "../mesh/edges";
import { prepareUnwrap } from "./methods/chart";
import { measureUnwrap } from "./methods/measure";
import { islandsOf } from "./methods/connected-islands";
import { regionAt, tracePath } from "./methods/seams/trace";
import { boxOf, gatherIslands } from "./methods/sheet-islands";
import { unfoldSeams } from "./methods/unfold-seams";
import {
  SHEET,
  assetOf,
  run,
  laid,
  gameOf,
  anyInner,
} from "../../tests/unwrapped";

describe("seams by hand", () => {
  it("set, join and forbid edges, and unfold only what changes", async () => {
    const asset = assetOf({ ball: laid(sphere(12, 16)) });
    const edge = `ball:${anyInner(gameOf(asset))}`;
    const cut = await run(asset, "unwrap/set-seams", { edges: [edge] });
    expect(cut.report).toMatchObject({ edges: 1, flipped: 0 });
    expect(
      gameOf(cut.asset).seamOverrides!.reduce((sum, c) => sum + c, 0),
    ).toBe(2);
    const never = await run(cut.asset, "unwrap/set-seams", {
      edges: [edge],
      to: "no seam",
    });
    expect(
      [...gameOf(never.asset).seamOverrides!].filter((c) => c === 2),
    ).toHaveLength(2);
    const free = await run(never.asset, "unwrap/set-seams", {
      edges: [edge],
      to: "as found",
    });
    expect(gameOf(free.asset).seamOverrides).toBeNull();
    const [name] = asset.parts.map((part) => part.name);
    const whole = await run(asset, "unwrap/set-seams", {
      parts: [name],
      to: "no seam",
    });
    const marked = gameOf(whole.asset);
    const { uses, first } = buildEdges(marked);
    uses.forEach((count, e) =>
      expect(marked.seamOverrides![first[e]]).toBe(count > 1 ? 2 : 0),
    );
    await expect(run(asset, "unwrap/set-seams")).rejects.toThrow(
      /no edges are chosen/,
    );
    await expect(
      run(asset, "unwrap/set-seams", { edges: ["ball:0-0"] }),
    ).rejects.toThrow(/no edge between/);
  });

  it("stay through unwrapping, and forbidden edges are no seams where that can be", async () => {
    const tube = tubeMesh(16, 8);
    const edges = buildEdges(tube);
    const along: string[] = [];
    for (let e = 0; e < edges.count; e++) {
      const [v, w] = [edges.vertices[2 * e], edges.vertices[2 * e + 1]];
      if (v % 16 === 5 && w % 16 === 5) along.push(`tube:${v}-${w}`);
    }
    expect(along).toHaveLength(8);
    const marked = await run(assetOf({ tube }), "unwrap/set-seams", {
      edges: along,
    });
    const done = await run(marked.asset, "unwrap/unwrap", {
      rounds: 4,
      symmetric: false,
    });
    expect(done.report).toMatchObject({ islands: 1, overlap: 0, flipped: 0 });
    const seams = gameOf(done.asset).seams!;
    expect(seams.reduce((sum, mark) => sum + mark, 0)).toBe(16);
    const never = await run(assetOf({ tube }), "unwrap/set-seams", {
      edges: along,
      to: "no seam",
    });
    const other = await run(never.asset, "unwrap/unwrap", { rounds: 4 });
    const crossed = gameOf(other.asset).seamOverrides!.filter(
      (cut, c) => cut === 2 && gameOf(other.asset).seams![c],
    );
    expect(crossed).toHaveLength(0);
  });

  it("trace the best way between waypoints, along seams there are", () => {
    const mesh = sheetMesh(8);
    const m = prepareUnwrap(mesh);
    const path = tracePath(m, 0, 8);
    const ends = path.flatMap((e) => [
      m.edges.vertices[2 * e],
      m.edges.vertices[2 * e + 1],
    ]);
    for (const v of new Set(ends))
      expect(ends.filter((w) => w === v)).toHaveLength(
        v === 0 || v === 8 ? 1 : 2,
      );
    expect(tracePath(m, 3, 3)).toEqual([]);
    expect(
      tracePath(prepareUnwrap(joined(cube(), moved(cube(), 5, 0, 0))), 0, 9),
    ).toEqual([]);
  });

  it("go through waypoints as an operation too, or say what is wrong", async () => {
    const asset = assetOf({ ball: laid(sphere(12, 16)) });
    const done = await run(asset, "unwrap/trace-seam", {
      part: "ball",
      through: "3, 40, 90",
    });
    expect(Number(done.report.edges)).toBeGreaterThan(3);
    for (const through of ["3", "3, x", "3, 99999"])
      await expect(
        run(asset, "unwrap/trace-seam", { part: "ball", through }),
      ).rejects.toThrow(/vertices from 0 to/);
    const held = {
      ...asset,
      parts: asset.parts.map((part) => ({ ...part, locked: true })),
    };
    await expect(
      run(held, "unwrap/trace-seam", { part: "ball", through: "3, 40" }),
    ).rejects.toThrow("ball is locked");
  });

  it("cut out what sharp edges or a neck bound", async () => {
    const m = prepareUnwrap(cube());
    expect(regionAt(m, 2)).toEqual([2]);
    const lobe = joined(sphere(20, 24));
    expect(regionAt(prepareUnwrap(lobe), 0)).toBeNull();
    const done = await run(assetOf({ box: laid(cube()) }), "unwrap/cut-out", {
      faces: ["box:2"],
    });
    expect(done.report).toMatchObject({ regions: 1 });
    expect(islandsOf(gameOf(done.asset)).ofFace[2]).not.toBe(
      islandsOf(gameOf(done.asset)).ofFace[0],
    );
  });

  it("are split at hard edges, and few-faced islands joined again", async () => {
    const ball = laid(sphere(12, 16));
    const hard = new Uint8Array(ball.corners.length);
    const edges = buildEdges(ball);
    const face = 40;
    for (let c = ball.faceStarts[face]; c < ball.faceStarts[face + 1]; c++)
      for (const k of [
        edges.first[edges.ofCorner[c]],
        edges.second[edges.ofCorner[c]],
      ])
        if (k >= 0) hard[k] = 1;
    const done = await run(
      assetOf({ ball: { ...ball, hard } }),
      "unwrap/split-at",
    );
    expect(Number(done.report.split)).toBeGreaterThan(0);
    const soft = { ...gameOf(done.asset), hard: null };
    expect(islandsOf(soft).count).toBe(islandsOf(ball).count + 1);
    const again = await run(assetOf({ ball: soft }), "unwrap/join-small");
    expect(again.report).toMatchObject({ joined: 1 });
    expect(islandsOf(gameOf(again.asset)).count).toBe(islandsOf(ball).count);
  });
});

describe("unfolding", () => {
  it("leaves islands that did not change to the bit", () => {
    const ball = laid(joined(cube(), moved(sphere(10, 14), 4, 0, 0)));
    const seams = ball.seams!.slice();
    const inner = [...ball.corners.keys()].find((c) => c > 24 && !seams[c])!;
    const edges = buildEdges(ball);
    const e = edges.ofCorner[inner];
    seams[edges.first[e]] = seams[edges.second[e]] = 1;
    const done = unfoldSeams({ ...ball, seams }, SHEET);
    for (let c = 0; c < 24; c++)
      expect(done.mesh.uvs![2 * c]).toBe(ball.uvs![2 * c]);
    expect(unfoldSeams(ball, SHEET)).toMatchObject({ islands: 0 });
  });

  it("of developable shapes has no stretch, whatever their size", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.01, max: 100, noNaN: true }),
        fc.double({ min: 0.2, max: 6, noNaN: true }),
        (radius, long) => {
          const [tube] = laidOn(
            [tubeMesh(20, 6, radius, radius * long)],
            SHEET,
          );
          expect(measureUnwrap([tube], SHEET).stretch).toBeLessThan(1.002);
        },
      ),
      { numRuns: 6 },
    );
  });

  it("keeps pinned ends where they are", async () => {
    const mesh = laid(sheetMesh(6, (x, z) => 0.2 * Math.sin(3 * x) * z));
    const asset = assetOf({ sheet: mesh });
    const edges = buildEdges(mesh);
    const pins = [0, 20].map(
      (e) => `sheet:${edges.vertices[2 * e]}-${edges.vertices[2 * e + 1]}`,
    );
    const done = await run(asset, "unwrap/unfold", { pins });
    expect(done.report).toMatchObject({ flipped: 0 });
    for (const e of [0, 20])
      for (const v of [edges.vertices[2 * e], edges.vertices[2 * e + 1]]) {
        const c = mesh.corners.indexOf(v);
        for (let k = 0; k < 2; k++)
          expect(
            Math.abs(gameOf(done.asset).uvs![2 * c + k] - mesh.uvs![2 * c + k]),
          ).toBeLessThan(0.02);
      }
  });
});

describe("projections and clean starts", () => {
  for (const from of [
    "plane",
    "x",
    "y",
    "z",
    "view",
    "box",
    "cylinder",
    "sphere",
  ] as const)
    it(`from ${from} give finite UVs at the density of the rest`, async () => {
      const done = await run(
        assetOf({ ball: sphere(10, 14) }),
        "unwrap/project",
        { from },
      );
      expect([...gameOf(done.asset).uvs!].every(Number.isFinite)).toBe(true);
      expect(Number(done.report.islands)).toBeGreaterThan(0);
    });

  it("of a box are true to size on each side", async () => {
    const done = await run(assetOf({ box: cube() }), "unwrap/project", {
      from: "box",
    });
    expect(done.report).toMatchObject({ islands: 6, flipped: 0, overlap: 0 });
    expect(Number(done.report.stretch)).toBeCloseTo(1, 5);
  });

  it("lay each piece down as one island", async () => {
    const mesh = joined(laid(cube()), moved(laid(torus()), 5, 0, 0));
    const done = await run(assetOf({ two: mesh }), "unwrap/start-clean");
    expect(done.report).toMatchObject({ pieces: 2 });
    expect(gameOf(done.asset).seamOverrides).toBeNull();
  });
});

describe("straightening", () => {
  it("makes a strip a true rectangle, as long as it is on the model", async () => {
    // A band that winds round and up.
    const n = 40;
    const positions = new Float32Array((n + 1) * 6);
    for (let i = 0; i <= n; i++)
      for (let k = 0; k < 2; k++)
        positions.set(
          [Math.cos(i / 6), i / 20 + 0.2 * k, Math.sin(i / 6)],
          6 * i + 3 * k,
        );
    const corners = Uint32Array.from({ length: 4 * n }, (_, c) => {
      const i = 2 * (c >> 2);
      return [i, i + 2, i + 3, i + 1][c & 3];
    });
    const faceStarts = Uint32Array.from({ length: n + 1 }, (_, f) => 4 * f);
    const band = unfoldSeams(
      { ...cube(), positions, corners, faceStarts },
      SHEET,
    ).mesh;
    const done = await run(assetOf({ band }), "unwrap/straighten");
    expect(done.report).toMatchObject({ straightened: 1 });
    const [island] = gatherIslands([gameOf(done.asset)], SHEET);
    const [x0, y0, x1, y1] = boxOf(island.pixels);
    for (let i = 0; i < island.pixels.length; i += 2) {
      const off = Math.min(
        Math.abs(island.pixels[i] - x0),
        Math.abs(island.pixels[i] - x1),
        Math.abs(island.pixels[i + 1] - y0),
        Math.abs(island.pixels[i + 1] - y1),
      );
      expect(off).toBeLessThan(0.5);
    }
    expect(Math.sqrt(((x1 - x0) * (y1 - y0)) / island.area)).toBeCloseTo(
      Math.sqrt(island.covered / island.area),
      3,
    );
    const column = await run(done.asset, "unwrap/stack-strips", {
      length: 2,
      wide: 0.25,
    });
    const [strip] = gatherIslands([gameOf(column.asset)], SHEET);
    const box = boxOf(strip.pixels);
    expect(box[2] - box[0]).toBeCloseTo(128, 0);
    expect(box[0]).toBeCloseTo(0, 0);
  });

  it("lays chosen edges in a line, and refuses what is no grid", async () => {
    const mesh = laid(sheetMesh(6, (x, z) => 0.3 * x * z));
    const asset = assetOf({ sheet: mesh });
    const row = [0, 1, 2, 3].map((i) => `sheet:${i}-${i + 1}`);
    const done = await run(asset, "unwrap/straighten", { edges: row });
    const at = [0, 1, 2, 3, 4].map((v) => {
      const c = mesh.corners.indexOf(v);
      return [0, 1].map((k) => gameOf(done.asset).uvs![2 * c + k]);
    });
    const [a, b] = [at[0], at[4]];
    for (const p of at)
      expect(
        Math.abs((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])),
      ).toBeLessThan(1e-6);
    await expect(
      run(assetOf({ ball: laid(sphere(8, 10)) }), "unwrap/straighten"),
    ).rejects.toThrow(/no chosen island/);
  });
});
