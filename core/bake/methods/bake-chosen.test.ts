import { describe, expect, it } from "vitest";
import type { BakeFinding } from "./findings";
import type { PartCounts } from "./maps";
import { SIZE, trio, bake, changed, bytes } from "../../../tests/bake-trio";

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
