import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { cube, moved, scaled, sphere } from "../../../tests/shapes";
import type { Part } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import type { Mesh } from "../../mesh/mesh";
import { findingsAfter, findingsBefore, findingsOfMaps } from "./findings";
import type { PartCounts } from "./maps";

const game = laidOn([sphere(8, 12)], squareSheet(64))[0];
const part = (name: string, source: Mesh | null, own: Mesh | null = game) =>
  createPart(name, 0, { source, game: own });
const before = (...parts: Part[]) =>
  findingsBefore(createAsset("buoy", parts)).map(({ kind, part: name }) => [
    kind,
    name,
  ]);

describe("before a ray is cast", () => {
  it("is told which game mesh has no source, unless others are only baked", () => {
    expect(before(part("top", null))).toEqual([["no source", "top"]]);
    expect(before(part("top", null), part("bolts", cube(), null))).toEqual([]);
    expect(before(part("top", null, null))).toEqual([]);
  });

  it("is told which source is of another size or lies elsewhere, and not of one that is a little off", () => {
    const ball = sphere(12, 16);
    expect(before(part("top", scaled(ball, 100)))).toEqual([["size", "top"]]);
    expect(before(part("top", scaled(ball, 0.01)))).toEqual([["size", "top"]]);
    expect(before(part("top", moved(ball, 5, 0, 0)))).toEqual([
      ["apart", "top"],
    ]);
    expect(before(part("top", moved(scaled(ball, 1.2), 0.2, 0, 0)))).toEqual(
      [],
    );
  });
});

describe("after the rays", () => {
  const counts = (more: Partial<PartCounts>): PartCounts => ({
    part: "top",
    distance: 0.002,
    card: false,
    farthest: 0,
    angle: 0,
    angle95: 0,
    samples: 40_000,
    missed: 0,
    overhanging: 0,
    far: 0,
    behind: 0,
    slanting: 0,
    ...more,
  });

  it("nothing is said where all met their source, or only hang over its open border", () => {
    expect(findingsAfter([counts({})], 2)).toEqual([]);
    expect(
      findingsAfter([counts({ missed: 900, overhanging: 900 })], 2),
    ).toEqual([]);
  });

  it("a larger distance is offered where the source lies farther off, and none where rays slant past it", () => {
    const [far] = findingsAfter([counts({ missed: 400, farthest: 0.004 })], 2);
    expect(far).toMatchObject({ kind: "missed", texels: 100, distance: 4.4 });
    expect(far.mend).toBe("raise the ray distance to 4.4 mm");
    const [slant] = findingsAfter(
      [counts({ missed: 400, farthest: 0.001 })],
      2,
    );
    expect(slant).toMatchObject({ kind: "missed", distance: 0 });
    expect(slant.reason).toContain("slant");
  });

  it("each kind is said of its part, in texels and not in samples", () => {
    const found = findingsAfter(
      [
        counts({ part: "a", far: 800 }),
        counts({ part: "b", behind: 800 }),
        counts({ part: "c", slanting: 800 }),
      ],
      4,
    );
    expect(found.map((each) => [each.kind, each.part, each.texels])).toEqual([
      ["far", "a", 50],
      ["inside", "b", 50],
      ["slanting", "c", 50],
    ]);
    expect(found.map(({ distance }) => distance)).toEqual([4, 1, 0]);
  });
});

describe("maps without anything to show", () => {
  it("are told only where they were asked for and no source has what they show", () => {
    const plain = createAsset("buoy", [part("top", sphere(8, 12))]);
    const inked = createAsset("buoy", [
      part("top", { ...cube(), ids: new Uint16Array(6).fill(1) }),
    ]);
    const kinds = (asset: typeof plain, ...maps: ("id" | "colour" | "ao")[]) =>
      findingsOfMaps(asset, maps).map(({ reason }) => reason);
    expect(kinds(plain, "ao")).toEqual([]);
    expect(kinds(plain, "id", "colour")).toEqual([
      "no source has IDs: their map is black",
      "no source has vertex colours or pictures: their map is white",
    ]);
    expect(kinds(inked, "id")).toEqual([]);
  });
});
