import { run, one } from "../../../tests/one-part";
import { describe, expect, it } from "vitest";
import {
  cube,
  joined,
  sphere,
  torus,
  tubeMesh,
  sheetMesh,
} from "../../../tests/shapes";
import { triangleCount, vertexCount } from "../../mesh/mesh";
import { surveyMesh as lookOver } from "../methods/survey-mesh";

const surveyMesh = (mesh: ReturnType<typeof cube>, tolerance: number) =>
  lookOver("thing", mesh, tolerance, false).survey;

describe("Survey", () => {
  it("finds nothing wrong with sound meshes", () => {
    for (const mesh of [cube(), sphere(), torus()])
      expect(surveyMesh(mesh, 1e-5)).toMatchObject({
        borderEdges: 0,
        nonManifoldEdges: 0,
        degenerateFaces: 0,
        flippedFaces: 0,
        duplicateVertices: 0,
        components: 1,
        closed: true,
      });
  });

  it("counts every defect that was planted", () => {
    expect(surveyMesh(tubeMesh(24, 3), 0)).toMatchObject({
      quads: 72,
      borderEdges: 48,
      closed: false,
    });
    const turned = sphere();
    const inside = { ...turned, corners: turned.corners.slice().reverse() };
    expect(surveyMesh(inside, 0).flippedFaces).toBe(triangleCount(turned));
    const oneTurned = sphere();
    const corners = oneTurned.corners.slice();
    [corners[30], corners[31]] = [corners[31], corners[30]];
    expect(surveyMesh({ ...oneTurned, corners }, 0).flippedFaces).toBe(1);
    expect(surveyMesh(joined(cube(), cube()), 1e-6).duplicateVertices).toBe(8);
    const fin = joined(cube());
    const withFin = {
      ...fin,
      positions: new Float32Array([...fin.positions, 0, 3, 0]),
      corners: new Uint32Array([...fin.corners, 2, 6, 8]),
      faceStarts: new Uint32Array([...fin.faceStarts, 27]),
    };
    expect(surveyMesh(withFin, 0).nonManifoldEdges).toBe(1);
    const flat = {
      ...sheetMesh(1),
      positions: new Float32Array([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 0, 1]),
    };
    expect(
      surveyMesh({ ...flat, corners: new Uint32Array([0, 1, 2, 0, 3, 1]) }, 0)
        .degenerateFaces,
    ).toBe(1);
  });

  it("reports per part and welds on request", async () => {
    const asset = one(joined(cube(), cube()), "source");
    const { report } = await run("survey/count", asset);
    expect(report).toMatchObject({ duplicateVertices: 8, triangles: 24 });
    const welded = await run("survey/repair", asset, {
      mend: ["coincident"],
      tolerance: 0.1,
    });
    expect(welded.report.mended).toMatchObject({ coincident: 8 });
    expect(vertexCount(welded.asset.parts[0].source!)).toBe(8);
    expect(vertexCount(asset.parts[0].source!)).toBe(16);
  });
});
