import { describe, expect, it } from "vitest";
import { cube, sphere } from "../../tests/shapes";
import type { Asset, Part } from "./asset";
import { createAsset, createPart } from "./asset";
import { followRepeats, workedParts } from "./repeats";

/** Two to the right and mirrored across x. */
const MATRIX = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 2, 0, 0, 1];
const hull = (of: number) =>
  ({
    name: "box",
    kind: "box",
    positions: Float32Array.from([of, 0, 0, of, 1, 0, of, 0, 1, of + 1, 0, 0]),
    triangles: Uint32Array.from([0, 1, 2, 0, 3, 1, 0, 2, 3, 1, 3, 2]),
  }) as unknown as Part["hulls"][number];
const slat = (more: Partial<Part> = {}): Part => ({
  ...createPart("slat", 0, { source: sphere(6, 8), game: cube() }),
  levels: [cube()],
  hulls: [hull(3)],
  ...more,
});
const copy: Part = {
  ...createPart("slat 1", 1, {}),
  repeat: { of: "slat", matrix: MATRIX },
};
const both = (own: Part, other: Part = copy): Asset =>
  createAsset("crate", [own, other]);
const placed = (positions: Float32Array) =>
  // A matrix makes 0 of −0.
  positions.map((x, i) => (i % 3 === 0 ? 2 - x : x + 0));

describe("a repeat", () => {
  it("has the meshes, levels and hulls of its part, placed; only the part is worked", () => {
    const asset = followRepeats(both(slat()));
    const [own, next] = asset.parts;
    expect(workedParts(asset)).toEqual([own]);
    for (const which of ["source", "game"] as const)
      expect(next[which]!.positions).toEqual(placed(own[which]!.positions));
    expect(next.levels).toHaveLength(1);
    expect(next.levels[0].positions).toEqual(placed(own.levels[0].positions));
    expect(next.hulls).toHaveLength(1);
    expect(next.hulls[0].positions).toEqual(placed(own.hulls[0].positions));
    expect(next.dense).toBeNull();
  });

  it("keeps the very streams it had while its part is as it was, and makes anew what changed", () => {
    const before = followRepeats(both(slat()));
    const [own, was] = before.parts;
    const same = followRepeats(before, before).parts[1];
    expect(same.source).toBe(was.source);
    expect(same.game).toBe(was.game);
    expect(same.levels).toBe(was.levels);
    expect(same.hulls).toBe(was.hulls);
    const game = sphere(4, 6);
    const after = followRepeats(both({ ...own, game }, was), before).parts[1];
    expect(after.source).toBe(was.source);
    expect(after.game!.positions).toEqual(placed(game.positions));
    expect(after.levels).toBe(was.levels);
    const lighter = { ...own, levels: [sphere(3, 4)], hulls: [hull(7)] };
    const next = followRepeats(both(lighter, was), before).parts[1];
    expect(next.levels[0].positions).toEqual(
      placed(lighter.levels[0].positions),
    );
    expect(next.hulls[0].positions).toEqual(placed(lighter.hulls[0].positions));
    // Placed elsewhere, all of it is.
    const there = { ...was, repeat: { of: "slat", matrix: [...MATRIX] } };
    expect(followRepeats(both(own, there), before).parts[1].source).not.toBe(
      was.source,
    );
  });

  it("whose part is gone, or is a repeat itself, stands for itself with what it had", () => {
    const [, was] = followRepeats(both(slat())).parts;
    for (const parts of [
      [was],
      [{ ...slat(), repeat: { of: "x", matrix: MATRIX } }, was],
    ]) {
      const alone = followRepeats(createAsset("crate", parts)).parts.at(-1)!;
      expect(alone.repeat).toBeNull();
      expect(alone.source).toBe(was.source);
      expect(alone.hulls).toBe(was.hulls);
    }
    const plain = createAsset("crate", [slat()]);
    expect(followRepeats(plain)).toBe(plain);
  });
});
