import { expect, test } from "vitest";
import { buildEdges } from "../core/mesh/edges";
import { triangleCount } from "../core/mesh/mesh";
import { surveyMesh } from "../core/survey/methods/survey-mesh";
import { DIRTY, scanLike } from "./scan-like";

test("merging grids alone gives a closed surface with slivers and edges of next to nothing", () => {
  const mesh = scanLike(1, 60_000);
  expect(triangleCount(mesh)).toBeGreaterThan(40_000);
  const edges = buildEdges(mesh);
  expect(edges.uses.every((uses) => uses === 2)).toBe(true);
  const { survey } = surveyMesh("scan", mesh, 1e-7, false);
  expect(survey.slivers / survey.triangles).toBeGreaterThan(0.05);
  expect(survey.flippedFaces).toBeLessThan(100);
  expect(survey.shortestEdge).toBeLessThan(1e-7);
  expect(survey.degenerateFaces).toBeGreaterThan(0);
});

test("the dirty kind has all the rest", () => {
  const { survey } = surveyMesh(
    "scan",
    scanLike(2, 60_000, DIRTY),
    1e-7,
    false,
  );
  expect(survey.nonManifoldEdges).toBeGreaterThan(100);
  expect(survey.borderEdges).toBeGreaterThan(100);
  expect(survey.duplicateFaces).toBeGreaterThan(60);
  expect(survey.components).toBeGreaterThan(10);
});
