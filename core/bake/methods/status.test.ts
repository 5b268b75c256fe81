import { describe, expect, it } from "vitest";
import { moved, sphere } from "../../../tests/shapes";
import { createPart } from "../../asset/asset";
import type { PartCounts } from "./maps";
import { STATUS, STATUS_LOOKS, statusPicture } from "./status";
import { trio, bake } from "../../../tests/bake-trio";

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
