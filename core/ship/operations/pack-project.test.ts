import { expect, it } from "vitest";
import { context, one, run } from "../../../tests/one-part";
import { cube, sphere } from "../../../tests/shapes";
import { createAsset } from "../../asset/asset";
import { toDocument } from "../../asset/document";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";

const opened = (
  files: { name: string; bytes: Uint8Array }[],
  into = createAsset("new"),
) =>
  runOperation(
    findOperation("intake/open-project"),
    into,
    {},
    {
      ...context,
      files,
    },
  );

it("packs an asset, which opens as the same document with the same streams", async () => {
  let asset = one(sphere(10, 12), "source");
  for (const [id, options] of [
    ["reduce/to-budget", { triangles: 100 }],
    ["collide/hulls", {}],
  ] as const)
    asset = (await run(id, asset, options)).asset;
  const packed = await run("ship/project", asset);
  expect(packed.asset).toEqual(asset);
  expect(packed.files).toHaveLength(1);
  const { name, bytes } = packed.files![0];
  expect(name).toBe("thing_project.zip");
  expect(packed.report.archiveBytes).toBe(bytes.length);
  const { asset: back, report } = await opened([{ name, bytes }]);
  const documentOf = (given: typeof asset) => toDocument(given, () => {});
  expect(documentOf(back)).toEqual(documentOf(asset));
  expect(report).toMatchObject({ parts: 1, maps: 0, summary: "thing" });
  // What was opened is current: nothing goes stale by the way.
  const again = await run("ship/project", back);
  expect(again.files![0].bytes).toEqual(bytes);
});

it("opens one archive, into an asset that has nothing in it", async () => {
  const { files } = await run("ship/project", one(cube()));
  for (const given of [
    [],
    [files![0], files![0]],
    [{ name: "a.obj", bytes: new Uint8Array() }],
  ])
    await expect(opened(given)).rejects.toThrow("one project archive");
  await expect(opened(files!, one(cube()))).rejects.toThrow(
    "thing has parts already",
  );
});
