import { describe, expect, it } from "vitest";
import { cube, joined, moved, torus, tubeMesh } from "../../../tests/shapes";
import { rotation, transformMesh } from "../../mesh/transform";
import { buildEdges } from "../../mesh/edges";
import type { Mesh } from "../../mesh/mesh";
import { faceCount, triangleCount } from "../../mesh/mesh";
import { createMesh } from "../../mesh/change-faces";
import { subdivide } from "../../mesh/subdivide";
import { bestChain } from "./chain";
import type { StandInOptions } from "./stand-in";
import { standInFor } from "./stand-in";

const OPTIONS: StandInOptions = {
  shape: "best",
  sides: 12,
  rings: 0,
  capped: true,
};
const all = (mesh: Mesh) => new Uint8Array(faceCount(mesh)).fill(1);
const stand = (mesh: Mesh, options: Partial<StandInOptions>, each = true) =>
  standInFor(mesh, all(mesh), { ...OPTIONS, ...options }, each)!;
const turn = (mesh: Mesh) =>
  transformMesh(mesh, rotation([0.36, 0.48, 0.8], 0.7));
const closed = (mesh: Mesh) => {
  const { uses, count } = buildEdges(mesh);
  return uses.slice(0, count).every((n) => n === 2);
};

/** A body with round rings along a path, wound about it, with closed ends. */
function rod(
  rings: readonly { at: number[]; r: number }[],
  around: number,
  ways: (i: number) => [number[], number[]],
): Mesh {
  const positions: number[] = [];
  const corners: number[] = [];
  const starts = [0];
  rings.forEach(({ at, r }, i) => {
    const [u, v] = ways(i);
    for (let k = 0; k < around; k++) {
      const a = (2 * Math.PI * k) / around;
      for (let c = 0; c < 3; c++)
        positions.push(at[c] + r * (Math.cos(a) * u[c] + Math.sin(a) * v[c]));
    }
  });
  for (let i = 0; i + 1 < rings.length; i++)
    for (let k = 0; k < around; k++) {
      const j = (k + 1) % around;
      corners.push(
        i * around + k,
        i * around + j,
        (i + 1) * around + j,
        (i + 1) * around + k,
      );
      starts.push(corners.length);
    }
  const last = (rings.length - 1) * around;
  for (let k = 0; k < around; k++) corners.push(around - 1 - k);
  starts.push(corners.length);
  for (let k = 0; k < around; k++) corners.push(last + k);
  starts.push(corners.length);
  return createMesh({
    positions: Float32Array.from(positions),
    corners: Uint32Array.from(corners),
    faceStarts: Uint32Array.from(starts),
  });
}
/** Upright, with radii by height. */
const upright = (radii: readonly number[], around: number) =>
  rod(
    radii.map((r, i) => ({ at: [0, 0.1 * i, 0], r })),
    around,
    () => [
      [0, 0, 1],
      [1, 0, 0],
    ],
  );

describe("stand-in shapes", () => {
  it("finds a turned box again to the last corner, open at its ends where wanted", () => {
    const plank = turn({
      ...cube(),
      positions: cube().positions.map((x, i) => x * [3, 0.2, 0.6][i % 3]),
    });
    const found = stand(plank, { shape: "box" });
    expect(found.max).toBeLessThan(1e-3);
    expect(found.triangles).toBe(12);
    expect(closed(found.mesh)).toBe(true);
    const open = stand(plank, { shape: "box", capped: false });
    expect(open.triangles).toBe(8);
    expect(closed(open.mesh)).toBe(false);
  });

  it("puts flats on flats: a hexagonal head becomes a prism of six sides with hard edges", () => {
    const head = turn(upright([0.4, 0.4, 0.4], 6));
    const found = stand(head, { shape: "prism", sides: 6 });
    expect(found.max).toBeLessThan(0.004);
    const edges = buildEdges(found.mesh);
    const hard = [...edges.first.slice(0, edges.count)].filter(
      (corner) => found.mesh.hard?.[corner],
    );
    expect(hard).toHaveLength(18);
  });

  it("takes any number of sides for a rod, nearer with more of them, smooth between its flats", () => {
    const bar = turn(upright(new Array<number>(12).fill(0.15), 40));
    const found = [6, 8, 12, 20].map((sides) =>
      stand(bar, { shape: "prism", sides }),
    );
    found.forEach((one, i) => {
      expect(closed(one.mesh)).toBe(true);
      if (i) expect(one.rms).toBeLessThan(found[i - 1].rms);
    });
    const sides = buildEdges(found[2].mesh);
    const hard = [...sides.first.slice(0, sides.count)].filter(
      (corner) => found[2].mesh.hard?.[corner],
    );
    expect(hard).toHaveLength(24);
  });

  it("turns a profile: steps and a cone come out in as few rings as they need", () => {
    const profile = Array.from({ length: 41 }, (_, i) =>
      i < 10 ? 0.5 : i < 30 ? 0.2 : 0.2 + 0.03 * (i - 30),
    );
    const found = stand(turn(upright(profile, 48)), {
      shape: "turned",
      sides: 24,
    });
    expect(found.rms).toBeLessThan(0.02);
    expect(found.triangles).toBeLessThan(24 * 2 * 7 + 44);
    expect(closed(found.mesh)).toBe(true);
  });

  it("follows a bent handle from end to end and a ring all round", () => {
    const bow = rod(
      Array.from({ length: 33 }, (_, i) => {
        const a = (Math.PI * i) / 32;
        return { at: [Math.cos(a), Math.sin(a), 0], r: 0.08 };
      }),
      16,
      (i) => {
        const a = (Math.PI * i) / 32;
        return [
          [Math.cos(a), Math.sin(a), 0],
          [0, 0, -1],
        ];
      },
    );
    const handle = stand(turn(bow), { shape: "tube", sides: 8 });
    expect(handle.rms).toBeLessThan(0.02);
    expect(closed(handle.mesh)).toBe(true);
    const ring = stand(turn(torus(48, 16, 1, 0.12)), {
      shape: "tube",
      sides: 8,
      rings: 20,
    });
    expect(ring.rms).toBeLessThan(0.025);
    expect(closed(ring.mesh)).toBe(true);
    expect(ring.triangles).toBe(20 * 8 * 2);
  });

  it("cuts an outline with its notch and its hole out of a plate", () => {
    // A plate of cells with one left out at the border and one amid it.
    const cells = [0, 1, 2, 3, 4].flatMap((x) =>
      [0, 1, 2].flatMap((y) =>
        (x === 2 && y === 1) || (x === 4 && y === 2)
          ? []
          : [
              moved(
                {
                  ...cube(),
                  positions: cube().positions.map(
                    (c, i) => c * [0.5, 0.5, 0.05][i % 3],
                  ),
                },
                x,
                y,
                0,
              ),
            ],
      ),
    );
    const plate = turn(joined(...cells));
    const found = stand(plate, { shape: "outline" }, false);
    // Six corners outside, four in the hole.
    expect(found.mesh.positions.length / 3).toBe(20);
    expect(closed(found.mesh)).toBe(true);
  });

  it("picks for every piece the shape that comes nearest for its triangles", () => {
    const bolt = upright(new Array<number>(6).fill(0.1), 32);
    const plank = moved(
      subdivide(
        {
          ...cube(),
          hard: new Uint8Array(24).fill(1),
          creases: new Uint8Array(24).fill(100),
          positions: cube().positions.map((x, i) => x * [2, 0.1, 0.3][i % 3]),
        },
        2,
      ),
      0,
      4,
      0,
    );
    const found = stand(joined(bolt, plank), {});
    expect(found.shapes).toEqual(["prism", "box"]);
    expect(found.rms).toBeLessThan(0.01);
    expect(triangleCount(found.mesh)).toBe(found.triangles);
  });

  it("gives the same bytes again, and only for what is marked", () => {
    const mesh = joined(tubeMesh(), moved(cube(), 5, 0, 0));
    const marks = all(mesh).map((_, f) => (f >= faceCount(mesh) - 6 ? 1 : 0));
    const [a, b] = [0, 1].map(() =>
      standInFor(mesh, marks, { ...OPTIONS, shape: "box" }, true)!,
    );
    expect(a.mesh.positions).toEqual(b.mesh.positions);
    expect(a.triangles).toBe(12);
    expect(
      Math.min(...a.mesh.positions.filter((_, i) => i % 3 === 0)),
    ).toBeGreaterThan(3);
  });
});

describe("the best chain", () => {
  it("keeps the corners of a polyline and nothing else", () => {
    const line = Array.from({ length: 31 }, (_, i) => [
      i,
      i < 10 ? 0 : i < 20 ? i - 10 : 10,
    ]);
    expect(bestChain(line, 0, 1e-6)).toEqual([0, 10, 20, 30]);
    expect(bestChain(line, 2, 0)).toEqual([0, 30]);
  });
});
