import { describe, expect, it } from "vitest";
import { sheetMesh } from "../../../tests/shapes";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import { faceCount } from "../../mesh/mesh";
import { findCrossings } from "./crossings";
import { relaxed } from "./relax-crossings";

const crossing = (mesh: Parameters<typeof relaxed>[0]) =>
  findCrossings(new MeshAnalysis(mesh, 0)).count;

describe("vertices drawn to the middle of their neighbours", () => {
  const n = 10;
  const folded = sheetMesh(n);
  // One vertex is pushed through the sheet beyond its neighbours.
  const middle = (n / 2) * (n + 1) + n / 2;
  folded.positions[3 * middle] += 0.35;
  folded.positions[3 * middle + 1] -= 0.03;
  folded.positions[3 * (middle + 2) + 1] -= 0.05;
  const around = Uint8Array.from({ length: faceCount(folded) }, (_, f) =>
    [0, 1, 2].some((k) => folded.corners[3 * f + k] === middle) ? 1 : 0,
  );

  it("open a fold", () => {
    expect(crossing(folded)).toBeGreaterThan(0);
    expect(crossing(relaxed(folded, around, new Set()))).toBe(0);
  });

  it("are those of the marked faces only, and none that is held", () => {
    const held = new Set([middle]);
    const moved = relaxed(folded, around, held).positions;
    const changed = [...moved.keys()].filter(
      (i) => moved[i] !== folded.positions[i],
    );
    const free = new Set(
      [...around.keys()]
        .filter((f) => around[f])
        .flatMap((f) => [0, 1, 2].map((k) => folded.corners[3 * f + k])),
    );
    expect(changed.length).toBeGreaterThan(0);
    for (const i of changed) {
      expect(free.has(Math.floor(i / 3))).toBe(true);
      expect(held.has(Math.floor(i / 3))).toBe(false);
    }
  });
});
