import { context, run, one } from "../../../tests/one-part";
import { describe, expect, it } from "vitest";
import { cube } from "../../../tests/shapes";
import type { Asset } from "../../asset/asset";
import { createAsset } from "../../asset/asset";
import { writeMeshFile } from "../../formats/index";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";
import { surveyMesh as lookOver } from "../../survey/methods/survey-mesh";

const surveyMesh = (mesh: ReturnType<typeof cube>, tolerance: number) =>
  lookOver("thing", mesh, tolerance, false).survey;

describe("Intake", () => {
  const files = async (mesh = cube()) => [
    {
      name: "box.obj",
      bytes: await writeMeshFile("box.obj", [{ name: "box", mesh }]),
    },
  ];
  const bring = async (asset: Asset, options: object) =>
    runOperation(findOperation("intake/bring-in"), asset, options, {
      ...context,
      files: await files(),
    });

  it("brings a file in, turns it and scales it", async () => {
    const { asset, report } = await bring(createAsset("a"), {
      unit: "cm",
      up: "z",
    });
    expect(asset.parts[0].name).toBe("box");
    expect(report.sizeMetres).toEqual(
      [0.02, 0.02, 0.02].map((x) => expect.closeTo(x, 6) as number),
    );
    const p = asset.parts[0].source!.positions;
    expect(p[1]).toBeCloseTo(cube().positions[2] * 0.01, 6);
    expect(p[2]).toBeCloseTo(-cube().positions[1] * 0.01, 6);
    expect(surveyMesh(asset.parts[0].source!, 0).flippedFaces).toBe(0);
  });

  it("joins source and game mesh by name, and says when there is no file", async () => {
    const { asset } = await bring((await bring(createAsset("a"), {})).asset, {
      role: "game",
    });
    expect(asset.parts).toHaveLength(1);
    expect(asset.parts[0].game).not.toBeNull();
    await expect(run("intake/bring-in", asset)).rejects.toThrow(/no file/);
  });

  it("keeps a brief and the rules of parts", async () => {
    const brief = await run("intake/brief", one(cube()), {
      name: "Crate/..",
      triangles: 700,
      sheet: "1024",
      hulls: 3,
    });
    expect(brief.asset.name).toBe("Crate_..");
    expect(brief.asset.brief).toMatchObject({
      triangles: 700,
      sheetSize: 1024,
      hulls: 3,
    });
    const rules = await run("intake/part-rules", brief.asset, {
      parts: ["thing"],
      budget: 50,
      locked: true,
    });
    expect(rules.asset.parts[0]).toMatchObject({ budget: 50, locked: true });
    await expect(
      run("intake/part-rules", brief.asset, { parts: ["nothing"] }),
    ).rejects.toThrow(/no part/);
  });
});
