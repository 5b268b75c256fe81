import { expect, test } from "vitest";
import { triangleCount } from "../core/mesh/mesh";
import { weld } from "../core/mesh/weld";
import { boundsOf } from "../core/space/bounds";
import { surveyMesh } from "../core/survey/methods/survey-mesh";
import { cadAssembly, cadMachine, cadPart } from "./cad-like";

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

test("a machine has as many triangles as asked for, in parts that lie apart", () => {
  const mesh = cadMachine(1, 120_000);
  expect(triangleCount(mesh) / 120_000).toBeGreaterThan(0.9);
  expect(triangleCount(mesh) / 120_000).toBeLessThan(1.1);
  const { min, max } = boundsOf(mesh.positions);
  expect(max[0] - min[0]).toBeGreaterThan(1);
  expect(max[2] - min[2]).toBeGreaterThan(1);
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
