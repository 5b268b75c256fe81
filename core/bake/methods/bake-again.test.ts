import { describe, expect, it } from "vitest";
import { moved, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createPart } from "../../asset/asset";
import { bakedAgain } from "./bake-again";
import type { BakeScene } from "./scene";
import {
  trio,
  bake,
  changed,
  dented,
  bothWays,
} from "../../../tests/bake-trio";

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

it("what is redone later is all that is stale, whatever was chosen once", async () => {
  const { asset } = await bake(trio(), { parts: ["left"] });
  expect(asset.results.bake!.options).toMatchObject({ parts: [], rays: 8 });
});
