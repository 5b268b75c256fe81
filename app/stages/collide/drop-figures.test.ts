import { expect, it } from "vitest";
import { run } from "../../../tests/one-part";
import { cube } from "../../../tests/shapes";
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
