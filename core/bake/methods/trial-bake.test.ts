import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { moved, sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import { CancelledError } from "../../base/errors";
import { reduceTogether } from "../../decimate/reduce-together";
import { KERNELS } from "../../operations";
import { keepFaces } from "../../mesh/change-faces";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { settledOf } from "../../settle/settled-of";
import { boundsOf } from "../../space/bounds";
import type { MapsWanted } from "./maps";
import { bakeMaps, missedShares } from "./maps";
import type { Target } from "./targets";
import type { TrialMaps } from "./trial-bake";
import {
  isHeavy,
  trialBake,
  trialWidths,
  withLighterSources,
} from "./trial-bake";

const context = plainContext(KERNELS);
const wanted: MapsWanted = {
  ...{ width: 512, height: 512, rays: 0, grid: 2, distance: 0 },
  ...{ depth: 8, padding: 4, greenUp: true, maps: ["normal"] },
};

/** Two bumpy balls side by side on one sheet. */
function balls(): Asset {
  const sources = [7, 5].map((waves) =>
    moved(
      sphere(60, 80, 1, (a, t) => 0.02 * Math.sin(9 * a) * Math.cos(waves * t)),
      waves,
      0,
      0,
    ),
  );
  const games = sources.map(
    (source) => reduceTogether([source], 300, context)[0]!,
  );
  const laid = laidOn(games, squareSheet(512));
  return createAsset(
    "balls",
    ["left", "right"].map((name, i) =>
      createPart(name, i, { source: sources[i], game: laid[i] }),
    ),
  );
}

const asset = balls();

/** The same, a third of the left one's source gone. */
function withHoles(): Asset {
  const { parts } = asset;
  const source = parts[0].source!;
  const kept = Uint8Array.from({ length: faceCount(source) }, (_, f) =>
    f % 3 ? 1 : 0,
  );
  return createAsset("holes", [
    { ...parts[0], source: keepFaces(source, kept) },
    parts[1],
  ]);
}

async function tried(
  asset: Asset,
  only: readonly string[] = [],
  of: MapsWanted = wanted,
  made = new Map<string, Target>(),
): Promise<TrialMaps[]> {
  const all: TrialMaps[] = [];
  for await (const each of trialBake(
    asset,
    of,
    only,
    trialWidths(of.width),
    made,
    async () => {},
  ))
    all.push(each);
  return all;
}
const bytes = ({ pixels }: { pixels: Uint8Array | Uint16Array }) =>
  Buffer.from(pixels.buffer, pixels.byteOffset, pixels.byteLength);

describe("a trial of a bake", () => {
  it("goes from a few texels to the sheet's own, and no further than is looked at", () => {
    expect(trialWidths(2048)).toEqual([256, 512, 1024, 2048]);
    expect(trialWidths(8192)).toEqual([256, 512, 1024, 2048]);
    expect(trialWidths(200)).toEqual([200]);
    expect(trialWidths(1000)).toEqual([250, 500, 1000]);
  });

  it("ends with the map that a bake makes, byte for byte, and counts as it does", async () => {
    const steps = await tried(asset);
    expect(steps.map(({ width, last }) => [width, last])).toEqual([
      [256, false],
      [512, true],
    ]);
    const { maps, parts } = await bakeMaps(asset, wanted, context);
    expect(bytes(steps[1].maps[0]).equals(bytes(maps[0]))).toBe(true);
    expect(steps[1]).toMatchObject(missedShares(parts));
  });

  it("is of the chosen parts alone", async () => {
    const { maps } = (await tried(asset, ["left"])).at(-1)!;
    const whole = (await tried(asset)).at(-1)!.maps[0];
    const flat = (map: Uint8Array | Uint16Array, i: number) =>
      map[3 * i] === 128 && map[3 * i + 1] === 128 && map[3 * i + 2] === 255;
    const drawn = [maps[0].pixels, whole.pixels].map(
      (map) =>
        Array.from({ length: map.length / 3 }, (_, i) => i).filter(
          (i) => !flat(map, i),
        ).length,
    );
    expect(drawn[0]).toBeGreaterThan(0.2 * drawn[1]);
    expect(drawn[0]).toBeLessThan(0.8 * drawn[1]);
  });

  it("says what is missed, and bakes masks of cards, of which nothing is", async () => {
    const holed = withHoles();
    const board = (await tried(holed)).at(-1)!;
    expect(board.missed + board.overhanging).toBeGreaterThan(0.1);
    const cards = { ...wanted, cards: ["left"] };
    const card = (
      await tried(holed, [], { ...cards, maps: ["normal", "ao", "opacity"] })
    ).at(-1)!;
    expect(card.missed + card.overhanging).toBe(0);
    expect(card.maps.map(({ kind }) => kind)).toEqual(["normal", "opacity"]);
    const mask = card.maps[1].pixels;
    expect(mask.some((x) => x === 0) && mask.some((x) => x === 255)).toBe(true);
  });

  it("has a map for every sheet", async () => {
    const { parts } = asset;
    const game = parts[1].game!;
    const uvs = game.uvs!.map((x, i) => (i % 2 ? x : x + 1));
    const two = createAsset("two sheets", [
      parts[0],
      { ...parts[1], game: { ...game, uvs } },
    ]);
    const tilesOf = async (only: string[]) =>
      (await tried(two, only))[0].maps.map(({ tile = 0 }) => tile);
    expect(await tilesOf([])).toEqual([0, 1]);
    expect(await tilesOf(["right"])).toEqual([1]);
  });

  it("makes no scene anew of the same sources for another setting, and shows the same", async () => {
    const made = new Map<string, Target>();
    await tried(asset, [], wanted, made);
    const before = [...made.values()];
    expect(before.length).toBe(2);
    const further = { ...wanted, distance: 0.2 };
    const again = (await tried(asset, [], further, made)).at(-1)!;
    expect([...made.values()].every((each, i) => each === before[i])).toBe(
      true,
    );
    const anew = (await tried(asset, [], further)).at(-1)!;
    expect(bytes(again.maps[0]).equals(bytes(anew.maps[0]))).toBe(true);
  });

  it("has lighter sources for a first look, which are settled and lie where the others do", async () => {
    expect(isHeavy(asset)).toBe(false);
    const source = sphere(240, 320);
    const { game } = asset.parts[0];
    const heavy = createAsset("heavy", [
      createPart("left", 0, { source, game: moved(game!, -7, 0, 0) }),
      createPart("skin", 1, { source: game, dense: source, skinned: true }),
    ]);
    expect(isHeavy(heavy)).toBe(true);
    const light = withLighterSources(heavy);
    for (const part of light.parts) {
      const count = triangleCount(part.source!);
      expect(count).toBeGreaterThan(12_000);
      expect(count).toBeLessThan(25_000);
      expect(settledOf(part.source!).mesh).toBe(part.source);
      expect(part.skinned).toBe(false);
      const [box, whole] = [part.source!, source].map(({ positions }) =>
        boundsOf(positions),
      );
      box.min.forEach((x, k) => expect(x).toBeCloseTo(whole.min[k], 1));
    }
  });

  it("stops where it is told to", async () => {
    let pauses = 0;
    const steps = trialBake(
      asset,
      wanted,
      [],
      [256, 512],
      new Map(),
      async () => {
        if (++pauses === 6) throw new CancelledError();
      },
    );
    await expect(
      (async () => {
        for await (const each of steps) expect(each.last).toBe(false);
      })(),
    ).rejects.toThrow(CancelledError);
    expect(pauses).toBe(6);
  });
});
