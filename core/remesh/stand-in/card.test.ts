import { expect, test } from "vitest";
import { moved, sheetMesh } from "../../../tests/shapes";
import { faceCount } from "../../mesh/mesh";
import { boundsOf } from "../../space/bounds";
import { flatNormal } from "../../space/vector";
import { standInFor } from "./stand-in";

/** A sheet of two metres by one that sags by a tenth in its middle, its upper half narrower. */
function hanging() {
  const sheet = sheetMesh(24);
  const { min, max } = boundsOf(sheet.positions);
  const axes = [0, 1, 2].filter((k) => max[k] > min[k]);
  const positions = new Float32Array(sheet.positions.length);
  for (let v = 0; v < positions.length / 3; v++) {
    const [s, t] = axes.map(
      (k) => (sheet.positions[3 * v + k] - min[k]) / (max[k] - min[k]) - 0.5,
    );
    positions[3 * v] = s * (t > 0 ? 0.5 : 1);
    positions[3 * v + 1] = 2 * t;
    positions[3 * v + 2] = -0.1 * Math.cos(Math.PI * t);
  }
  return moved({ ...sheet, positions }, 0, 3, 0);
}
const OPTIONS = { sides: 8, rings: 8, capped: true };

test("a card is bent and trimmed as what it stands for, and looks to the front", () => {
  const mesh = hanging();
  const marks = new Uint8Array(faceCount(mesh)).fill(1);
  const made = standInFor(mesh, marks, { shape: "card", ...OPTIONS }, false)!;
  expect(made.shapes).toEqual(["card"]);
  expect(made.rms).toBeLessThan(0.02);
  const { positions, corners, faceStarts } = made.mesh;
  for (let f = 0; f < faceCount(made.mesh); f++) {
    const q = [...corners.subarray(faceStarts[f], faceStarts[f] + 3)].flatMap(
      (v) => [...positions.subarray(3 * v, 3 * v + 3)],
    );
    const n = flatNormal(q, 0);
    expect(n[2]).toBeGreaterThan(0);
  }
  const wide = (low: boolean) =>
    Math.max(
      ...[...positions.keys()]
        .filter((i) => i % 3 === 0 && positions[i + 1] < 2.3 === low)
        .map((i) => Math.abs(positions[i])),
    );
  expect(wide(true)).toBeCloseTo(0.5, 1);
});

test("a card comes only where it is asked for", () => {
  const mesh = hanging();
  const marks = new Uint8Array(faceCount(mesh)).fill(1);
  const best = standInFor(mesh, marks, { shape: "best", ...OPTIONS }, false)!;
  expect(best.shapes).not.toContain("card");
});
