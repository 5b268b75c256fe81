import { expect, it } from "vitest";
import { run } from "../../../tests/one-part";
import { cube, moved, torus } from "../../../tests/shapes";
import { length } from "../../shared/figures";
import { createAsset, createPart } from "../../../core/asset/asset";
import { toDocument } from "../../../core/asset/document";
import { dropFindings, dropRows } from "./drop-figures";

it("tells of the drop test as long as the hulls are those that were dropped", async () => {
  const box = createPart("box", 0, { game: cube() });
  const made = await run("collide/hulls", createAsset("Box", [box]), {
    kind: "box",
  });
  const documentOf = (asset: typeof made.asset) => toDocument(asset, () => {});
  expect(dropRows(documentOf(made.asset))).toEqual([]);
  const { asset } = await run("collide/drop", made.asset);
  const rows = dropRows(documentOf(asset));
  expect(rows[0]).toMatchObject({ value: "yes", state: "good" });
  expect(rows.map(({ label }) => label)).toContain("Dropped, rests after");
  expect(dropFindings(documentOf(asset))).toEqual([]);
  const gaps = rows.find(({ label }) => label.startsWith("Gaps open"));
  expect(gaps).toMatchObject({ value: "no gaps", state: "good" });
  const [part] = asset.parts;
  const troubled = {
    ...asset.reports["collide/drop"],
    report: { ...asset.reports["collide/drop"].report, troubles: ["it tips"] },
  };
  const tips = { ...asset, reports: { "collide/drop": troubled } };
  expect(dropFindings(documentOf(tips))).toMatchObject([
    { tone: "warn", text: "Drop test: it tips" },
  ]);
  const other = {
    ...asset,
    parts: [
      {
        ...part,
        hulls: part.hulls.map((hull) => ({
          ...hull,
          positions: hull.positions.map((x) => 2 * x),
        })),
      },
    ],
  };
  expect(dropRows(documentOf(other))).toEqual([]);
});

it("tells where hulls stop a ball that the mesh lets through, and offers to keep such gaps open", async () => {
  const ring = createPart("ring", 0, { game: torus(40, 16, 1, 0.4) });
  const made = await run("collide/hulls", createAsset("Ring", [ring]), {
    kind: "hull",
  });
  const { asset, report } = await run("collide/drop", made.asset, {
    ball: 600,
  });
  expect(report.balls).toMatchObject({ diameter: 0.6 });
  const document = toDocument(asset, () => {});
  const rows = dropRows(document);
  const row = rows.find(({ label }) => label.startsWith("Gaps open"))!;
  expect(row).toMatchObject({ state: "warn" });
  expect(row.value).toMatch(/^0/);
  const found = dropFindings(document).find(({ mend }) => mend)!;
  expect(found.places!.length).toBeGreaterThan(5);
  expect(found.mend).toMatchObject({
    operation: "collide/hulls",
    options: { kind: "hull", smallestGap: 600 },
  });
  // What is open is asked of the game mesh: where that is another, it is told no longer.
  const changed = {
    ...asset,
    parts: [{ ...asset.parts[0], game: torus(40, 16, 1, 0.3) }],
  };
  expect(dropRows(toDocument(changed, () => {}))).toEqual([]);
});

it("tells where one would catch or hover on hulls, and where their mass lies", async () => {
  const slab = (x: number, high: number) => moved(cube(), x, high, 0);
  const asset = createAsset("Quay", [
    createPart("left", 0, { game: slab(0, 0) }),
    createPart("right", 1, { game: slab(2, 0) }),
  ]);
  const made = await run("collide/hulls", asset, { kind: "box" });
  const lifted = await run("collide/move", made.asset, {
    hulls: ["right_hull_1"],
    moveY: 100,
  });
  const { asset: dropped } = await run("collide/drop", lifted.asset, {});
  const document = toDocument(dropped, () => {});
  const value = (label: string) =>
    dropRows(document).find((row) => row.label === label)?.value;
  expect(value("One stands above the mesh by")).toBe(length(0.1));
  expect(value("Lips that one catches on")).toBe(`up to ${length(0.1)}`);
  expect(value("Centre of mass, above the origin")).toBe(length(0.05));
  const found = dropFindings(document).filter(({ places }) => places);
  expect(found.map(({ tone }) => tone)).toEqual(["note", "note"]);
  expect(found[0].text).toMatch(
    /that the mesh has not, in (\d places?|12 places or more):/,
  );
});
