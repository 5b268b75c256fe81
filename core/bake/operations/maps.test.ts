import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { cube, moved, sheetMesh, sphere } from "../../../tests/shapes";
import type { Asset, Part } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import type { BakedMap, BakedKind } from "../../base/pictures";
import { MAP_KINDS } from "../../base/pictures";
import { keepFaces } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import type { MapsWanted } from "../methods/maps";
import { bakeMaps, missedShares } from "../methods/maps";

const context = plainContext(KERNELS);
const SIZE = 96;
const unwrapped = (mesh: Mesh) => laidOn([mesh], squareSheet(SIZE))[0];

/** A part whose game mesh is the given one, or its source once more, unwrapped. */
const part = (name: string, source: Mesh, game: Mesh = source): Part =>
  createPart(name, 0, { source, game: unwrapped(game) });

async function baked(
  asset: Asset,
  maps: readonly BakedKind[],
  more: Partial<MapsWanted> = {},
): Promise<{
  of: (kind: BakedKind) => BakedMap;
  figures: ReturnType<typeof missedShares> &
    Awaited<ReturnType<typeof bakeMaps>>["figures"];
}> {
  const {
    maps: made,
    figures,
    parts,
  } = await bakeMaps(
    asset,
    {
      width: SIZE,
      height: SIZE,
      rays: 64,
      grid: 1,
      distance: 0,
      depth: 16,
      padding: 0,
      greenUp: true,
      maps,
      ...more,
    },
    context,
  );
  return {
    figures: { ...figures, ...missedShares(parts) },
    of: (kind) => made.find((map) => map.kind === kind)!,
  };
}

/** Values of a map as shares of white where the mask is not black, texel by texel. */
function shares(map: BakedMap, mask: BakedMap): number[][] {
  const top = map.depth === 16 ? 65535 : 255;
  const { channels } = map;
  const found: number[][] = [];
  for (let i = 0; i < map.width * map.height; i++)
    if (mask.pixels[mask.channels * i])
      found.push(
        [...map.pixels.subarray(channels * i, channels * i + channels)].map(
          (x) => x / top,
        ),
      );
  return found;
}
const mean = (list: readonly number[]) =>
  list.reduce((sum, x) => sum + x, 0) / list.length;

describe("maps of a ball onto itself", () => {
  const RADIUS = 0.5;
  const ball = createAsset("ball", [part("ball", sphere(60, 80, RADIUS))]);

  it("have the normal along the place: object normals, bent normals and positions agree", async () => {
    const { of, figures } = await baked(ball, [
      "object",
      "bent",
      "position",
      "opacity",
    ]);
    const mask = of("opacity");
    const places = shares(of("position"), mask);
    const { min, max } = figures.box;
    for (const kind of ["object", "bent"] as const) {
      const found = shares(of(kind), mask);
      const worst = found.map((n, i) => {
        const at = places[i].map((x, k) => min[k] + x * (max[k] - min[k]));
        return n.reduce((sum, x, k) => sum + ((2 * x - 1) * at[k]) / RADIUS, 0);
      });
      expect(mean(worst), kind).toBeGreaterThan(0.998);
    }
  });

  it("tell height of the axis by gradient, and that nothing stands off", async () => {
    const { of, figures } = await baked(ball, [
      "position",
      "gradient",
      "height",
      "opacity",
    ]);
    const places = shares(of("position"), of("opacity"));
    const rise = shares(of("gradient"), of("opacity"));
    rise.forEach(([x], i) => expect(x).toBeCloseTo(places[i][1], 4));
    expect(figures.range).toBeLessThan(1e-3);
    // What is only rounding is no relief.
    for (const [x] of shares(of("height"), of("opacity")))
      expect(Math.abs(x - 0.5)).toBeLessThan(0.02);
  });

  it("tell curvature as half the radius asked about over the ball's own, white for convex", async () => {
    for (const radius of [0.1, 0.2]) {
      const { of } = await baked(ball, ["curvature", "opacity"], {
        radius,
        rays: 256,
      });
      const found = shares(of("curvature"), of("opacity")).map(([x]) => x);
      expect(2 * mean(found) - 1).toBeCloseTo(radius / (2 * RADIUS), 2);
    }
  });

  it("tell thickness as the mean way through it: four thirds of the radius", async () => {
    const { of } = await baked(ball, ["thickness", "opacity"], {
      depthUnder: 1,
    });
    const found = shares(of("thickness"), of("opacity")).map(([x]) => x);
    expect(mean(found)).toBeCloseTo((4 / 3) * RADIUS, 1);
  });

  it("see the whole sky, and half of it where a floor lies under them", async () => {
    const open = await baked(ball, ["visibility", "ao", "opacity"]);
    for (const kind of ["visibility", "ao"] as const)
      expect(
        mean(shares(open.of(kind), open.of("opacity")).map(([x]) => x)),
      ).toBeCloseTo(1, 2);
    const floored = await baked(ball, ["visibility", "opacity"], {
      floor: true,
    });
    const found = shares(floored.of("visibility"), floored.of("opacity"));
    expect(mean(found.map(([x]) => x))).toBeCloseTo(0.5, 1);
  });
});

describe("heights", () => {
  it("are how far the source stands out, grey where it lies on the game mesh", async () => {
    const lifted = moved(sheetMesh(8), 0, 0, 0);
    const source = {
      ...lifted,
      positions: lifted.positions.map((x, i) =>
        i % 3 === upOf(lifted) ? x + 0.03 : x,
      ),
    };
    const asset = createAsset("sheet", [part("sheet", source, sheetMesh(8))]);
    const { of } = await baked(asset, ["height", "opacity"], {
      range: 0.06,
      distance: 0.1,
    });
    const found = shares(of("height"), of("opacity")).map(([x]) => x);
    expect(Math.abs(mean(found) - 0.5)).toBeCloseTo(0.25, 2);
  });
});

/** The axis along which a flat mesh has no extent. */
function upOf(mesh: Mesh): number {
  return [0, 1, 2].find((k) => {
    const own = mesh.positions.filter((_, i) => i % 3 === k);
    return own.every((x) => x === own[0]);
  })!;
}

describe("names in colours", () => {
  const halves = (mesh: Mesh) =>
    Uint16Array.from({ length: faceCount(mesh) }, (_, f) => f % 2);
  const source = {
    ...cube(),
    ids: halves(cube()).map((x) => x + 1),
    materials: ["tin", "brass"],
    faceMaterials: halves(cube()),
  };
  const asset: Asset = {
    ...createAsset("cubes", [
      part("one", source),
      part("two", moved(cube(), 4, 0, 0)),
    ]),
    palette: [
      { name: "a", colour: "#ff0000" },
      { name: "b", colour: "#0000ff" },
    ],
  };

  it("are never blended: only the palette's own come out, at any size of sample", async () => {
    const { of } = await baked(asset, ["id", "material", "part"], {
      grid: 3,
      padding: 6,
      depth: 8,
    });
    const coloursOf = (kind: BakedKind) => {
      const { pixels } = of(kind);
      const found = new Set<string>();
      for (let i = 0; i < pixels.length; i += 3)
        found.add([...pixels.subarray(i, i + 3)].join(" "));
      found.delete("0 0 0");
      return [...found].sort();
    };
    expect(coloursOf("id")).toEqual(["0 0 255", "255 0 0"]);
    expect(coloursOf("material").length).toBe(3);
    expect(coloursOf("part").length).toBe(2);
  });
});

describe("cards", () => {
  it("let rays through where the source has holes: black in the mask, and not missed", async () => {
    const whole = sheetMesh(20);
    const holes = Uint8Array.from({ length: faceCount(whole) }, (_, f) =>
      f % 8 < 4 ? 1 : 0,
    );
    const source = keepFaces(whole, holes);
    const asset = createAsset("net", [part("net", source, whole)]);
    const plain = await baked(asset, ["opacity"], { distance: 0.001 });
    const card = await baked(asset, ["opacity"], {
      distance: 0.001,
      cards: ["net"],
    });
    const white = (map: BakedMap) =>
      map.pixels.filter((x) => x > 60000).length / (SIZE * SIZE);
    expect(white(card.of("opacity"))).toBeCloseTo(
      white(plain.of("opacity")) / 2,
      1,
    );
    expect(card.figures.missed).toBe(0);
  });
});

it("every kind of map has an image of its own, the same whatever else is baked", async () => {
  const asset = createAsset("ball", [part("ball", sphere(12, 16, 1))]);
  const all = await baked(asset, MAP_KINDS);
  for (const kind of MAP_KINDS) {
    const alone = await baked(asset, [kind]);
    expect(alone.of(kind), kind).toEqual(all.of(kind));
  }
});

it("the operation's lengths are millimetres, and its choices reach the bake", async () => {
  const source = sheetMesh(8);
  const asset = createAsset("sheet", [part("sheet", source)]);
  const brief = { ...asset.brief, sheetSize: 32 };
  const bake = async (options: object) =>
    (
      await runOperation(
        findOperation("bake/maps"),
        { ...asset, brief },
        { normal: false, ao: false, rays: 4, ...options },
        context,
      )
    ).report;
  expect(await bake({ also: ["height"], range: 60 })).toMatchObject({
    range: 0.06,
    maps: ["height"],
  });
  expect(await bake({ also: ["thickness"], thick: 25 })).toMatchObject({
    thickest: 0.025,
  });
  await expect(bake({})).rejects.toThrow("no map is wanted");
  await expect(bake({ also: ["height"], cards: ["sail"] })).rejects.toThrow(
    "sail",
  );
});

it("a narrow cone looks past what stands beside, and a short reach past what is far", async () => {
  const step = (x: number) => (x > 0.7 ? 0.3 : 0);
  const asset = createAsset("step", [part("step", sheetMesh(60, step))]);
  const open = async (more: Partial<MapsWanted>) => {
    const { of } = await baked(asset, ["ao", "opacity"], more);
    return mean(shares(of("ao"), of("opacity")).map(([x]) => x));
  };
  const whole = await open({});
  expect(await open({ cone: 20 })).toBeGreaterThan(whole + 0.05);
  expect(await open({ reach: 0.01 })).toBeGreaterThan(whole + 0.05);
});
