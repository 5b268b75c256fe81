import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../tests/laid";
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
import { areaOf } from "../mesh/area";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { texelCode, texelWeight } from "../mesh/texel-weights";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { bringUpToDate, runOperation, staleStages } from "../route";
import { prepareUnwrap } from "./methods/chart";
import { checkUvs } from "./methods/check";
import { measureUnwrap } from "./methods/measure";
import { islandsOf } from "./methods/connected-islands";
import { regionAt, tracePath } from "./methods/seams/trace";
import { sheetOf } from "./methods/sheet";
import { tileAt, tileOf, udimOf } from "../mesh/tiles";
import { boxOf, densityOfIsland, gatherIslands } from "./methods/sheet-islands";
import { unfoldSeams } from "./methods/unfold-seams";

const SHEET = squareSheet(512);
const assetOf = (
  meshes: Record<string, Mesh>,
  brief: Partial<Asset["brief"]> = {},
): Asset => {
  const asset = createAsset(
    "a",
    Object.entries(meshes).map(([name, game], i) =>
      createPart(name, i, { game }),
    ),
  );
  return {
    ...asset,
    brief: { ...asset.brief, sheetSize: 512, padding: 4, ...brief },
  };
};
const run = async (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
const laid = (mesh: Mesh) => laidOn([mesh], SHEET)[0];
const gameOf = (asset: Asset, i = 0) => asset.parts[i].game!;
/** The edge between two faces of a cube that lie across its first seamless edge. */
const anyInner = (mesh: Mesh) => {
  const edges = buildEdges(mesh);
  for (let e = 0; e < edges.count; e++)
    if (edges.uses[e] === 2 && !mesh.seams?.[edges.first[e]])
      return `${edges.vertices[2 * e]}-${edges.vertices[2 * e + 1]}`;
  throw new Error("no inner edge");
};

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

describe("arranging", () => {
  const two = () =>
    assetOf({ one: laid(cube()), other: laid(moved(sphere(8, 10), 4, 0, 0)) });
  const boxesOf = (asset: Asset) =>
    gatherIslands(
      asset.parts.map(({ game }) => game!),
      SHEET,
    ).map(({ pixels }) => boxOf(pixels));

  it("aligns, distributes, snaps, turns and mirrors, and holds what it moved", async () => {
    const asset = two();
    for (const [how, k] of [
      ["left", 0],
      ["bottom", 1],
      ["right", 2],
      ["top", 3],
    ] as const) {
      const done = await run(asset, "unwrap/arrange", { how });
      const edges = boxesOf(done.asset).map((box) => box[k]);
      for (const each of edges) expect(each).toBeCloseTo(edges[0], 2);
      expect(gameOf(done.asset).held!.every((mark) => mark === 1)).toBe(true);
    }
    const snapped = await run(asset, "unwrap/arrange", {
      how: "snap grid",
      grid: 32,
    });
    for (const [x, y] of boxesOf(snapped.asset)) {
      expect(Math.abs(x / 32 - Math.round(x / 32))).toBeLessThan(1e-3);
      expect(Math.abs(y / 32 - Math.round(y / 32))).toBeLessThan(1e-3);
    }
    const turned = await run(asset, "unwrap/arrange", { how: "turn left" });
    const back = await run(turned.asset, "unwrap/arrange", {
      how: "turn right",
    });
    boxesOf(back.asset).forEach((box, i) =>
      box.forEach((x, k) => expect(x).toBeCloseTo(boxesOf(asset)[i][k], 2)),
    );
    const mirrored = await run(asset, "unwrap/arrange", {
      how: "mirror across",
    });
    expect(mirrored.report.findings).toEqual(
      expect.arrayContaining([expect.objectContaining({ kind: "flipped" })]),
    );
    for (const how of [
      "middle across",
      "middle up",
      "spread across",
      "spread up",
      "snap corner",
      "mirror up",
    ])
      expect(
        (await run(asset, "unwrap/arrange", { how })).report.moved,
      ).toBeGreaterThan(0);
  });

  it("turns the model's up to the sheet's, and straight borders along it", async () => {
    const wall = laid(sheetMesh(4));
    const upright = {
      ...wall,
      positions: wall.positions.map((_, i, p) =>
        i % 3 === 1 ? p[i + 1] : i % 3 === 2 ? 0 : p[i],
      ),
    };
    const turned = await run(assetOf({ wall: upright }), "unwrap/move", {
      turn: 33,
    });
    for (const by of ["up", "edge"]) {
      const done = await run(turned.asset, "unwrap/orient", { by });
      const { uvs, corners, positions } = gameOf(done.asset);
      const flat = [...corners.keys()].map((c) => [
        uvs![2 * c + 1],
        positions[3 * corners[c] + 1],
      ]);
      if (by === "up")
        for (const [v, y] of flat)
          for (const [w, z] of flat)
            if (y > z + 0.1) expect(v).toBeGreaterThan(w);
      const [x0, y0, x1, y1] = boxOf(
        gatherIslands([gameOf(done.asset)], SHEET)[0].pixels,
      );
      const covered = gatherIslands([gameOf(done.asset)], SHEET)[0].covered;
      expect(covered / ((x1 - x0) * (y1 - y0))).toBeGreaterThan(0.99);
    }
  });

  it("keeps held islands where they are when the rest is packed and unwrapped again", async () => {
    const asset = two();
    const held = await run(asset, "unwrap/move", {
      faces: ["one:0-5"],
      x: 3,
      y: 5,
    });
    const before = boxesOf(held.asset)[0];
    const packed = await run(held.asset, "unwrap/pack", { rounds: 4 });
    expect(packed.report).toMatchObject({ overlap: 0 });
    boxesOf(packed.asset)[0].forEach((x, k) =>
      expect(x).toBeCloseTo(before[k], 3),
    );
    const again = await run(packed.asset, "unwrap/unwrap", {
      rounds: 4,
      keep: "all",
    });
    expect(gameOf(again.asset).held).not.toBeNull();
    const free = await run(again.asset, "unwrap/pack", {
      rounds: 4,
      letGo: true,
    });
    expect(gameOf(free.asset).held).toBeNull();
  });
});

describe("texel density", () => {
  it("codes weights in even steps", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1 / 32, max: 32, noNaN: true }),
        (weight) => {
          expect(
            Math.abs(Math.log2(texelWeight(texelCode(weight)) / weight)),
          ).toBeLessThan(0.03);
        },
      ),
    );
    expect(texelCode(1)).toBe(0);
    expect(texelWeight(0)).toBe(1);
  });

  it("is given by multiples, kept by packing, and read off parts", async () => {
    const asset = assetOf({
      one: laid(cube()),
      other: laid(moved(cube(), 4, 0, 0)),
    });
    const more = await run(asset, "unwrap/give-density", {
      parts: ["one"],
      times: 2,
    });
    const ratio = (of: Asset) => {
      const [a, b] = of.parts.map(({ game }) =>
        densityOfIsland(
          gatherIslands([{ ...game!, texelWeights: null }], SHEET)[0],
        ),
      );
      return a / b;
    };
    expect(ratio(more.asset)).toBeCloseTo(2, 1);
    const packed = await run(more.asset, "unwrap/pack", { rounds: 4 });
    expect(ratio(packed.asset)).toBeCloseTo(2, 1);
    expect(Number(packed.report.densitySpread)).toBeLessThan(0.03);
    const same = await run(packed.asset, "unwrap/give-density", {
      parts: ["other"],
      by: "part",
      like: "one",
    });
    expect(ratio(same.asset)).toBeCloseTo(1, 1);
    const equal = await run(same.asset, "unwrap/give-density", { by: "equal" });
    expect(gameOf(equal.asset).texelWeights).toBeNull();
    const seen = await run(asset, "unwrap/give-density", {
      by: "visibility",
      times: 0.25,
    });
    expect(Number(seen.report.given)).toBeGreaterThan(0);
    const named = {
      ...asset,
      palette: [{ name: "tin", colour: "#889900" }],
      parts: asset.parts.map((part, i) => ({
        ...part,
        game: {
          ...part.game!,
          ids: new Uint16Array(faceCount(part.game!)).fill(i),
        },
      })),
    };
    const tin = await run(named, "unwrap/give-density", {
      times: 2,
      id: "tin",
    });
    expect(gameOf(tin.asset).texelWeights).toBeNull();
    expect(gameOf(tin.asset, 1).texelWeights).not.toBeNull();
    for (const [options, message] of [
      [{ id: "rust" }, /no ID "rust"/],
      [{ by: "texels" }, /how many texels/],
      [{ by: "part", like: "nobody" }, /no part "nobody"/],
      [{ by: "asset", asset: 3 }, /no other asset/],
    ] as const)
      await expect(run(asset, "unwrap/give-density", options)).rejects.toThrow(
        message,
      );
  });

  it("comes out even on sheets that are not square", async () => {
    const asset = assetOf(
      { box: cube(), ball: moved(sphere(10, 14), 4, 0, 0) },
      { sheetHeight: 256 },
    );
    const { report } = await run(asset, "unwrap/unwrap", { rounds: 4 });
    expect(report).toMatchObject({
      width: 512,
      height: 256,
      overlap: 0,
      flipped: 0,
    });
    expect(Number(report.stretch)).toBeLessThan(1.1);
    expect(Number(report.densitySpread)).toBeLessThan(0.05);
    expect(sheetOf(asset, { size: 1024 })).toMatchObject({
      width: 1024,
      height: 512,
    });
  });
});

describe("tiles", () => {
  it("number by UDIM and find their way back", () => {
    for (let tile = 0; tile < 40; tile++) {
      const [x, y] = tileAt(tile);
      expect(tileOf(x + 0.5, y + 0.5)).toBe(tile);
      expect(udimOf(tile)).toBe(1001 + x + 10 * y);
    }
    expect(tileOf(-0.1, 0.5)).toBe(-1);
    expect(tileOf(10.2, 0.5)).toBe(-1);
  });

  it("share one density, keep parts whole, and take islands from each other", async () => {
    const asset = assetOf({
      one: cube(),
      two: moved(sphere(10, 14), 4, 0, 0),
      three: moved(torus(20, 8), 9, 0, 0),
    });
    const { asset: done, report } = await run(asset, "unwrap/unwrap", {
      rounds: 4,
      tiles: 2,
      deal: "part",
    });
    expect(report).toMatchObject({ tiles: 2, overlap: 0, outside: 0 });
    expect(Number(report.densitySpread)).toBeLessThan(0.05);
    for (const { game } of done.parts)
      expect(
        new Set([...game!.uvs!].filter((_, i) => i % 2 === 0).map(Math.floor))
          .size,
      ).toBe(1);
    const moved3 = await run(done, "unwrap/to-tile", {
      parts: ["three"],
      tile: 1012,
    });
    expect(moved3.report.perTile).toEqual(
      expect.arrayContaining([expect.objectContaining({ tile: 1012 })]),
    );
  });
});

describe("findings", () => {
  it("name overlaps, flips, what lies outside, has no area or stands too near", () => {
    const mesh = laid(cube());
    const find = (
      change: (u: number, v: number, face: number) => [number, number],
    ) => {
      const uvs = mesh.uvs!.slice();
      for (let f = 0; f < faceCount(mesh); f++)
        for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++)
          uvs.set(change(uvs[2 * c], uvs[2 * c + 1], f), 2 * c);
      const broken = { ...mesh, uvs };
      return checkUvs(
        ["box"],
        [broken],
        gatherIslands([broken], SHEET),
        SHEET,
      ).findings.map(({ kind }) => kind);
    };
    expect(find((u, v) => [u, v])).toEqual([]);
    expect(find((u, v) => [1 - u, v])).toContain("flipped");
    expect(find((u, v) => [u - 2, v])).toContain("outside");
    expect(find(() => [0.5, 0.5])).toContain("no area");
    expect(
      find((u, v, f) => (f === 0 ? [0.1 + 0.2 * u, 0.1 + 0.2 * v] : [u, v])),
    ).toContain("overlap");
    const near = laidOn([cube(), moved(cube(), 4, 0, 0)], squareSheet(512, 0));
    const close = squareSheet(512, 8);
    expect(
      checkUvs(
        ["a", "b"],
        near,
        gatherIslands(near, close),
        close,
      ).findings.map(({ kind }) => kind),
    ).toContain("padding");
  });
});

describe("doing it again", () => {
  it("marks the stage stale by what changed, and brings it up to date with seams and places kept", async () => {
    const source = sphere(40, 56);
    let at: Asset = createAsset("a", [createPart("ball", 0, { source })]);
    at = {
      ...at,
      brief: { ...at.brief, triangles: 600, sheetSize: 512, padding: 4 },
    };
    at = (await run(at, "reduce/to-budget")).asset;
    at = (await run(at, "unwrap/unwrap", { rounds: 4 })).asset;
    const islands = at.results.unwrap!.report.islands;
    at = { ...at, brief: { ...at.brief, triangles: 400 } };
    at = (await run(at, "reduce/to-budget")).asset;
    expect(gameOf(at).uvs).toBeNull();
    expect(gameOf(at).seams!.some((mark) => mark)).toBe(true);
    expect(at.parts[0].previousUnwrap?.uvs).toBeTruthy();
    expect(staleStages(at)).toContain("unwrap");
    const { asset: done, redone } = await bringUpToDate(at, plainContext());
    expect(redone).toContain("unwrap");
    expect(done.results.unwrap!.report).toMatchObject({
      islands,
      overlap: 0,
      flipped: 0,
    });
    expect(done.parts[0].previousUnwrap).toBeNull();
    expect(areaOf(gameOf(done))).toBeGreaterThan(0);
  });

  it("records the rounds that a search by time took, so that it can be repeated", async () => {
    const asset = assetOf({ one: cube(), two: moved(sphere(8, 12), 4, 0, 0) });
    const first = await run(asset, "unwrap/unwrap", { seconds: 0.3 });
    const { options } = first.asset.results.unwrap!;
    expect(Number(options.rounds)).toBe(first.report.rounds);
    const again = await run(asset, "unwrap/unwrap", { ...options, seconds: 0 });
    expect([...gameOf(again.asset).uvs!]).toEqual([
      ...gameOf(first.asset).uvs!,
    ]);
  });
});
