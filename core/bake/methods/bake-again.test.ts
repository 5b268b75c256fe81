import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { cube, moved, sphere } from "../../../tests/shapes";
import type { Asset, Part } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { mapParts } from "../../asset/parts";
import { plainContext } from "../../base/context";
import type { BakedMap } from "../../base/pictures";
import { MAP_KINDS } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import { bakedAgain } from "./bake-again";
import type { BakeFinding } from "./findings";
import type { PartCounts } from "./maps";
import type { BakeScene } from "./scene";
import { STATUS, STATUS_LOOKS, statusPicture } from "./status";

const context = plainContext(KERNELS);
const SIZE = 128;
const ALSO = MAP_KINDS.filter(
  (kind) => !["normal", "ao", "height", "status"].includes(kind),
);

/** A bumpy ball at a place, and a coarser one as its game mesh. */
const bumpy = (x: number) => ({
  source: moved(
    sphere(40, 50, 0.5, (a, t) => 0.02 * Math.sin(7 * a) * Math.sin(5 * t)),
    x,
    0,
    0,
  ),
  game: moved(sphere(8, 10, 0.5), x, 0, 0),
});

/** Three parts whose islands lie side by side on one sheet, two texels apart. */
function trio(): Asset {
  const shapes = [
    bumpy(0),
    bumpy(1.2),
    { source: moved(cube(), 2.6, 0, 0), game: moved(cube(), 2.6, 0, 0) },
  ];
  const laid = laidOn(
    shapes.map(({ game }) => game),
    { ...squareSheet(SIZE), padding: 2 },
  );
  const asset = createAsset(
    "trio",
    ["left", "middle", "right"].map((name, i) =>
      createPart(name, i, { source: shapes[i].source, game: laid[i] }),
    ),
  );
  return {
    ...asset,
    brief: { ...asset.brief, sheetSize: SIZE, padding: 2 },
  };
}

const bake = (asset: Asset, options: object = {}) =>
  runOperation(
    findOperation("bake/maps"),
    asset,
    { rays: 8, also: ALSO, ...options },
    context,
  );

const changed = (
  asset: Asset,
  name: string,
  change: (part: Part) => Partial<Part>,
): Asset =>
  mapParts(asset, (part) =>
    part.name === name ? { ...part, ...change(part) } : part,
  );

/** The mesh with every third vertex a little farther out. */
const dented = (mesh: Mesh): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x, i) => (i % 9 === 1 ? x + 0.01 : x)),
});

const bytes = (maps: readonly BakedMap[]) =>
  Object.fromEntries(
    maps.map(({ kind, pixels }) => [kind, Buffer.from(pixels.buffer)]),
  );

/** Bakes what has changed into what stands, and all of it from nothing; both give the same. */
async function bothWays(
  before: Asset,
  change: (asset: Asset) => Asset,
  options: object = {},
  first: object = options,
): Promise<string[]> {
  const standing = (await bake(before, first)).asset;
  const { asset, report } = await bake(change(standing), options);
  const whole = await bake(
    { ...change(standing), results: {}, maps: [] },
    options,
  );
  expect(whole.report.baked).toEqual(["left", "middle", "right"]);
  const [again, anew] = [bytes(asset.maps), bytes(whole.asset.maps)];
  for (const kind of Object.keys(anew))
    expect(again[kind].equals(anew[kind]), kind).toBe(true);
  const counts = (of: unknown) =>
    (of as PartCounts[]).map(({ part, samples, missed, far }) => [
      part,
      samples,
      missed,
      far,
    ]);
  expect(counts(report.counts)).toEqual(counts(whole.report.counts));
  expect(report.missed).toBe(whole.report.missed);
  return report.baked as string[];
}

describe("a bake after a change", () => {
  it("bakes the islands of the part that changed, and all maps are as if all had been baked", async () => {
    const again = await bothWays(trio(), (asset) =>
      changed(asset, "middle", ({ game }) => ({ game: dented(game!) })),
    );
    expect(again).toEqual(["middle"]);
  });

  it("also where islands run on until the sheet is full, at 8 bit and one sample", async () => {
    const again = await bothWays(
      trio(),
      (asset) =>
        changed(asset, "right", ({ game }) => ({ game: dented(game!) })),
      { dilate: 8192, depth: "8", samples: 1, also: ["object", "id"] },
    );
    expect(again).toEqual(["right"]);
  });

  it("bakes only the part whose ray distance is another", async () => {
    const again = await bothWays(
      trio(),
      (asset) => asset,
      { distances: "left = 0.5" },
      {},
    );
    expect(again).toEqual(["left"]);
  });

  it("bakes all where a source changed that others see, and one where nobody looks round", async () => {
    const move = (asset: Asset) =>
      changed(asset, "left", ({ source }) => ({ source: dented(source!) }));
    expect(await bothWays(trio(), move)).toHaveLength(3);
    expect(
      await bothWays(trio(), move, { ao: false, also: ["object", "id"] }),
    ).toEqual(["left"]);
  });

  it("asks every island where heights are told in the largest that is found", async () => {
    const move = (asset: Asset) =>
      changed(asset, "left", ({ game }) => ({ game: dented(game!) }));
    const options = { ao: false, also: ["height"] };
    expect(await bothWays(trio(), move, options)).toHaveLength(3);
    expect(await bothWays(trio(), move, { ...options, range: 40 })).toEqual([
      "left",
    ]);
  });

  it("bakes all anew where the maps are no longer those that the bake left", async () => {
    const again = await bothWays(trio(), (asset) => ({
      ...asset,
      maps: asset.maps.map((map) =>
        map.kind === "bent"
          ? { ...map, pixels: map.pixels.slice().fill(7) }
          : map,
      ),
    }));
    expect(again).toHaveLength(3);
  });

  it("bakes the maps whose settings are others, and the rest stay as they are", async () => {
    const more = { rays: 12 };
    expect(await bothWays(trio(), (asset) => asset, more, {})).toHaveLength(3);
    const { asset: standing } = await bake(trio());
    const { asset, report } = await bake(standing, more);
    expect(report.bakedMaps).toEqual([
      ...["ao", "curvature", "bent", "thickness", "visibility"],
    ]);
    const [before, after] = [standing, asset].map(({ maps }) => maps);
    expect(after.map(({ kind }) => kind)).toEqual(
      before.map(({ kind }) => kind),
    );
    for (const [i, map] of after.entries())
      expect(map.pixels === before[i].pixels).toBe(
        !(report.bakedMaps as string[]).includes(map.kind),
      );
    const cone = await bake(asset, { ...more, cone: 90 });
    expect(cone.report.bakedMaps).toEqual(["ao", "bent"]);
  });

  it("bakes a further map beside those that stand, and none where nothing changed", async () => {
    const first = { ao: false, also: ["height"], samples: 1 };
    const { asset, report: before } = await bake(trio(), first);
    const { report } = await bake(asset, { ...first, also: ["height", "id"] });
    expect(report.bakedMaps).toEqual(["id"]);
    expect(report).toMatchObject({
      angle: before.angle,
      range: before.range,
      missed: before.missed,
    });
    const none = await bake(asset, first);
    expect(none.report).toMatchObject({ bakedMaps: [], baked: [] });
    expect(none.asset.maps).toEqual(asset.maps);
    expect(none.report.counts).toEqual(before.counts);
  });

  it("bakes what catches a part whose source changed, and what is only baked where it goes with another", async () => {
    const options = { ao: false, also: ["object"], samples: 1 };
    const move = (asset: Asset) =>
      changed(asset, "middle", ({ source }) => ({ source: dented(source!) }));
    const catches = { ...options, catches: "left: middle" };
    expect(await bothWays(trio(), move, catches)).toContain("left");
    // A stud between two parts goes with the one that its source comes nearer to.
    const studded = () => {
      const asset = trio();
      const stud = moved(sphere(6, 8, 0.05), 0.6, 0, 0);
      return {
        ...asset,
        parts: [...asset.parts, createPart("stud", 3, { source: stud })],
      };
    };
    const nearer = (asset: Asset) =>
      changed(asset, "middle", ({ source }) => ({
        source: moved(source!, -0.3, 0, 0),
      }));
    const spread = { ...options, spread: true, distance: 200 };
    expect(await bothWays(studded(), nearer, spread)).toContain("left");
  });

  it("casts rays as far over a border as masks that grow or shrink look", () => {
    const half = (part: string, left: number, right: number) => ({
      part,
      uvs: Float32Array.from([
        ...[left, 0, right, 0, right, 1],
        ...[left, 0, right, 1, left, 1],
      ]),
    });
    const scene = {
      ...{ width: 64, height: 8, grid: 1 },
      canvases: [half("kept", 0, 0.5), half("fresh", 0.5, 1)],
    } as unknown as BakeScene;
    const standing = { kept: new Set(["kept"]), older: new Set<string>() };
    const first = (marks: Uint8Array) => marks.indexOf(1);
    const plain = bakedAgain(scene, standing, 2, 0, 0, 0);
    expect([first(plain.written), first(plain.wanted)]).toEqual([30, 28]);
    const grown = bakedAgain(scene, standing, 2, 0, 0, 6);
    expect([first(grown.written), first(grown.wanted)]).toEqual([26, 18]);
  });

  it("takes the islands of a part that has gone out of every map", async () => {
    const options = { ao: false, also: ["part"], samples: 1 };
    const { asset } = await bake(trio(), options);
    const two = { ...asset, parts: asset.parts.slice(0, 2) };
    const { asset: again, report } = await bake(two, options);
    expect(report.bakedMaps).toContain("normal");
    const anew = await bake({ ...two, results: {}, maps: [] }, options);
    expect(again.maps).toEqual(anew.asset.maps);
  });
});

describe("a bake of chosen parts", () => {
  it("leaves the islands of the others as they are, and says that they were baked otherwise", async () => {
    const options = { ao: false, also: [], dilate: 1 };
    const { asset: standing } = await bake(trio(), options);
    const { asset, report } = await bake(standing, {
      ...options,
      parts: ["middle"],
      green: "down",
    });
    expect(report.baked).toEqual(["middle"]);
    const found = (report.findings as BakeFinding[]).map(
      ({ kind, part }) => `${kind} ${part}`,
    );
    expect(found.slice(0, 2)).toEqual(["older left", "older right"]);
    // Their green points the other way: the look is measured, not remembered.
    expect(found).toContain("untrue left");
    expect(found).not.toContain("untrue middle");
    const [before, after] = [standing, asset].map(
      ({ maps }) => maps.find(({ kind }) => kind === "normal")!.pixels,
    );
    const parts = (
      await bake(trio(), { also: ["part"], ao: false })
    ).asset.maps.find(({ kind }) => kind === "part")!;
    const colours = new Map<string, number>();
    for (let i = 0; i < before.length; i += 3)
      if ([0, 1, 2].some((k) => before[i + k] !== after[i + k])) {
        const colour = parts.pixels.slice(i, i + 3).join(" ");
        colours.set(colour, (colours.get(colour) ?? 0) + 1);
      }
    // One part's islands, and the ground that they run on into, of which a few texels touch another's.
    const [most, ...rest] = [...colours.values()].sort((x, y) => y - x);
    expect(most).toBeGreaterThan(1000);
    expect(rest.reduce((sum, count) => sum + count, 0)).toBeLessThan(20);
    // What is older is baked with the next one.
    const next = await bake(asset, { ...options, green: "down" });
    expect(next.report.baked).toEqual(["left", "right"]);
    expect(next.report.findings).toEqual([]);
  });

  it("leaves out what is locked or hidden: its islands keep what they have, and all else that changed is baked", async () => {
    const options = { ao: false, also: [], dilate: 1 };
    const { asset: standing } = await bake(trio(), options);
    const locked = changed(standing, "left", () => ({ locked: true }));
    const said = ({ report }: Awaited<ReturnType<typeof bake>>) => [
      report.baked,
      (report.findings as BakeFinding[]).flatMap(({ kind, part }) =>
        kind === "older" || kind === "not baked" ? `${kind} ${part}` : [],
      ),
    ];
    const turned = { ...options, green: "down", leaveOut: ["locked"] };
    const next = await bake(locked, turned);
    expect(said(next)).toEqual([["middle", "right"], ["older left"]]);
    // It is older until it is baked, however often the others are.
    expect(said(await bake(next.asset, turned))).toEqual([[], ["older left"]]);
    const hiding = { ...options, green: "down", leaveOut: ["hidden"] };
    const hidden = ["right", "gone since"];
    expect(said(await bake(locked, { ...hiding, hidden }))).toEqual([
      ["left", "middle"],
      ["older right"],
    ]);
    // What is hidden is baked like all else unless that is asked for.
    expect(said(await bake(trio(), { ...options, hidden }))[0]).toHaveLength(3);
    const bare = changed(trio(), "left", () => ({ locked: true }));
    const without = await bake(bare, turned);
    expect(said(without)).toEqual([["middle", "right"], ["not baked left"]]);
    expect(said(await bake(without.asset, turned))).toEqual([
      [],
      ["not baked left"],
    ]);
    await expect(bake(locked, { ...turned, parts: ["left"] })).rejects.toThrow(
      "left: left out of the bake, as asked for",
    );
  });

  it("tries maps small that once, says so, and bakes them in full the next time", async () => {
    const options = { ao: false, also: [], dilate: 8 };
    const { asset: whole } = await bake(trio(), options);
    const tried = await bake(whole, { ...options, fraction: "4" });
    expect(tried.report).toMatchObject({ size: SIZE / 4, height: SIZE / 4 });
    expect(tried.headline).toBe("tried at 32\u2009px");
    expect((await bake(whole, options)).headline).toContain("missed");
    const [first] = tried.report.findings as BakeFinding[];
    expect(first).toMatchObject({ kind: "tried", part: "" });
    expect(first.reason).toContain("32 × 32 px, 1/4 of the edge");
    expect(tried.asset.results.bake!.options).toMatchObject({ fraction: "1" });
    // The same picture, smaller: means of four by four.
    const [large, small] = [whole, tried.asset].map(({ maps }) =>
      maps.find(({ kind }) => kind === "normal")!,
    );
    let off = 0;
    for (let y = 0; y < small.height; y++)
      for (let x = 0; x < small.width; x++) {
        let sum = 0;
        for (let k = 0; k < 16; k++)
          sum +=
            large.pixels[
              3 * ((4 * y + (k >> 2)) * large.width + 4 * x + (k & 3))
            ] / 16;
        off += Math.abs(sum - small.pixels[3 * (y * small.width + x)]);
      }
    expect(off / small.width / small.height).toBeLessThan(0.06 * 65_535);
    const again = await bake(tried.asset, options);
    expect(again.report.baked).toHaveLength(3);
    const [before, after] = [whole, again.asset].map(({ maps }) =>
      Buffer.from(maps.find(({ kind }) => kind === "normal")!.pixels.buffer),
    );
    expect(Buffer.compare(before, after)).toBe(0);
  });

  it("leaves the others as ground where nothing stands, and refuses what has no UVs", async () => {
    const { asset, report } = await bake(trio(), {
      ao: false,
      also: ["part"],
      parts: ["left"],
    });
    expect(report.findings).toMatchObject([
      { kind: "not baked", part: "middle" },
      { kind: "not baked", part: "right" },
    ]);
    const { pixels } = asset.maps.find(({ kind }) => kind === "part")!;
    const colours = new Set<string>();
    for (let i = 0; i < pixels.length; i += 3)
      colours.add(pixels.slice(i, i + 3).join(" "));
    expect(colours.size).toBe(2);
    const bare = changed(trio(), "left", ({ game }) => ({
      game: { ...game!, uvs: null },
    }));
    await expect(bake(bare, { parts: ["left"] })).rejects.toThrow(
      "left has no UVs",
    );
  });

  it.each(["nobody = 3", "left", "left = 0", "left = 3 mm"])(
    "reads no ray distance from %s",
    async (distances) => {
      await expect(bake(trio(), { distances })).rejects.toThrow();
    },
  );
});

describe("the picture of what became of the rays", () => {
  it("has as many missed texels as were counted, and shows what is only baked", async () => {
    const asset = trio();
    const top = Math.max(
      ...asset.parts[2].game!.positions.filter((_, i) => i % 3 === 1),
    );
    const stud = createPart("stud", 3, {
      source: moved(sphere(8, 10, 0.1), 2.6, top, 0),
    });
    const { asset: made, report } = await bake(
      { ...asset, parts: [...asset.parts, stud] },
      { ao: false, also: [], samples: 1, dilate: 0, distances: "left=0.1" },
    );
    const kept = made.maps.find(({ kind }) => kind === "status")!;
    expect([kept.channels, kept.depth]).toEqual([1, 8]);
    const { pixels } = statusPicture(kept);
    const texels = (status: keyof typeof STATUS) => {
      const { colour } = STATUS_LOOKS.find((each) => each.status === status)!;
      const wanted = [1, 3, 5].map((k) => parseInt(colour.slice(k, k + 2), 16));
      let count = 0;
      for (let i = 0; i < pixels.length; i += 3)
        if (wanted.every((x, k) => pixels[i + k] === x)) count++;
      return count;
    };
    const counts = report.counts as PartCounts[];
    const missed = counts.reduce((sum, part) => sum + part.missed, 0);
    expect(missed).toBeGreaterThan(100);
    // Islands run on two texels into the ground.
    expect(texels("missed")).toBeGreaterThanOrEqual(missed);
    expect(texels("missed")).toBeLessThan(2 * missed);
    expect(texels("shared")).toBeGreaterThan(5);
    expect(texels("own")).toBeGreaterThan(1000);
  });
});

it("what is redone later is all that is stale, whatever was chosen once", async () => {
  const { asset } = await bake(trio(), { parts: ["left"] });
  expect(asset.results.bake!.options).toMatchObject({ parts: [], rays: 8 });
});

describe("a bake of chosen parts, where not all stands", () => {
  it("keeps what stands beside a part that nobody has baked", async () => {
    const options = { ao: false, also: [] };
    const whole = trio();
    const two = { ...whole, parts: whole.parts.slice(0, 2) };
    const standing = (await bake(two, options)).asset;
    const { asset, report } = await bake(
      { ...standing, parts: whole.parts },
      { ...options, parts: ["left"] },
    );
    expect(
      (report.findings as BakeFinding[]).map(({ kind, part }) => [kind, part]),
    ).toEqual([["not baked", "right"]]);
    const [before, after] = [standing, asset].map(({ maps }) => bytes(maps));
    for (const kind of ["normal", "status"])
      expect(after[kind].equals(before[kind]), kind).toBe(true);
  });

  it("keeps their maps where one more is baked of a part, and says whose is missing", async () => {
    const options = { ao: false, also: [], samples: 1 };
    const { asset: standing } = await bake(trio(), options);
    const { asset, report } = await bake(standing, {
      ...options,
      also: ["id"],
      parts: ["left"],
    });
    expect(
      (report.findings as BakeFinding[]).flatMap(({ kind, part }) =>
        kind === "not baked" ? [part] : [],
      ),
    ).toEqual(["middle", "right"]);
    expect(bytes(asset.maps).normal.equals(bytes(standing.maps).normal)).toBe(
      true,
    );
    const next = await bake(asset, { ...options, also: ["id"] });
    expect(next.report).toMatchObject({
      bakedMaps: ["id"],
      baked: ["middle", "right"],
    });
  });

  it("does not lay pixels of 8 bits into a map of 16", async () => {
    const options = { ao: false, also: [], depth: "8" };
    const { asset: standing } = await bake(trio(), options);
    const { report } = await bake(standing, {
      ...options,
      depth: "16",
      parts: ["middle"],
    });
    expect(
      (report.findings as BakeFinding[]).map(({ kind, part }) => [kind, part]),
    ).toEqual([
      ["not baked", "left"],
      ["not baked", "right"],
    ]);
  });
});

it("a distance that was given is no error once its part has gone; one of nobody is", async () => {
  const options = { ao: false, also: [], distances: "left = 3; right = 4" };
  const { asset } = await bake(trio(), options);
  const gone = { ...asset, parts: asset.parts.slice(1) };
  const { report } = await bake(gone, options);
  expect(
    (report.counts as PartCounts[]).map(({ part, distance }) => [
      part,
      part === "right" ? distance : 0,
    ]),
  ).toEqual([
    ["middle", 0],
    ["right", 0.004],
  ]);
  await expect(
    bake(gone, { ...options, distances: "left = 5" }),
  ).rejects.toThrow('no part "left"');
});
