import { expect, test } from "vitest";
import { sphere } from "../../tests/shapes";
import { LEVELS } from "./collapse-levels";
import { CollapsePieces } from "./collapse-pieces";
import { EdgeCollapses } from "./edge-collapses";
import { gatherSoup, keepTriangles, trianglesOf } from "./soup";

/** A body of many triangles and a copy of it that is far off and small. */
function twoBodies() {
  const bumpy = (rows: number, columns: number) =>
    sphere(rows, columns, 1, (a, h) => 0.1 * Math.sin(4 * a) * Math.cos(3 * h));
  const body = bumpy(30, 36);
  const small = bumpy(5, 7);
  for (let i = 0; i < small.positions.length; i++)
    small.positions[i] = small.positions[i] * 0.1 + 3;
  const soup = gatherSoup([body, small]);
  return { soup, work: new EdgeCollapses(soup, {}) };
}

test("counts what is left of each piece and lets only light ones be given up whole", () => {
  const { soup, work } = twoBodies();
  const { pieces } = work;
  expect([...pieces.live]).toEqual([...trianglesOf(soup, 2)]);
  expect(pieces.live.every((left, c) => left > pieces.droppedFrom(c))).toBe(
    true,
  );
  const weightless = new CollapsePieces(
    soup,
    work,
    new Float32Array(soup.owner.length).fill(1e-6),
    1,
  );
  expect(weightless.droppedFrom(0)).toBeGreaterThan(1000);
});

test("misses a piece the more, the farther it lies from what the last collapses came to, up to a limit", () => {
  const { work } = twoBodies();
  work.pieces.weigh();
  const least = work.pieces.leastRemovalCost(1);
  expect(least).toBeGreaterThan(0);
  expect(work.pieces.removalCost(1, 1e6)).toBeCloseTo(least, 12);
  const most = work.pieces.removalCost(1, 1e-12);
  expect(most / least).toBeCloseTo(1.5 ** 8, 6);
  expect(work.pieces.removalCost(1, 1e-20)).toBe(most);
});

test("asks a higher price at each level, and never more for shape than a thin triangle is worth", () => {
  const { soup, work } = twoBodies();
  const a = soup.triangles[0];
  const price = (spread: number, level: number) =>
    work.pieces.penalised(a, 1, spread, 0, LEVELS[level]);
  expect(price(1, 1)).toBe(4);
  expect(price(1, 2)).toBe(16);
  const far = work.pieces.penalised(a, 0, 1e9, 1, LEVELS[1]);
  expect(far).toBe(work.pieces.penalised(a, 0, 1e12, 1, LEVELS[2]));
  expect(far).toBeLessThan(1e9);
});

test("keeps the triangles that are marked, with all that is said of them", () => {
  const { soup } = twoBodies();
  const before = { ...soup };
  const kept = Uint8Array.from(soup.owner, (_, t) => (t % 3 === 1 ? 1 : 0));
  const names = [...kept.keys()].filter((t) => kept[t]);
  const corners = names.flatMap((t) => [
    ...before.triangles.subarray(3 * t, 3 * t + 3),
  ]);
  const faces = names.map((t) => before.face[t]);
  keepTriangles(soup, kept);
  expect([...soup.triangles]).toEqual(corners);
  expect([...soup.face]).toEqual(faces);
  expect(soup.owner.length).toBe(names.length);
});
