import { describe, expect, it } from "vitest";
import { createAsset, createPart } from "../../../core/asset/asset";
import { toDocument } from "../../../core/asset/document";
import { run } from "../../../tests/one-part";
import { cube, moved, sphere } from "../../../tests/shapes";
import { flatRing } from "../../../tests/solids";
import type { Hull } from "../../../core/mesh/hull";
import type { AssetState } from "../../shared/types";
import { collide } from "./bench";
import { hullFindings, hullRows } from "./hull-figures";

const documentOf = (asset: Parameters<typeof toDocument>[0]) =>
  toDocument(asset, () => {});

describe("what is told of hulls", () => {
  const post = createAsset("post", [
    createPart("ball", 0, { game: moved(sphere(24, 32), 0, 5, 0) }),
    createPart("block", 1, { game: cube() }),
    createPart("other block", 2, { game: moved(cube(), 4, 0, 0) }),
  ]);

  it("names their kinds, and holds them to the error that was asked for", async () => {
    const { asset } = await run("collide/hulls", post, {
      kind: "best",
      error: 150,
    });
    const result = asset.results.collide!;
    const rows = hullRows(documentOf(asset), result);
    const row = (label: string) => rows.find((each) => each.label === label);
    expect(row("Shapes")?.value).toBe("2 boxes, 1 sphere");
    expect(row("Hulls")).toMatchObject({ value: "3", state: "good" });
    expect(row("Stands off at most")).toMatchObject({
      limit: "≤ 15.0 cm",
      state: "good",
    });
    expect(hullFindings(documentOf(asset), result)).toEqual([]);
  });

  it("says what was asked for and could not be had", async () => {
    const ring = createAsset("ring", [
      createPart("ring", 0, { game: flatRing(24) }),
    ]);
    const one = await run("collide/hulls", ring, {
      maxHulls: 1,
      smallestGap: 100,
    });
    const found = hullFindings(
      documentOf(one.asset),
      one.asset.results.collide,
    );
    expect(found).toMatchObject([{ tone: "bad" }]);
    expect(found[0].text).toMatch(/^a gap of .* is covered/);
    expect(found[0].mend).toBeUndefined();
    const few = {
      ...post,
      brief: { ...post.brief, hulls: 2 },
    };
    const many = await run("collide/hulls", few, { kind: "box", maxHulls: 3 });
    expect(
      hullFindings(documentOf(many.asset), many.asset.results.collide),
    ).toMatchObject([
      { text: "3 hulls, 2 are allowed", mend: { label: "Join" } },
    ]);
  });
});

it("a part that came as hulls alone can be worked, one without anything can not", () => {
  const told = (hulls: Hull[]) =>
    collide.missing!({
      document: toDocument(
        createAsset("a", [createPart("lid", 0, { hulls })]),
        () => {},
      ),
    } as AssetState);
  const { positions } = cube();
  const triangles = Uint32Array.of(0, 1, 2);
  expect(told([{ name: "h", kind: "box", positions, triangles }])).toBeNull();
  expect(told([])).toMatchObject({ stage: "intake" });
});
