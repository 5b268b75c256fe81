import { expect, it } from "vitest";
import { spaced } from "../shared/figures";
import type { Facts } from "./facts";
import { trialRows } from "../shared/trial-rows";
import { drawnRows, factRows, textureRows } from "./rows";

const FACTS: Facts = {
  parts: 3,
  levels: [
    { triangles: 5000, vertices: 4200, materials: 4 },
    { triangles: 1200, vertices: 1100, materials: 4 },
  ],
  textures: [
    {
      ...{ name: "normal", format: "PNG", width: 1024, height: 1024 },
      plain: 5592404,
      blocks: 1398101,
    },
  ],
  hulls: { count: 8, triangles: 240 },
  size: [0.3, 0.6, 0.3],
  lowest: 0,
  findings: [],
};

it("says what a file is, level by level, with a unit on every figure", () => {
  const rows = factRows(FACTS);
  const of = (label: string) => rows.find((row) => row.label === label)!;
  expect(of("Triangles")).toMatchObject({
    value: spaced(5000),
    limit: `${spaced(4200)} vertices`,
  });
  expect(of("Level 1").value).toBe(spaced(1200));
  expect(of("Materials").limit).toBe("4 calls");
  expect(of("Size").value).toMatch(/m$/);
  const textures = textureRows(FACTS);
  expect(textures[0]).toMatchObject({
    label: "normal, PNG",
    value: "1024 × 1024",
  });
  expect(textures.at(-1)!.value).toMatch(/MB$/);
  expect(textureRows({ ...FACTS, textures: [] })).toEqual([]);
});

it("says what a picture took, by level where there are several", () => {
  const rows = drawnRows({ calls: 8, triangles: 9000, byLevel: [1, 24] });
  expect(rows.map(({ value }) => value)).toEqual([
    "8",
    spaced(9000),
    "1 copy",
    "24 copies",
  ]);
  expect(drawnRows({ calls: 4, triangles: 10, byLevel: [9] })).toHaveLength(2);
});

it("says how a trial went", () => {
  const trial = {
    restSeconds: 1.25,
    deepest: 0.0004,
    tilt: 2.4,
    fellThrough: false,
  };
  expect(trialRows(trial).map(({ value }) => value)[0]).toBe("1.3 s");
  expect(trialRows({ ...trial, restSeconds: null })[0]).toMatchObject({
    value: "never",
    state: "bad",
  });
  expect(trialRows({ ...trial, fellThrough: true })[0].value).toBe(
    "fell through",
  );
});
