import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { run } from "../../../tests/one-part";
import { cube, sheetMesh, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import type { BakedMap } from "../../base/pictures";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { cornerNormals } from "../../mesh/normals";
import type { PartCounts } from "./maps";
import { mendSeams } from "./mend-seams";
import { findingsAfter } from "./findings";
import { coveredBy } from "./bake-again";
import { dilate } from "../../space/dilate";
import { seamJumps } from "./over-seams";
import { prepareScene } from "./scene";

const SIZE = 256;

async function baked(source: Mesh, game: Mesh) {
  const [laid] = laidOn([game], squareSheet(SIZE));
  const asset = createAsset("buoy", [
    createPart("top", 0, { source, game: laid }),
  ]);
  const sized = { ...asset, brief: { ...asset.brief, sheetSize: SIZE } };
  const options = { ao: false, samples: 4 };
  const { asset: made, report } = await run("bake/maps", sized, options);
  return {
    made,
    part: (report.counts as PartCounts[])[0],
  };
}

const sceneOf = (asset: Asset) =>
  prepareScene(asset, {
    ...{ width: SIZE, height: SIZE, rays: 0, grid: 2, distance: 0 },
  });

const jumpsOf = (asset: Asset, maps: readonly BakedMap[]) =>
  seamJumps(sceneOf(asset), maps, true).get("top");

const ball = (rings: number) => {
  const mesh = sphere(rings, rings + 4, 0.5);
  return { ...mesh, normals: cornerNormals(mesh) };
};

describe("the look over seams", () => {
  it("goes on where a smooth body was baked, and jumps where one side says something else", async () => {
    const { made, part } = await baked(ball(60), ball(10));
    expect(part.seams!.p95).toBeGreaterThan(0);
    expect(part.seams!.p95).toBeLessThan(4);
    expect(Math.hypot(...part.seams!.worst.at)).toBeCloseTo(0.5, 1);
    const [map] = made.maps;
    const plain = jumpsOf(made, [map])!;
    expect(plain.places).toBe(part.seams!.places);
    expect(plain.mean).toBeLessThanOrEqual(plain.p95);
    expect(plain.worst.angle).toBeGreaterThanOrEqual(plain.p95);
    // Red turned over in the left half of the sheet: bumps lean the other way there.
    const pixels = map.pixels.slice();
    for (let i = 0; i < pixels.length; i += 3)
      if ((i / 3) % SIZE < SIZE / 2) pixels[i] = 65535 - pixels[i];
    expect(jumpsOf(made, [{ ...map, pixels }])!.worst.angle).toBeGreaterThan(
      3 * plain.worst.angle,
    );
  });

  it("does not jump where the source itself has an edge, and has none on one sheet", async () => {
    const hard: Mesh = {
      ...cube(),
      hard: new Uint8Array(cube().corners.length).fill(1),
    };
    const box = await baked(hard, hard);
    expect(box.part.seams).toBeUndefined();
    const flat = sheetMesh(4, () => 0);
    expect(faceCount(flat)).toBeGreaterThan(1);
    const one = await baked(flat, flat);
    expect(one.part.seams).toBeUndefined();
  });

  it("is mended in the texels round islands alone, the same from whatever they were", async () => {
    const bumpy = sphere(
      60,
      72,
      0.5,
      (a, t) => 0.02 * Math.sin(9 * a) * Math.sin(7 * t),
    );
    const { made, part } = await baked(
      { ...bumpy, normals: cornerNormals(bumpy) },
      ball(8),
    );
    const [map] = made.maps;
    const scene = sceneOf(made);
    const fromBottom = coveredBy(scene, 0);
    const covered = new Uint8Array(SIZE * SIZE);
    for (let row = 0; row < SIZE; row++)
      covered.set(
        fromBottom.subarray(row * SIZE, (row + 1) * SIZE),
        (SIZE - 1 - row) * SIZE,
      );
    const isCovered = (number: number) => covered[Math.floor(number / 3)] > 0;
    const like = (pixels: Uint16Array) => ({ ...map, pixels });
    const bytes = ({ pixels }: BakedMap) => Buffer.from(pixels.buffer);
    // As it is where islands only run on.
    const values = Float32Array.from(map.pixels);
    dilate(values, 3, covered, SIZE, SIZE, 8);
    const runOn = like(Uint16Array.from(values));
    expect(part.seams!.mean).toBeLessThan(0.8 * jumpsOf(made, [runOn])!.mean);
    const spoilt = like(
      Uint16Array.from(runOn.pixels, (x, i) =>
        isCovered(i) ? x : (x + 9001) % 65536,
      ),
    );
    const before = spoilt.pixels.slice();
    mendSeams(scene, spoilt, true, null, () => {});
    const again = like(Uint16Array.from(runOn.pixels));
    mendSeams(scene, again, true, null, () => {});
    const mended = (given: BakedMap) =>
      Buffer.from(
        given.pixels.filter((_, i) => spoilt.pixels[i] !== before[i]),
      );
    expect(mended(again).length).toBeGreaterThan(300);
    expect(Buffer.compare(mended(spoilt), mended(again))).toBe(0);
    const inside = (given: BakedMap) =>
      Buffer.from(given.pixels.filter((_, i) => isCovered(i)));
    expect(Buffer.compare(inside(spoilt), inside(runOn))).toBe(0);
    // Nothing is written where it may not be.
    const kept = like(Uint16Array.from(runOn.pixels));
    mendSeams(scene, kept, true, new Uint8Array(SIZE * SIZE), () => {});
    expect(Buffer.compare(bytes(kept), bytes(runOn))).toBe(0);
  });
});

it("tells of parts whose look jumps over their seams", () => {
  const seams = { mean: 13, p95: 31, places: 40 };
  const told = (given: Partial<typeof seams>) =>
    findingsAfter(
      [{ part: "top", seams: { ...seams, ...given } } as PartCounts],
      2,
    ).filter(({ kind }) => kind === "seam");
  expect(told({})).toMatchObject([
    {
      part: "top",
      reason: expect.stringContaining("by 13.0° in the mean, by 31°") as string,
    },
  ]);
  expect([...told({ mean: 11 }), ...told({ places: 8 })]).toEqual([]);
});
