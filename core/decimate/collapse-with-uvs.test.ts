import { describe, expect, it } from "vitest";
import { cube, sheetMesh, sphere } from "../../tests/shapes";
import { measureDeviation } from "../space/deviation";
import { collapseWithUvs } from "./collapse-with-uvs";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { triangleCount } from "../mesh/mesh";
import { subdivide } from "../mesh/subdivide";
import { triangulate } from "../mesh/triangulate";

/** UVs straight from x and z, with a cut at x = 0.5 beyond which they are moved away. */
function cutSheet(): Mesh {
  const mesh = sheetMesh(
    20,
    (x, z) => 0.05 * Math.sin(6 * x) * Math.sin(5 * z),
  );
  const uvs = new Float32Array(2 * mesh.corners.length);
  for (let t = 0; t < mesh.corners.length; t += 3) {
    const xs = [0, 1, 2].map((k) => mesh.positions[3 * mesh.corners[t + k]]);
    const far = (xs[0] + xs[1] + xs[2]) / 3 > 0.5 ? 0.2 : 0;
    for (let k = 0; k < 3; k++) {
      uvs[2 * (t + k)] = 0.4 * xs[k] + far;
      uvs[2 * (t + k) + 1] = mesh.positions[3 * mesh.corners[t + k] + 2];
    }
  }
  return { ...mesh, uvs };
}

describe("levels that share UVs", () => {
  const sheet = cutSheet();
  const levels = collapseWithUvs(
    sheet,
    [400, 150, 60],
    { holdBorders: false },
    () => {},
  );

  it("keep to their budgets, each from the one above", () => {
    [400, 150, 60].forEach((budget, l) => {
      expect(triangleCount(levels[l])).toBeLessThanOrEqual(budget);
      expect(triangleCount(levels[l])).toBeGreaterThanOrEqual(budget - 2);
    });
  });

  it("keep every UV where its place had it: no texture drifts", () => {
    for (const level of levels)
      for (let c = 0; c < level.corners.length; c++) {
        const x = level.positions[3 * level.corners[c]];
        const z = level.positions[3 * level.corners[c] + 2];
        const t = 3 * Math.floor(c / 3);
        const middle =
          [0, 1, 2].reduce(
            (sum, k) => sum + level.positions[3 * level.corners[t + k]],
            0,
          ) / 3;
        expect(level.uvs![2 * c]).toBeCloseTo(
          0.4 * x + (middle > 0.5 ? 0.2 : 0),
          5,
        );
        expect(level.uvs![2 * c + 1]).toBeCloseTo(z, 5);
      }
  });

  it("keep the seam where it was", () => {
    for (const level of levels) {
      const onSeam = new Set<number>();
      for (let t = 0; t < level.corners.length; t += 3) {
        const sides = [0, 1, 2].map(
          (k) => level.positions[3 * level.corners[t + k]] - 0.5,
        );
        expect(Math.max(...sides) > 1e-6 && Math.min(...sides) < -1e-6).toBe(
          false,
        );
        sides.forEach((side, k) => {
          if (Math.abs(side) < 1e-6) onSeam.add(level.corners[t + k]);
        });
      }
      expect(onSeam.size).toBeGreaterThanOrEqual(2);
    }
  });

  it("leave open borders alone where they are held", () => {
    const [held] = collapseWithUvs(
      sheet,
      [200],
      { holdBorders: true },
      () => {},
    );
    const border = (mesh: Mesh) =>
      [...buildEdges(mesh).uses].filter((uses) => uses === 1).length;
    expect(border(held)).toBe(border(sheet));
  });

  it("stay closed and near on a closed body, hard edges kept", () => {
    const ball = sphere(30, 40);
    const [small] = collapseWithUvs(
      ball,
      [300],
      { holdBorders: true },
      () => {},
    );
    expect([...buildEdges(small).uses].every((uses) => uses === 2)).toBe(true);
    expect(
      measureDeviation(
        { positions: ball.positions, triangles: ball.corners },
        { positions: small.positions, triangles: small.corners },
        2000,
      ).rms,
    ).toBeLessThan(0.02);
    const box = subdivide(
      { ...cube(), creases: new Uint8Array(24).fill(100) },
      3,
    );
    const hard = new Uint8Array(box.corners.length);
    const p = box.positions;
    for (let c = 0; c < hard.length; c++) {
      const f = Math.floor(c / 4);
      const next = 4 * f + ((c + 1) % 4);
      const ends = [box.corners[c], box.corners[next]].map((v) =>
        [0, 1, 2].filter((k) => Math.abs(p[3 * v + k]) > 0.999),
      );
      const shared = ends[0].filter((k) => ends[1].includes(k));
      hard[c] = shared.length >= 2 ? 1 : 0;
    }
    const [plain] = collapseWithUvs(
      { ...box, hard },
      [12],
      { holdBorders: true },
      () => {},
    );
    expect(triangleCount(plain)).toBe(12);
    const marked = plain.hard!.reduce((sum, mark) => sum + mark, 0);
    expect(marked).toBe(24);
    expect(triangulate(plain).faces.length).toBe(12);
  });
});
