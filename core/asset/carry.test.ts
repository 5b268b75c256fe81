import { describe, expect, it } from "vitest";
import { moved, scaled, sheetMesh, sphere } from "../../tests/shapes";
import type { Mesh } from "../mesh/mesh";
import { faceCount } from "../mesh/mesh";
import { joinMeshes } from "../mesh/change-faces";
import { cornerNormals } from "../mesh/normals";
import type { Asset, Part } from "./asset";
import { createAsset, createPart } from "./asset";
import { carryMarks, keepMarks, withRegionsOf } from "./carry";

/** Middle of a face, metres. */
function middleOf({ positions, faceStarts, corners }: Mesh, f: number) {
  const middle = [0, 0, 0];
  const [from, to] = [faceStarts[f], faceStarts[f + 1]];
  for (let c = from; c < to; c++)
    for (let k = 0; k < 3; k++)
      middle[k] += positions[3 * corners[c] + k] / (to - from);
  return middle;
}
/** 1 for each face whose middle lies left of a place, else 0. */
const leftOf = (mesh: Mesh, x: number) =>
  Uint8Array.from({ length: faceCount(mesh) }, (_, f) =>
    middleOf(mesh, f)[0] < x ? 1 : 0,
  );

describe("marks carried onto another mesh of the same shape", () => {
  const from = sheetMesh(12);
  const to = sheetMesh(9);

  it("are the texel weights of the face that lies nearest to each face's middle", () => {
    const texelWeights = leftOf(from, 0.5).map((left) => (left ? 90 : 30));
    const next = carryMarks({ ...from, texelWeights }, to);
    let right = 0;
    for (let f = 0; f < faceCount(to); f++) {
      const [x] = middleOf(to, f);
      if (Math.abs(x - 0.5) < 0.06) continue;
      expect(next.texelWeights![f]).toBe(x < 0.5 ? 90 : 30);
      right++;
    }
    expect(right).toBeGreaterThan(100);
    const own = new Uint8Array(faceCount(to)).fill(5);
    expect(
      carryMarks({ ...from, texelWeights }, { ...to, texelWeights: own })
        .texelWeights,
    ).toBe(own);
    const none = new Uint8Array(faceCount(from));
    expect(carryMarks({ ...from, texelWeights: none }, to).texelWeights).toBe(
      null,
    );
  });

  it("are radii of edges, each along its own line", () => {
    // Two rows of edges across the sheet with a radius each.
    const rowOf = ({ positions, corners, faceStarts }: Mesh, c: number) => {
      const f = [...faceStarts].findIndex((start) => start > c) - 1;
      const next = c + 1 < faceStarts[f + 1] ? c + 1 : faceStarts[f];
      const [a, b] = [corners[c], corners[next]].map((v) => 3 * v);
      const level = [0, 1, 2].filter(
        (k) => Math.abs(positions[a + k] - positions[b + k]) < 1e-6,
      );
      return { level, at: [...positions.subarray(a, a + 3)] };
    };
    const across = 0;
    const rounds = Uint16Array.from(from.corners, (_, c) => {
      const { level, at } = rowOf(from, c);
      if (!level.includes(across)) return 0;
      return Math.abs(at[across] - 0.25) < 0.01
        ? 300
        : Math.abs(at[across] - 0.75) < 0.01
          ? 70
          : 0;
    });
    expect(new Set(rounds)).toEqual(new Set([0, 300, 70]));
    const next = carryMarks({ ...from, rounds }, to);
    const found = new Map<number, number[]>();
    next.rounds!.forEach((value, c) => {
      if (value)
        found.set(value, [
          ...(found.get(value) ?? []),
          rowOf(to, c).at[across],
        ]);
    });
    expect([...found.keys()].sort()).toEqual([300, 70]);
    for (const [value, places] of found)
      for (const x of places)
        expect(Math.abs(x - (value === 300 ? 0.25 : 0.75))).toBeLessThan(0.2);
    const own = new Uint16Array(to.corners.length).fill(1);
    expect(carryMarks({ ...from, rounds }, { ...to, rounds: own }).rounds).toBe(
      own,
    );
  });

  it("are normals that had been taken from elsewhere, blended between corners, on those faces only", () => {
    const normals = new Float32Array(3 * from.corners.length);
    from.corners.forEach((v, c) => {
      const x = from.positions[3 * v];
      const length = Math.hypot(x, 1);
      normals.set([x / length, 1 / length, 0], 3 * c);
    });
    const ownNormals = leftOf(from, 0.5);
    const plain = cornerNormals(to);
    const next = carryMarks(
      { ...from, normals, ownNormals },
      { ...to, normals: plain },
    );
    let own = 0;
    for (let f = 0; f < faceCount(to); f++) {
      const [x] = middleOf(to, f);
      if (Math.abs(x - 0.5) < 0.06) continue;
      expect(next.ownNormals![f]).toBe(x < 0.5 ? 1 : 0);
      for (let c = to.faceStarts[f]; c < to.faceStarts[f + 1]; c++) {
        const at = to.positions[3 * to.corners[c]];
        const normal = next.normals!.subarray(3 * c, 3 * c + 3);
        expect(Math.hypot(...normal)).toBeCloseTo(1, 5);
        if (x < 0.5) {
          expect(normal[0]).toBeCloseTo(at / Math.hypot(at, 1), 2);
          own++;
        } else expect([...normal]).toEqual([...plain.slice(3 * c, 3 * c + 3)]);
      }
    }
    expect(own).toBeGreaterThan(100);
  });

  it("are materials and IDs of what a new skin lies over", () => {
    const [left, right] = [sphere(8, 10), moved(sphere(8, 10), 3, 0, 0)];
    const name = (mesh: Mesh, material: string, id: number): Mesh => ({
      ...mesh,
      materials: [material],
      ids: new Uint16Array(faceCount(mesh)).fill(id),
    });
    const skin = joinMeshes([scaled(left, 1.05), moved(left, 3, 0, 0)]);
    const next = withRegionsOf(skin, [
      name(left, "tin", 4),
      name(right, "rope", 9),
    ]);
    for (let f = 0; f < faceCount(skin); f++) {
      const isLeft = middleOf(skin, f)[0] < 1.5;
      expect(next.ids![f]).toBe(isLeft ? 4 : 9);
      expect(next.materials[next.faceMaterials![f]]).toBe(
        isLeft ? "tin" : "rope",
      );
    }
  });
});

describe("marks of a part whose game mesh is exchanged", () => {
  const marked: Mesh = {
    ...sheetMesh(6),
    texelWeights: new Uint8Array(72).fill(80),
  };
  const asset = (game: Mesh | null, more: Partial<Part> = {}): Asset =>
    createAsset("a", [{ ...createPart("lid", 0, { game }), ...more }]);
  const kept = (after: Asset, before: Asset) =>
    keepMarks(after, before).parts[0];

  it("go over to the new one, which remembers the old one until it is unwrapped", () => {
    const { game, previousUnwrap } = kept(asset(sheetMesh(4)), asset(marked));
    expect([...game!.texelWeights!]).toEqual(
      new Array(faceCount(game!)).fill(80),
    );
    expect(previousUnwrap).toBe(marked);
    const uvs = new Float32Array(2 * sheetMesh(4).corners.length);
    expect(
      kept(asset({ ...sheetMesh(4), uvs }), asset(marked)).previousUnwrap,
    ).toBeNull();
  });

  it("are remembered where the game mesh goes, and come back with the next one", () => {
    const gone = kept(asset(null), asset(marked));
    expect(gone.game).toBeNull();
    expect(gone.previousUnwrap).toBe(marked);
    const { game } = kept(
      asset(sheetMesh(3), { previousUnwrap: marked }),
      asset(null, { previousUnwrap: marked }),
    );
    expect(game!.texelWeights![0]).toBe(80);
  });

  it("stay where the mesh was only moved or has the same shape, and with copies", () => {
    const shifted = {
      ...marked,
      positions: marked.positions.map((x) => x + 1),
    };
    expect(kept(asset(shifted), asset(marked)).previousUnwrap).toBeNull();
    const hard = new Uint8Array(marked.corners.length).fill(1);
    const cleared = { ...marked, texelWeights: null, hard };
    expect(kept(asset(cleared), asset(marked)).game).toBe(cleared);
    const repeat = { of: "other", matrix: [] };
    const copy = kept(asset(sheetMesh(4), { repeat }), asset(marked));
    expect(copy.game!.texelWeights).toBeNull();
    const fresh = asset(sheetMesh(4));
    expect(keepMarks(fresh, createAsset("a", [])).parts[0]).toEqual(
      fresh.parts[0],
    );
  });
});
