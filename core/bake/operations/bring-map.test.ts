import { beforeAll, describe, expect, it } from "vitest";
import { encode } from "fast-png";
import { laidOn, squareSheet } from "../../../tests/laid";
import { context, run } from "../../../tests/one-part";
import { sphere } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset, createPart } from "../../asset/asset";
import { fromDocument, fillDocument } from "../../asset/read-document";
import { streamsOf, toDocument } from "../../asset/document";
import { packProject, unpackProject } from "../../asset/project";
import { stageStates } from "../../asset/stale";
import type { BakedKind } from "../../base/pictures";
import { BROUGHT_KINDS } from "../../base/pictures";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";
import { kindInName } from "../methods/brought-maps";

const SIZE = 64;

/** A PNG of one grey or colour, with all of its steps. */
const png = (values: readonly number[], size = SIZE, depth: 8 | 16 = 8) =>
  encode({
    ...{ width: size, height: size, depth, channels: values.length as 1 | 3 },
    data: new (depth === 8 ? Uint8Array : Uint16Array)(
      values.length * size * size,
    ).map((_, i) => values[i % values.length]),
  });

const bring = (
  asset: Asset,
  files: Record<string, Uint8Array>,
  options: object = {},
) =>
  runOperation(findOperation("bake/bring-map"), asset, options, {
    ...context,
    files: Object.entries(files).map(([name, bytes]) => ({ name, bytes })),
  });

const found = ({ maps }: Pick<Asset, "maps">, kind: BakedKind) =>
  maps.filter((map) => map.kind === kind);
const bytesOf = ({ pixels }: Asset["maps"][number]) =>
  Buffer.from(pixels.buffer, pixels.byteOffset, pixels.byteLength);

/** Kinds that a bake is asked for besides. */
const isFurther = (kind: BakedKind) => kind !== "normal" && kind !== "ao";

let baked: Asset;
beforeAll(async () => {
  const [game] = laidOn([sphere(8, 10, 0.5)], squareSheet(SIZE));
  const bumps = (a: number, t: number) => 0.02 * Math.sin(7 * a + 5 * t);
  const asset = createAsset("ball", [
    createPart("ball", 0, { source: sphere(24, 30, 0.5, bumps), game }),
  ]);
  const sized = {
    ...asset,
    brief: { ...asset.brief, sheetSize: SIZE, padding: 2 },
  };
  baked = (await run("bake/maps", sized, { rays: 4, samples: 1 })).asset;
});

describe("a map from elsewhere", () => {
  it("stands in for the baked one, which is kept, and either is chosen", async () => {
    const [own] = found(baked, "ao");
    const { asset, report } = await bring(baked, { "ball_ao.png": png([90]) });
    expect(report.summary).toBe("brought in: occlusion 64 × 64");
    const [used, ...more] = found(asset, "ao");
    expect(more).toEqual([]);
    expect(used).toMatchObject({ from: "ball_ao.png", channels: 1, depth: 8 });
    expect(new Set(used.pixels)).toEqual(new Set([90]));
    expect(asset.aside).toEqual([own]);
    const back = await run("bake/use-map", asset, { kind: "ao", use: "baked" });
    expect(found(back.asset, "ao")).toEqual([own]);
    expect(back.asset.aside).toEqual([used]);
    const again = await run("bake/use-map", back.asset, { kind: "ao" });
    expect(found(again.asset, "ao")).toEqual([used]);
    const gone = await run("bake/use-map", again.asset, {
      kind: "ao",
      use: "remove",
    });
    expect(gone.asset.maps).toEqual(baked.maps);
    expect(gone.asset.aside).toEqual([]);
  });

  it("is left alone by bakes, which go on with the baked one", async () => {
    const { asset } = await bring(baked, { "ball_ao.png": png([90]) });
    const again = await run("bake/maps", asset, { rays: 4, samples: 1 });
    expect(again.report.baked).toEqual([]);
    expect(found(again.asset, "ao")[0].from).toBe("ball_ao.png");
    const more = await run("bake/maps", asset, { rays: 8, samples: 1 });
    expect(found(more.asset, "ao")[0].from).toBe("ball_ao.png");
    const alone = await run("bake/maps", baked, { rays: 8, samples: 1 });
    expect(bytesOf(more.asset.aside[0])).toEqual(
      bytesOf(found(alone.asset, "ao")[0]),
    );
    // Where none of the kind is baked any more it is in use all the same.
    const without = await run("bake/maps", asset, {
      ...{ rays: 4, samples: 1, ao: false },
    });
    expect(found(without.asset, "ao")[0].from).toBe("ball_ao.png");
    expect(without.asset.aside).toEqual([]);
  });

  it("is never lost to a bake: not of a kind that is not baked, nor where it lies aside", async () => {
    const { asset } = await bring(baked, {
      "ball_id.png": png([1, 2, 3]),
      "ball_ao.png": png([90]),
    });
    const again = await run("bake/maps", asset, { rays: 8, samples: 1 });
    expect(found(again.asset, "id")[0].from).toBe("ball_id.png");
    const one = await run("bake/maps", asset, {
      ...{ rays: 8, samples: 1, parts: ["ball"] },
    });
    expect(one.asset.maps.map(({ from }) => from)).toEqual(
      asset.maps.map(({ from }) => from),
    );
    const back = await run("bake/use-map", asset, { kind: "ao", use: "baked" });
    const without = await run("bake/maps", back.asset, {
      ...{ rays: 4, samples: 1, ao: false },
    });
    expect(found(without.asset, "ao")).toEqual([]);
    expect(without.asset.aside.map(({ from }) => from)).toEqual([
      "ball_ao.png",
    ]);
    const used = await run("bake/use-map", without.asset, { kind: "ao" });
    expect(found(used.asset, "ao")[0].from).toBe("ball_ao.png");
  });

  it("has as many channels as the baked one of its kind", async () => {
    const all = await run("bake/maps", baked, {
      ...{ rays: 4, samples: 1, also: BROUGHT_KINDS.filter(isFurther) },
    });
    for (const kind of BROUGHT_KINDS) {
      const own = found(all.asset, kind)[0];
      const { asset } = await bring(
        baked,
        { "x.png": png([7, 8, 9]) },
        { kind },
      );
      expect([kind, found(asset, kind)[0].channels]).toEqual([
        kind,
        own.channels,
      ]);
    }
  });

  it("has its own size and depth, takes the place of one brought in before, and makes Ship stale alone", async () => {
    const first = await bring(baked, {
      "a_normal.png": png([1, 2, 3], 128, 16),
      "a_ao.png": png([9]),
    });
    const shipped = await run("ship/archive", first.asset, {
      ...{ page: false, insist: true },
    });
    const { asset } = await bring(shipped.asset, {
      "b_normal.png": png([40_000, 50_000, 65_535], 32, 16),
    });
    const [normal, ...others] = found(asset, "normal");
    expect(others).toEqual([]);
    expect(normal).toMatchObject({ width: 32, depth: 16, channels: 3 });
    expect([...normal.pixels.subarray(0, 3)]).toEqual([40_000, 50_000, 65_535]);
    expect(asset.aside.map(({ from }) => from)).toEqual([undefined, undefined]);
    expect(
      stageStates(toDocument(asset, () => {})).flatMap(({ stage, state }) =>
        state === "stale" ? [stage] : [],
      ),
    ).toEqual(["ship"]);
    const told = shipped.report.maps as string[];
    expect(told).toContain("normal 128×128, 16 bit, brought in");
  });

  it.each([
    [{ green: "down" }, 50_000, 15_535],
    [{ green: "up" }, 50_000, 50_000],
    [{}, 50_000, 50_000],
  ])(
    "%o: turns green over where the profile wants it",
    async (options, green, wanted) => {
      const { asset } = await bring(
        baked,
        { "x.png": png([1, green, 3], SIZE, 16) },
        { kind: "normal", ...options },
      );
      expect(found(asset, "normal")[0].pixels[1]).toBe(wanted);
    },
  );

  it("says in Ship whether it is for the UVs that there are", async () => {
    const figure = async (asset: Asset) => {
      const { report } = await run("ship/archive", asset, {
        ...{ page: false, insist: true },
      });
      return (report.checks as { name: string; figure: string }[]).find(
        ({ name }) => name === "Maps brought in",
      )?.figure;
    };
    const { asset } = await bring(baked, { "ball_ao.png": png([90]) });
    expect(await figure(baked)).toBeUndefined();
    expect(await figure(asset)).toBe("for these UVs");
    const moved = await run("unwrap/unwrap", asset, { rounds: 0 });
    expect(await figure(moved.asset)).toBe("occlusion: for other UVs");
  });

  it("is kept with the asset and in its project, and older assets have none", async () => {
    const { asset } = await bring(baked, { "ball_ao.png": png([90]) });
    const bytes = new Map<string, Uint8Array>();
    const document = toDocument(asset, (hash, each) => bytes.set(hash, each));
    expect(streamsOf(document).every(({ hash }) => bytes.has(hash))).toBe(true);
    const read = fromDocument(document, (hash) => bytes.get(hash)!);
    expect(read.maps).toEqual(asset.maps);
    expect(read.aside).toEqual(asset.aside);
    const opened = unpackProject("a.zip", packProject(asset, context));
    expect(opened.maps).toEqual(asset.maps);
    expect(opened.aside).toEqual(asset.aside);
    const older = {
      ...document,
      aside: undefined,
    } as unknown as typeof document;
    expect(fillDocument(older).aside).toEqual([]);
    expect(streamsOf(older).length).toBeGreaterThan(0);
  });

  it.each([
    ["notes.png", {}, png([1]), "does not end in a kind of map"],
    ["a_ao.png", {}, new Uint8Array(40), "a_ao.png"],
    ["a_ao.png", { sheet: "1002" }, png([1]), "no islands lie on sheet 1002"],
    ["a_ao.1009.png", {}, png([1]), "no islands lie on sheet 1009"],
    [
      "a_ao.png",
      {},
      encode({ width: 4, height: 8, channels: 1, data: new Uint8Array(32) }),
      "it is 4 × 8 px, and the sheet 64 × 64: their proportions differ",
    ],
  ])("%s %o is refused in words", async (name, options, bytes, said) => {
    await expect(bring(baked, { [name]: bytes }, options)).rejects.toThrow(
      said,
    );
  });

  it("is refused where nothing could be chosen or laid on", async () => {
    await expect(bring(baked, {})).rejects.toThrow("no map to bring in");
    const bare = createAsset("bare", [
      createPart("bare", 0, { game: sphere(4, 5) }),
    ]);
    await expect(bring(bare, { "a_ao.png": png([1]) })).rejects.toThrow(
      "unwrap it first",
    );
    await expect(run("bake/use-map", baked, { kind: "ao" })).rejects.toThrow(
      "of occlusion none was brought in",
    );
    const { asset } = await bring(baked, { "a_id.png": png([1, 2, 3]) });
    await expect(
      run("bake/use-map", asset, { kind: "id", use: "baked" }),
    ).rejects.toThrow("of IDs none is baked");
  });

  it.each([
    ["lamp_normal.png", "normal", null],
    ["Storm Lamp-AO.1002.PNG", "ao", 1002],
    ["x.curvature.jpg", "curvature", null],
    ["normal.png", "normal", null],
    ["normal_lamp.png", null, null],
    ["lamp_status.png", null, null],
  ])("%s is known by its name", (file, kind, udim) => {
    expect(kindInName(file)).toEqual(kind && { kind, udim });
  });
});
