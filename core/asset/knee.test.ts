import { expect, it } from "vitest";
import { kneeOf } from "./knee";

const counts = Array.from({ length: 40 }, (_, i) => Math.round(20 * 1.25 ** i));

it("finds no knee where distances grow as triangles shrink", () => {
  const curve = { triangles: counts, rms: counts.map((n) => 1 / n) };
  expect(kneeOf(curve, 1)).toBeNull();
});

it("finds where a curve turns steep, and only where that shows", () => {
  const rms = counts.map((n) => (n > 1000 ? 1 / n : 1e-3 * (1000 / n) ** 4));
  const knee = kneeOf({ triangles: counts, rms }, 1)!;
  expect(knee).toBeGreaterThan(900);
  expect(knee).toBeLessThan(1500);
  expect(kneeOf({ triangles: counts, rms }, 1e9)).toBeNull();
  // Where nearly all triangles are left every curve falls to nothing: that is no knee.
  const dense = counts.map((n) => (n < 50_000 ? 1 / n : 1e-9));
  expect(kneeOf({ triangles: counts, rms: dense }, 1)).toBeNull();
});

it("looks past where all is lost, and where the curve is flat again", () => {
  // A net: nothing of its cords is left below 500, and all of them are there from 1000 on.
  const rms = counts.map((n) => (n < 500 ? 0.02 : n < 1000 ? 0.012 : 1e-4));
  const knee = kneeOf({ triangles: counts, rms }, 1)!;
  expect(knee).toBeGreaterThan(900);
  expect(knee).toBeLessThan(1800);
});
