import { expect, it } from "vitest";
import { DIRTY, scanLike } from "../../tests/scan-like";
import { sphere } from "../../tests/shapes";
import { faceCount } from "../mesh/mesh";
import { SETTLE_RULES } from "../settle/settle";
import { settledOf } from "../settle/settled-of";
import { findOperation } from "../operations";
import { plainContext } from "../base/context";
import { runOperation } from "../route";
import { createAsset, createPart } from "./asset";
import { streamsOf, toDocument } from "./document";
import { fromDocument } from "./read-document";
import { stageStates } from "./stale";

const context = plainContext();
const begin = async (options = {}) =>
  (
    await runOperation(
      findOperation("survey/settle"),
      createAsset("scans", [
        createPart("scan", 0, { source: scanLike(2, 5000, DIRTY) }),
        createPart("ball", 1, { source: sphere(10, 14) }),
      ]),
      options,
      context,
    )
  ).asset;

it("is kept with the source, and known again once it is loaded", async () => {
  const asset = await begin();
  const [scan, ball] = asset.parts;
  expect(scan.settled!.done.length).toBeGreaterThan(3);
  expect(ball.settled).toEqual({ mesh: null, faces: null, done: [] });
  const bytes = new Map<string, Uint8Array>();
  const document = toDocument(asset, (hash, data) => bytes.set(hash, data));
  expect(streamsOf(document).map(({ hash }) => hash)).toContain(
    document.parts[0].settled!.mesh!.streams.positions!.hash,
  );
  const again = fromDocument(document, (hash) => bytes.get(hash)!);
  const { mesh, faces, done } = settledOf(again.parts[0].source!);
  expect(mesh).toBe(again.parts[0].settled!.mesh);
  expect(mesh.corners).toEqual(scan.settled!.mesh!.corners);
  expect(faces).toEqual(scan.settled!.faces);
  expect(done).toEqual(scan.settled!.done);
});

it("takes what hangs on faces over without settling anew", async () => {
  const asset = await begin();
  const { asset: painted } = await runOperation(
    findOperation("survey/paint-ids"),
    asset,
    { faces: ["scan:0-99"], mesh: "source" },
    context,
  );
  const before = asset.parts[0].settled!;
  const after = painted.parts[0].settled!;
  expect(after.mesh!.positions).toBe(before.mesh!.positions);
  expect(after.mesh!.ids).toEqual(
    before.faces!.length
      ? Uint16Array.from(before.faces!, (f) => painted.parts[0].source!.ids![f])
      : null,
  );
});

it("follows the source, and the rules that are left on", async () => {
  const asset = await begin();
  const { asset: less } = await runOperation(
    findOperation("survey/delete-faces"),
    asset,
    { faces: ["scan:0-2000"], mesh: "source" },
    context,
  );
  expect(faceCount(less.parts[0].settled!.mesh!)).toBeLessThan(
    faceCount(asset.parts[0].settled!.mesh!),
  );
  expect(less.parts[1].settled).toBe(asset.parts[1].settled);
  const reduced = await runOperation(
    findOperation("reduce/to-budget"),
    asset,
    { triangles: 400, measure: false },
    context,
  );
  const { asset: off, report } = await runOperation(
    findOperation("survey/settle"),
    reduced.asset,
    { rules: ["coincident"] },
    context,
  );
  expect(off.parts[0].settled!.done.map(({ rule }) => rule)).toEqual([
    "coincident",
  ]);
  expect(report.without).toEqual(
    SETTLE_RULES.map(({ value }) => value).filter(
      (rule) => rule !== "coincident",
    ),
  );
  const reduce = stageStates(toDocument(off, () => {})).find(
    ({ stage }) => stage === "reduce",
  )!;
  expect(reduce).toMatchObject({
    state: "stale",
    changed: ["how sources are settled"],
  });
});

it("says which source is being settled, and stops where that is wanted", async () => {
  const told: string[] = [];
  const asset = createAsset("told", [
    createPart("scan", 0, { source: scanLike(3, 4000, DIRTY) }),
  ]);
  await runOperation(
    findOperation("survey/settle"),
    asset,
    {},
    {
      ...context,
      progress: (_, step) => told.push(step),
    },
  );
  expect(told).toContain("settling scan");
  await expect(
    runOperation(
      findOperation("survey/settle"),
      asset,
      {},
      {
        ...context,
        check: () => {
          throw new Error("stopped");
        },
      },
    ),
  ).rejects.toThrow("stopped");
});
