import { expect, test } from "vitest";
import { triangleCount } from "../core/mesh/mesh";
import { weld } from "../core/mesh/weld";
import { surveyMesh } from "../core/survey/survey-mesh";
import { cadAssembly, cadPart } from "./cad-like";

test("parts come in patches that share no vertices, in slivers, with T-junctions left once welded", () => {
  for (const seed of [1, 2, 3, 4]) {
    const mesh = cadPart(seed, 4000);
    expect(triangleCount(mesh) / 4000).toBeGreaterThan(0.5);
    expect(triangleCount(mesh) / 4000).toBeLessThan(2);
    const { survey } = surveyMesh("part", mesh, 1e-7, false);
    expect(survey.borderEdges).toBeGreaterThan(100);
    const { survey: welded } = surveyMesh(
      "part",
      weld(mesh, 1e-6).mesh,
      1e-7,
      false,
    );
    expect(welded.slivers / welded.triangles).toBeGreaterThan(0.2);
  }
});

test("without dirt a part is closed once welded", () => {
  for (const seed of [1, 2, 3, 4]) {
    const mesh = cadPart(seed, 4000, { apart: 0, open: 0, noArea: 0 });
    const { survey } = surveyMesh("part", weld(mesh, 1e-6).mesh, 1e-7, false);
    expect(survey.closed).toBe(true);
    expect(survey.flippedFaces).toBe(0);
  }
});

test("half of an assembly is inside its housing", () => {
  const { parts, hidden } = cadAssembly(1, 60, 60_000);
  expect(parts).toHaveLength(60);
  expect(hidden).toHaveLength(30);
  for (const { name, mesh } of parts) {
    const least = Math.min(...mesh.positions);
    const most = Math.max(...mesh.positions);
    if (hidden.includes(name)) expect(Math.max(-least, most)).toBeLessThan(1);
  }
});
