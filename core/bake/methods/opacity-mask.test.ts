import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { sheetMesh } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import { seededRandom } from "../../base/random";
import type { BakedMap } from "../../base/pictures";
import { keepFaces } from "../../mesh/change-faces";
import { faceCount } from "../../mesh/mesh";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import { growMask, maskCoverage, MIPS_TOLD } from "./opacity-mask";

const SIZE = 64;
const disc = (radius: number) =>
  Float32Array.from({ length: SIZE * SIZE }, (_, i) =>
    Math.hypot((i % SIZE) - 31, (i >> 6) - 31) <= radius ? 1 : 0,
  );
const sum = (values: ArrayLike<number>) =>
  Array.from(values).reduce((all, x) => all + x, 0);

describe("a mask that grows", () => {
  it.each([3, -3])("by %s is as large as a disc of that radius", (by) => {
    const covered = new Uint8Array(SIZE * SIZE).fill(1);
    const mask = disc(12);
    growMask(mask, covered, SIZE, SIZE, by);
    expect(Math.abs(sum(mask) / sum(disc(12 + by)) - 1)).toBeLessThan(0.12);
    expect(mask[31 * SIZE + 31 + 11 + by]).toBe(1);
    expect(mask[31 * SIZE + 31 + 13 + by]).toBe(0);
  });

  it("stays within its island, and shrinks nothing at the island's border", () => {
    const covered = Uint8Array.from({ length: SIZE * SIZE }, (_, i) =>
      i % SIZE < 40 ? 1 : 0,
    );
    const grown = disc(8);
    growMask(grown, covered, SIZE, SIZE, 5);
    grown.forEach((x, i) => !covered[i] && expect(x).toBe(disc(8)[i]));
    const full = Float32Array.from(covered);
    growMask(full, covered, SIZE, SIZE, -5);
    expect(full).toEqual(Float32Array.from(covered));
  });
});

/** A card with holes: a quarter of its faces is there, here and there. */
function holed() {
  const whole = sheetMesh(32);
  const random = seededRandom(5);
  const source = keepFaces(
    whole,
    Uint8Array.from({ length: faceCount(whole) }, () =>
      random() < 0.25 ? 1 : 0,
    ),
  );
  const [game] = laidOn([sheetMesh(2)], squareSheet(256));
  const asset = createAsset("net", [createPart("net", 0, { source, game })]);
  return { ...asset, brief: { ...asset.brief, sheetSize: 256 } };
}
const bake = (options: object) =>
  runOperation(
    findOperation("bake/maps"),
    holed(),
    {
      ...{ ao: false, cards: ["net"], distance: 20, samples: 2 },
      ...{ also: ["object"], ...options },
    },
    plainContext(KERNELS),
  );
const white = ({ pixels }: BakedMap) => sum(pixels) / 255 / pixels.length;
const mapOf = (maps: readonly BakedMap[], kind: string) =>
  maps.find((map) => map.kind === kind)!;

it("a card's mask is grown, shrunk and inverted as told, each a map of its own", async () => {
  const { asset, report } = await bake({});
  const plain = white(mapOf(asset.maps, "opacity"));
  expect(plain).toBeCloseTo(0.25 * Number(report.covered), 1);
  const more = white(mapOf((await bake({ grow: 2 })).asset.maps, "opacity"));
  const less = white(mapOf((await bake({ grow: -2 })).asset.maps, "opacity"));
  expect(less).toBeLessThan(0.9 * plain);
  expect(more).toBeGreaterThan(1.1 * plain);
  const turned = await bake({ invert: true });
  expect(white(mapOf(turned.asset.maps, "opacity"))).toBeCloseTo(
    Number(report.covered) - plain,
    2,
  );
});

it("tells how much of it is left from afar, and its coverage is kept within three per cent", async () => {
  const { asset, report } = await bake({ cutOff: 60 });
  const { plain, kept } = report.coverage as {
    plain: number[];
    kept: number[];
  };
  expect(kept).toHaveLength(MIPS_TOLD);
  expect(plain[0]).toBe(kept[0]);
  for (const share of kept)
    expect(Math.abs(share - kept[0])).toBeLessThan(0.03);
  // Means alone lose it.
  expect(Math.abs(plain[MIPS_TOLD - 1] - plain[0])).toBeGreaterThan(0.1);
  expect(maskCoverage(mapOf(asset.maps, "opacity"), 0.6)).toEqual(
    report.coverage,
  );
});

it("what is mixed into a card's texels from afar has its colours: nothing of the ground is left beside it", async () => {
  const { asset } = await bake({});
  for (const kind of ["normal", "object"]) {
    const map = mapOf(asset.maps, kind);
    const [x, y, z] = map.pixels.slice(3 * (128 * 256 + 128));
    for (let i = 0; i < map.pixels.length; i += 3)
      for (const [k, wanted] of [x, y, z].entries())
        expect(Math.abs(map.pixels[i + k] - wanted)).toBeLessThanOrEqual(
          map.depth === 16 ? 257 : 1,
        );
  }
});
