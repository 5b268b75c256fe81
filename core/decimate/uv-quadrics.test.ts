import { expect, test } from "vitest";
import { UvQuadrics } from "./uv-quadrics";

/** A right triangle in the plane z = 0 whose UV follows its place. */
const corners = [
  [0, 0, 0, 0, 0],
  [1, 0, 0, 1, 0],
  [0, 1, 0, 0, 1],
];

test("costs nothing in the plane of a face, and the squared distance to it by area elsewhere", () => {
  const quadrics = new UvQuadrics(3);
  quadrics.addFace([0, 1, 2], corners);
  for (const x of corners) expect(quadrics.valueAt(0, x)).toBeCloseTo(0, 12);
  const lifted = quadrics.valueAt(1, [0, 0, 2, 0, 0]);
  // The area in space is a half, a third of it for each corner.
  expect(lifted).toBeCloseTo(4 / 6, 9);
});

test("holds a place whose UV drifts as one that moves", () => {
  const quadrics = new UvQuadrics(3);
  quadrics.addFace([0, 1, 2], corners);
  expect(quadrics.valueAt(2, [0.5, 0, 0, 0.5, 0])).toBeCloseTo(0, 12);
  expect(quadrics.valueAt(2, [0.5, 0, 0, 0.1, 0])).toBeGreaterThan(0.01);
});

test("counts the squared distance to a plane in space, whatever the UV, and adds what is merged", () => {
  const quadrics = new UvQuadrics(2);
  quadrics.addPlane(0, [1, 0, 0], [0.5, 0, 0], 3);
  quadrics.addPlane(1, [0, 1, 0], [0, 0, 0], 1);
  expect(quadrics.valueAt(0, [1.5, 9, 9, 7, 7])).toBeCloseTo(3, 9);
  quadrics.merge(0, 1);
  expect(quadrics.valueAt(0, [1.5, 2, 9, 7, 7])).toBeCloseTo(7, 9);
});
