import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { cube, moved, sheetMesh, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import type { BakedKind } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { plainContext } from "../../base/context";
import { KERNELS, findOperation } from "../../operations";
import { runOperation } from "../../route";
import { toDocument } from "../../asset/document";
import { stageStates } from "../../asset/stale";
import { reduceTogether } from "../../decimate/reduce-together";
import { WebIO } from "@gltf-transform/core";
import { islandsOf } from "../../unwrap/methods/connected-islands";
import { shippedFiles } from "../../../tests/shipped";
import { dilate } from "../../space/dilate";
import { measureFidelity } from "../methods/fidelity";
import type { BakeFinding } from "../methods/findings";
import type { MapsWanted } from "../methods/maps";
import { bakeMaps, missedShares } from "../methods/maps";

const context = plainContext(KERNELS);
const SIZE = 256;

const unwrapped = (mesh: Mesh) => laidOn([mesh], squareSheet(SIZE))[0];
const wanted = {
  width: SIZE,
  height: SIZE,
  rays: 0,
  grid: 2,
  distance: 0,
  maps: ["normal"] as BakedKind[],
  depth: 8 as const,
  padding: 4,
  greenUp: true,
};

/** A bumpy ball and its reduced, unwrapped copy. */
function ball(): Asset {
  const source = sphere(
    90,
    120,
    1,
    (a, t) => 0.02 * Math.sin(9 * a) * Math.cos(7 * t),
  );
  const laid = unwrapped(reduceTogether([source], 500, context)[0]!);
  // Numbers that stay the same where a whole sheet is added.
  const uvs = laid.uvs!.map((x) => Math.round(x * 2 ** 20) / 2 ** 20);
  const game = { ...laid, uvs };
  return createAsset("ball", [createPart("ball", 0, { source, game })]);
}

/** The same, its islands moved by whole sheets: every second one to the right. */
function onTwoSheets(asset: Asset): Asset {
  const game = asset.parts[0].game!;
  const { ofFace } = islandsOf(game);
  const uvs = game.uvs!.slice();
  for (let f = 0; f < ofFace.length; f++)
    for (let c = game.faceStarts[f]; c < game.faceStarts[f + 1]; c++)
      uvs[2 * c] += ofFace[f] % 2;
  return {
    ...asset,
    parts: [{ ...asset.parts[0], game: { ...game, uvs } }],
  };
}

describe("several sheets", () => {
  it("get a map each, with the texels that one sheet had", async () => {
    const asset = ball();
    const one = await bakeMaps(asset, { ...wanted, padding: 0 }, context);
    const two = await bakeMaps(
      onTwoSheets(asset),
      { ...wanted, padding: 0 },
      context,
    );
    expect(two.maps.map((map) => map.tile ?? 0)).toEqual([0, 1]);
    expect(two.figures.covered).toBeCloseTo(one.figures.covered / 2, 4);
    const [whole] = one.maps;
    const flat = [128, 128, 255];
    for (let i = 0; i < whole.pixels.length; i += 3) {
      const sheets = two.maps.filter((map) =>
        flat.some((value, k) => map.pixels[i + k] !== value),
      );
      expect(sheets.length).toBeLessThanOrEqual(1);
      const shown = sheets[0] ?? two.maps[0];
      for (let k = 0; k < 3; k++)
        if (Math.abs(shown.pixels[i + k] - whole.pixels[i + k]) > 1)
          throw new Error(`texel ${i / 3} differs`);
    }
  });

  it("are baked one by one: those that still hold stay, and of the rest it is said that they are not there", async () => {
    const asset = onTwoSheets(ball());
    const run = async (from: Asset, options: object) => {
      const { asset: made, report } = await runOperation(
        findOperation("bake/maps"),
        from,
        { ...{ ao: false, size: 64, samples: 1 }, ...options },
        context,
      );
      const sheets = made.maps
        .filter(({ kind }) => kind === "normal")
        .map(({ tile }) => tile ?? 0);
      const missing = (report.findings as BakeFinding[]).flatMap(
        ({ kind, reason }) => (kind === "not baked" ? [reason] : []),
      );
      return { made, sheets, missing };
    };
    const second = await run(asset, { sheets: "1002" });
    expect(second.sheets).toEqual([1]);
    expect(second.missing).toEqual(["sheet 1001 was not baked"]);
    const both = await run(second.made, { sheets: "1001" });
    expect(both.sheets).toEqual([0, 1]);
    expect(both.missing).toEqual([]);
    const whole = await run(asset, {});
    expect(both.made.maps).toEqual(whole.made.maps);
    // With another green the other sheet no longer holds.
    const turned = await run(both.made, { sheets: "1001", green: "down" });
    expect(turned.sheets).toEqual([0]);
    await expect(run(asset, { sheets: "1001, 1009" })).rejects.toThrow(
      /no islands lie on a sheet "1009": there are 1001, 1002/,
    );
  });

  it("are refused where there are more than memory holds, and none where UVs lie far off", async () => {
    const asset = ball();
    const away = (step: number): Asset => {
      const game = asset.parts[0].game!;
      const uvs = game.uvs!.map((x, k) => x + (k % 2 ? step : 0));
      return {
        ...asset,
        parts: [{ ...asset.parts[0], game: { ...game, uvs } }],
      };
    };
    const { maps } = await bakeMaps(away(1e6), wanted, context);
    expect(maps.map((map) => map.tile ?? 0)).toEqual([0]);
    await expect(
      bakeMaps(
        onTwoSheets(asset),
        { ...wanted, width: 16384, height: 16384 },
        context,
      ),
    ).rejects.toThrow("2 sheets, too many to bake at 16384 × 16384 px");
  });

  it("are shipped by UDIM number, and lie on the first one in a GLB", async () => {
    const asset = onTwoSheets(ball());
    const { maps } = await bakeMaps(
      asset,
      { ...wanted, maps: ["normal", "ao"], rays: 4 },
      context,
    );
    const { files } = await shippedFiles(
      { ...asset, maps },
      { obj: true, hullsAs: "none" },
    );
    expect(
      files.map(({ name }) => name).filter((n) => n.endsWith("png")),
    ).toEqual([
      "ball_normal.1001.png",
      "ball_ao.1001.png",
      "ball_normal.1002.png",
      "ball_ao.1002.png",
    ]);
    const glb = await new WebIO().readBinary(
      files.find(({ name }) => name.endsWith(".glb"))!.bytes as never,
    );
    const materials = glb.getRoot().listMaterials();
    expect(materials.map((material) => material.getName())).toEqual([
      "surface 1001",
      "surface 1002",
    ]);
    expect(
      new Set(materials.map((material) => material.getNormalTexture())).size,
    ).toBe(2);
    for (const mesh of glb.getRoot().listMeshes())
      for (const primitive of mesh.listPrimitives()) {
        const uv = primitive.getAttribute("TEXCOORD_0")!;
        expect(Math.min(...uv.getMin([]))).toBeGreaterThanOrEqual(0);
        expect(Math.max(...uv.getMax([]))).toBeLessThanOrEqual(1);
      }
    const obj = new TextDecoder().decode(
      files.find(({ name }) => name.endsWith(".obj"))!.bytes,
    );
    expect(obj).toMatch(/^vt 1\./m);
  });
});

describe("normal maps", () => {
  it("tell what hangs over an open border of the source from what meets none", async () => {
    const source = sheetMesh(8);
    const game = unwrapped({
      ...sheetMesh(1),
      positions: sheetMesh(1).positions.map((x) => 1.02 * x),
    });
    const asset = createAsset("sheet", [
      createPart("sheet", 0, { source, game }),
    ]);
    const shares = async (of: Asset, more: Partial<MapsWanted> = {}) =>
      missedShares((await bakeMaps(of, { ...wanted, ...more }, context)).parts);
    const { parts, maps } = await bakeMaps(asset, wanted, context);
    const figures = missedShares(parts);
    expect(figures.missed).toBe(0);
    expect(figures.overhanging).toBeGreaterThan(0.02);
    expect(figures.overhanging).toBeLessThan(0.06);
    expect(maps).toHaveLength(1);
    // Closer rays than the border is away: those texels met nothing.
    const near = await shares(asset, { distance: 0.002 });
    expect(near.overhanging + near.missed).toBeCloseTo(figures.overhanging, 5);
    expect(near.missed).toBeGreaterThan(0.01);
    // Inside a closed source nothing ends.
    const closed = await shares(ball(), { distance: 1e-5 });
    expect(closed.overhanging).toBe(0);
    expect(closed.missed).toBeGreaterThan(0.01);
  });

  it("show what lies beside a sharp rim where the game mesh reaches past it", async () => {
    // A plate whose upper side the sheet over it overhangs by a hundredth, with walls that rays from above pass by.
    const plate = cube();
    const [low, high] = [0, 1].map((k) => {
      const heights = plate.positions.filter((_, i) => i % 3 === 1);
      return k ? Math.max(...heights) : Math.min(...heights);
    });
    const source = {
      ...plate,
      positions: plate.positions.map((x, i) =>
        i % 3 === 1 ? (x > (low + high) / 2 ? 0 : -0.02) : x,
      ),
    };
    const wide = Math.max(...source.positions);
    const sheet = sheetMesh(4);
    const reach = Math.max(...sheet.positions);
    const game = unwrapped({
      ...sheet,
      positions: sheet.positions.map((x) => (1.01 * wide * x) / reach),
    });
    const asset = createAsset("plate", [
      createPart("plate", 0, { source, game }),
    ]);
    const { maps, parts } = await bakeMaps(
      asset,
      { ...wanted, distance: 0.2, maps: ["object"] },
      context,
    );
    const { missed, overhanging } = missedShares(parts);
    expect(missed).toBe(0);
    expect(overhanging).toBeGreaterThan(0.01);
    // Only the upper side is seen.
    const normals = new Set<string>();
    for (let i = 0; i < maps[0].pixels.length; i += 3)
      normals.add(maps[0].pixels.slice(i, i + 3).join(" "));
    expect([...normals]).toEqual(["128 255 128"]);
  });

  it("give the source's normals back, with few texels missed", async () => {
    const asset = ball();
    const { maps, parts } = await bakeMaps(asset, wanted, context);
    expect(missedShares(parts).missed).toBeLessThan(0.001);
    const { mean, unmet } = measureFidelity(asset, maps[0], true, 4000);
    expect(mean).toBeLessThan(3);
    expect(unmet).toBeLessThan(0.001);
  });

  it("turn green over for profiles that want it down", async () => {
    const asset = ball();
    const up = (await bakeMaps(asset, wanted, context)).maps[0].pixels;
    const down = (await bakeMaps(asset, { ...wanted, greenUp: false }, context))
      .maps[0].pixels;
    let apart = 0;
    for (let i = 1; i < up.length; i += 3)
      apart = Math.max(apart, Math.abs(up[i] + down[i] - 255));
    expect(apart).toBeLessThanOrEqual(1);
  });

  it("are flat where game and source are the same plane, at 16 bits too", async () => {
    const plane = sheetMesh(10);
    const game = unwrapped(sheetMesh(2));
    const asset = createAsset("plane", [
      createPart("plane", 0, { source: plane, game }),
    ]);
    for (const depth of [8, 16] as const) {
      const [map] = (await bakeMaps(asset, { ...wanted, depth }, context)).maps;
      const top = depth === 16 ? 65535 : 255;
      for (let i = 0; i < map.pixels.length; i += 3) {
        expect(Math.abs(map.pixels[i] - top / 2)).toBeLessThanOrEqual(1);
        expect(map.pixels[i + 2]).toBe(top);
      }
    }
  });

  it("only catch the part of their own name", async () => {
    const source = sheetMesh(8);
    const bumpy = moved(
      sheetMesh(40, (x, z) => 0.02 * Math.sin(60 * x) * Math.sin(60 * z)),
      0,
      0.01,
      0,
    );
    const parts = [
      createPart("floor", 0, { source, game: unwrapped(sheetMesh(2)) }),
      createPart("cloth", 1, {
        source: bumpy,
        game: moved(sheetMesh(4), 5, 0, 0),
      }),
    ];
    const flat = (
      await bakeMaps(
        createAsset("a", parts),
        { ...wanted, distance: 0.1 },
        context,
      )
    ).maps[0];
    expect(
      flat.pixels.every((x, i) => i % 3 === 2 || Math.abs(x - 127.5) <= 1),
    ).toBe(true);
    const loose = [parts[0], { ...parts[1], game: null }];
    const caught = (
      await bakeMaps(
        createAsset("a", loose),
        { ...wanted, distance: 0.1 },
        context,
      )
    ).maps[0];
    expect(
      caught.pixels.some((x, i) => i % 3 !== 2 && Math.abs(x - 127.5) > 20),
    ).toBe(true);
  });
});

describe("ambient occlusion", () => {
  it("is bright in the open and dark in a slot", async () => {
    const slot = (x: number) => (Math.abs(x - 0.5) < 0.1 ? -0.6 : 0);
    const source = sheetMesh(60, slot);
    const asset = createAsset("slot", [
      createPart("slot", 0, { source, game: unwrapped(sheetMesh(60, slot)) }),
    ]);
    const { maps } = await bakeMaps(
      asset,
      { ...wanted, maps: ["ao"], rays: 32 },
      context,
    );
    expect(maps.map((map) => map.kind)).toEqual(["ao"]);
    const seen = [...maps[0].pixels];
    expect(Math.max(...seen)).toBe(255);
    expect(seen.filter((x) => x < 110).length).toBeGreaterThan(200);
  });
});

describe("dilation", () => {
  it("carries values outwards by as many rings as asked", () => {
    const values = new Float32Array(49);
    const covered = new Uint8Array(49);
    values[24] = 5;
    covered[24] = 1;
    dilate(values, 1, covered, 7, 7, 2);
    expect(values[24 + 2]).toBe(5);
    expect(values[24 + 16]).toBe(5);
    expect(values[24 + 3]).toBe(0);
  });
});

describe("the operation", () => {
  it("says what is missing", async () => {
    const bake = findOperation("bake/maps");
    await expect(
      runOperation(bake, createAsset("a"), {}, context),
    ).rejects.toThrow(/no source mesh/);
    await expect(
      runOperation(
        bake,
        createAsset("a", [createPart("p", 0, { source: sphere() })]),
        {},
        context,
      ),
    ).rejects.toThrow(/unwrap it first/);
  });
});

it("what became of the rays makes nothing stale that is made of maps", async () => {
  const whole = ball();
  let asset: Asset = { ...whole, brief: { ...whole.brief, sheetSize: 64 } };
  for (const [id, options] of [
    ["bake/maps", { rays: 4 }],
    ["ship/archive", {}],
  ] as const)
    asset = (await runOperation(findOperation(id), asset, options, context))
      .asset;
  /** How Ship stands once the maps of a kind are others. */
  const shipAfter = (kind: BakedKind | null) =>
    stageStates(
      toDocument(
        {
          ...asset,
          maps: asset.maps.map((map) =>
            map.kind === kind
              ? { ...map, pixels: map.pixels.slice().fill(9) }
              : map,
          ),
        },
        () => {},
      ),
    ).find(({ stage }) => stage === "ship")!.state;
  expect([null, "status" as const, "normal" as const].map(shipAfter)).toEqual([
    "current",
    "current",
    "stale",
  ]);
});
