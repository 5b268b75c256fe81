import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { laidOn } from "../../tests/laid";
import { moved, sphere, torus } from "../../tests/shapes";
import { createAsset, createPart } from "../asset/asset";
import { carryMarks, keepMarks } from "../asset/carry";
import { reduceTogether } from "../decimate/reduce-together";
import { carrySeams } from "../mesh/carry-seams";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { VertexGrid } from "../mesh/vertex-grid";
import { plainContext } from "../base/context";
import { seededRandom } from "../base/random";
import { islandsOf } from "./methods/connected-islands";
import { SHEET, run } from "../../tests/sharing-run";

describe("carrying by place", () => {
  const bodies: [string, () => Mesh][] = [
    ["a ball", () => sphere(34, 48)],
    [
      "a bumpy ball",
      () =>
        sphere(34, 48, 1, (a, h) => 0.1 * Math.sin(4 * a) * Math.cos(3 * h)),
    ],
    ["a ring", () => torus(60, 28)],
  ];
  for (const [name, make] of bodies)
    it(`keeps the seams of ${name} within an edge, and its islands`, () => {
      const dense = laidOn([make()], SHEET, { symmetric: false })[0];
      const light = reduceTogether(
        [{ ...dense, uvs: null }],
        800,
        plainContext(),
      )[0]!;
      const seams = carrySeams(dense, dense.seams!, light);
      const edges = buildEdges(light);
      const grid = new VertexGrid(
        Float32Array.from(
          [...dense.corners.keys()].flatMap((c) =>
            dense.seams![c]
              ? [
                  ...dense.positions.subarray(
                    3 * dense.corners[c],
                    3 * dense.corners[c] + 3,
                  ),
                ]
              : [],
          ),
        ),
      );
      const seamPoints = [...dense.corners.keys()]
        .filter((c) => dense.seams![c])
        .map((c) => dense.corners[c]);
      let off = 0;
      let count = 0;
      let length = 0;
      for (let e = 0; e < edges.count; e++) {
        const [a, b] = [
          3 * edges.vertices[2 * e],
          3 * edges.vertices[2 * e + 1],
        ];
        const p = light.positions;
        length +=
          Math.hypot(p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]) /
          edges.count;
        if (!seams[edges.first[e]]) continue;
        const v = 3 * seamPoints[grid.nearest(p[a], p[a + 1], p[a + 2])];
        off += Math.hypot(
          ...[0, 1, 2].map((k) => dense.positions[v + k] - p[a + k]),
        );
        count++;
      }
      expect(count).toBeGreaterThan(0);
      expect(off / count).toBeLessThan(length);
      const again = laidOn([{ ...light, seams }], SHEET, {
        keep: [seams],
        symmetric: false,
      })[0];
      expect(islandsOf(again).count).toBe(islandsOf(dense).count);
    });

  it("takes wishes, weights and taken normals along, and leaves what is there", () => {
    const from = { ...laidOn([sphere(20, 28)], SHEET)[0] };
    const cuts = from.seams!.map((mark, c) =>
      mark ? 1 : c % 97 === 0 ? 2 : 0,
    );
    const marked: Mesh = {
      ...from,
      seamOverrides: cuts,
      texelWeights: new Uint8Array(from.faceStarts.length - 1).fill(152),
      normals: new Float32Array(3 * from.corners.length).map((_, i) =>
        i % 3 === 1 ? 1 : 0,
      ),
      ownNormals: new Uint8Array(from.faceStarts.length - 1).fill(1),
    };
    const to: Mesh = {
      ...sphere(14, 18),
      normals: new Float32Array(3 * sphere(14, 18).corners.length),
    };
    const carried = carryMarks(marked, to);
    expect(carried.seamOverrides!.some((cut) => cut === 1)).toBe(true);
    expect(carried.texelWeights!.every((code) => code === 152)).toBe(true);
    expect(carried.ownNormals!.every((mark) => mark === 1)).toBe(true);
    expect(carried.normals![1]).toBeCloseTo(1, 5);
    expect(carryMarks(marked, carried)).toEqual(carried);
  });

  it("remembers what was laid out while the mesh is another one", () => {
    const game = laidOn([sphere(12, 16)], SHEET)[0];
    const before = createAsset("a", [createPart("p", 0, { game })]);
    const after = createAsset("a", [
      createPart("p", 0, { game: sphere(10, 14) }),
    ]);
    const kept = keepMarks(after, before);
    expect(kept.parts[0].previousUnwrap).toBe(game);
    expect(kept.parts[0].game!.seams!.some((mark) => mark)).toBe(true);
    expect(keepMarks(before, before)).toEqual(before);
  });

  it("finds the nearest of many points", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 1, max: 300 }),
        (seed, count) => {
          const random = seededRandom(seed);
          const p = Float32Array.from({ length: 3 * count }, () => random());
          const grid = new VertexGrid(p);
          const at = [0, 1, 2].map(() => 1.6 * random() - 0.3);
          const far = (v: number) =>
            Math.hypot(...[0, 1, 2].map((k) => p[3 * v + k] - at[k]));
          let best = 0;
          for (let v = 1; v < count; v++) if (far(v) < far(best)) best = v;
          expect(far(grid.nearest(at[0], at[1], at[2]))).toBeCloseTo(
            far(best),
            9,
          );
        },
      ),
      { numRuns: 60 },
    );
  });

  it("goes from sources and other parts to game meshes, and to levels", async () => {
    const source = laidOn([sphere(30, 40)], SHEET)[0];
    const game = sphere(14, 18);
    let at = createAsset("a", [
      createPart("ball", 0, { source, game, levels: [sphere(8, 10)] }),
      createPart("twin", 1, { game: moved(sphere(16, 20), 0, 0, 0) }),
    ]);
    at = (await run(at, "unwrap/carry-seams", { parts: ["ball"] })).asset;
    expect(at.parts[0].game!.seamOverrides!.some((cut) => cut === 1)).toBe(
      true,
    );
    at = (
      await run(at, "unwrap/carry-seams", {
        parts: ["twin"],
        from: "part",
        part: "ball",
      })
    ).asset;
    expect(at.parts[1].game!.seams!.some((mark) => mark)).toBe(true);
    at = (
      await run(at, "unwrap/carry-seams", { parts: ["ball"], from: "game" })
    ).asset;
    expect(at.parts[0].levels[0].seams!.some((mark) => mark)).toBe(true);
    await expect(
      run(
        createAsset("b", [createPart("p", 0, { game })]),
        "unwrap/carry-seams",
      ),
    ).rejects.toThrow(/no mesh to carry from/);
  });
});
