import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { cube, moved, scaled, sphere } from "../../../tests/shapes";
import type { Asset, Part } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import type { BakedMap } from "../../base/pictures";
import { joinMeshes } from "../../mesh/change-faces";
import type { Mesh } from "../../mesh/mesh";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import {
  catchesText,
  holdersOf,
  pairsText,
  piecesOf,
  readCatches,
  readPairs,
} from "./catching";
import type { PartCounts } from "./maps";

const SIZE = 96;
const bake = (asset: Asset, options: object) =>
  runOperation(
    findOperation("bake/maps"),
    asset,
    { normal: false, ao: false, rays: 32, samples: 1, ...options },
    plainContext(KERNELS),
  );

/** Parts on one sheet, and sources that are only baked. */
function assetOf(
  shapes: Record<string, { source: Mesh; game: Mesh }>,
  loose: Record<string, Mesh> = {},
): Asset {
  const laid = laidOn(
    Object.values(shapes).map(({ game }) => game),
    squareSheet(SIZE),
  );
  const parts: Part[] = Object.entries(shapes).map(([name, { source }], i) =>
    createPart(name, i, { source, game: laid[i] }),
  );
  for (const [name, source] of Object.entries(loose))
    parts.push(createPart(name, parts.length, { source }));
  const asset = createAsset("pair", parts);
  return { ...asset, brief: { ...asset.brief, sheetSize: SIZE } };
}
const same = (mesh: Mesh) => ({ source: mesh, game: mesh });
const small = (mesh: Mesh, size: number, ...at: [number, number, number]) =>
  moved(scaled(mesh, size), ...at);

/** A hood close above a plate. */
const hooded = () =>
  assetOf({
    plate: same(small(cube(), 0.5, 0, 0, 0)),
    hood: same(small(cube(), 0.5, 0, 1.02, 0)),
  });
const mapOf = (maps: readonly BakedMap[], kind: string) =>
  maps.find((map) => map.kind === kind)!;
const mean = ({ pixels }: BakedMap) =>
  [...pixels].reduce((sum, x) => sum + x, 0) / pixels.length;

describe("parts that stand apart", () => {
  it("do not shade each other, but for pairs that do; together all do, but for pairs that don't", async () => {
    const sky = async (options: object) =>
      mean(
        mapOf(
          (await bake(hooded(), { ao: true, ...options })).asset.maps,
          "ao",
        ),
      );
    const together = await sky({});
    const apart = await sky({ spread: true });
    expect(apart).toBe(255);
    expect(together).toBeLessThan(250);
    expect(await sky({ spread: true, pairs: "hood + plate" })).toBe(together);
    expect(await sky({ pairs: "plate+hood" })).toBe(apart);
    // Of the floor all know.
    expect(await sky({ spread: true, floor: true })).toBeLessThan(apart);
  });

  it("only catch what is only baked where it lies nearest to them", async () => {
    const stud = small(sphere(12, 16, 1), 0.1, 0, 0.505, 0);
    const parts = {
      plate: same(small(cube(), 0.5, 0, 0, 0)),
      hood: same(small(cube(), 0.5, 0, 1.09, 0)),
    };
    const asset = assetOf(parts, { stud });
    expect([...holdersOf(asset)]).toEqual([["stud", "plate"]]);
    const shared = async (options: object) => {
      const { asset: made } = await bake(asset, {
        ...{ also: ["part"], distance: 100 },
        ...options,
      });
      const { pixels } = mapOf(made.maps, "part");
      const seen = new Set<string>();
      for (let i = 0; i < pixels.length; i += 3)
        seen.add(pixels.slice(i, i + 3).join(" "));
      return seen.size;
    };
    // Ground, both parts and the stud.
    expect(await shared({ spread: true })).toBe(4);
    const counts = (await bake(asset, { also: ["part"], spread: true })).report
      .counts as PartCounts[];
    expect(counts.map(({ part }) => part)).toEqual(["plate", "hood"]);
  });
});

it("a part also catches the sources that it is told to", async () => {
  const cap = small(sphere(12, 16, 1), 0.2, 0, 0.5, 0);
  const asset = assetOf({
    body: same(small(cube(), 0.5, 0, 0, 0)),
    cap: same(cap),
  });
  const turned = async (options: object) => {
    const { pixels } = mapOf(
      (await bake(asset, { also: ["object"], distance: 300, ...options })).asset
        .maps,
      "object",
    );
    let count = 0;
    for (let i = 0; i < pixels.length; i += 3) {
      const [x, y, z] = [0, 1, 2].map((k) => Math.abs(pixels[i + k] - 127.5));
      if (Math.max(x, y, z) < 120 && x + y + z > 10) count++;
    }
    return count;
  };
  const alone = await turned({});
  expect(await turned({ catches: "body: cap" })).toBeGreaterThan(alone + 20);
});

it("pieces of one part catch what of its source lies nearest to them", async () => {
  // A lid and a pot as one part, with a handle of the source on each.
  const [pot, lid] = [
    small(cube(), 0.5, 0, 0, 0),
    small(cube(), 0.5, 0, 1.06, 0),
  ];
  const handles = [
    small(cube(), 0.1, 0.55, 0, 0),
    small(cube(), 0.1, 0.55, 1.06, 0),
  ];
  const game = joinMeshes([pot, lid]);
  const source = joinMeshes([pot, handles[1], lid, handles[0]]);
  const pieces = piecesOf(source, game);
  expect(pieces.map((piece) => piece.source!.faceStarts.length - 1)).toEqual([
    12, 12,
  ]);
  expect(piecesOf(source, pot)).toEqual([{ game: pot, source }]);
  // From far out the lid's rays would meet the pot below it, and the other way round.
  const asset = assetOf({ jar: { source, game } });
  const own = async (options: object) =>
    (
      (await bake(asset, { also: ["position"], distance: 300, ...options }))
        .report.counts as PartCounts[]
    ).map(({ part, samples, behind }) => ({ part, behind: behind / samples }));
  const [whole] = await own({});
  const parted = await own({ pieces: ["jar"] });
  expect(parted).toHaveLength(1);
  expect(parted[0].behind).toBeLessThan(whole.behind / 2);
});

describe("lists of parts", () => {
  const isPart = (name: string) =>
    ["hood", "burner", "cap + lid", "a: b", "glass"].includes(name);
  it("are read as they are written, whatever signs names have", () => {
    const pairs = readPairs(" hood+burner ;; cap + lid + glass; ", isPart) as [
      string,
      string,
    ][];
    expect(pairs).toEqual([
      ["hood", "burner"],
      ["cap + lid", "glass"],
    ]);
    expect(readPairs(pairsText(pairs), isPart)).toEqual(pairs);
    const catches = readCatches(
      "hood: burner, glass; a: b: hood; hood: glass",
      isPart,
    );
    expect(catches).toEqual(
      new Map([
        ["hood", ["burner", "glass"]],
        ["a: b", ["hood"]],
      ]),
    );
    expect(
      readCatches(catchesText(catches as Map<string, string[]>), isPart),
    ).toEqual(catches);
  });

  it.each(["hood", "hood + nobody", "nobody + hood", "hood + hood"])(
    "are no pairs: %s",
    async (text) => {
      expect(readPairs(text, isPart)).toBe(text);
      await expect(bake(hooded(), { ao: true, pairs: text })).rejects.toThrow(
        /does not name parts/,
      );
    },
  );
  it.each(["hood", "hood: nobody", "hood:", "hood: hood"])(
    "are nothing to catch: %s",
    async (text) => {
      expect(readCatches(text, isPart)).toBe(text);
      await expect(bake(hooded(), { ao: true, catches: text })).rejects.toThrow(
        /does not name parts/,
      );
    },
  );
});
