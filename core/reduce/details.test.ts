import { describe, expect, it } from "vitest";
import { cube, joined, moved, sphere, tubeMesh } from "../../tests/shapes";
import type { Asset } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { agedBy } from "../asset/stale";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { faceCount, triangleCount } from "../mesh/mesh";
import { createMesh } from "../mesh/change-faces";
import { indicesOf, toRanges } from "../base/ranges";
import { subdivide } from "../mesh/subdivide";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import { describe as describeAsset, runOperation } from "../route";
import type { ClingFinding } from "./operations/cling";
import type { BothWays, Spare } from "./operations/leave-out";

const run = (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
const boxOf = (mesh: Mesh, sizes: readonly number[]): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x, i) => x * sizes[i % 3]),
});
const isClosed = (mesh: Mesh) => {
  const { uses, count } = buildEdges(mesh);
  return uses.slice(0, count).every((n) => n === 2);
};

/** A big ball with three small boxes lying on it: faces of the boxes come last. */
const ball = sphere(30, 44);
const pins = [
  [1.06, 0, 0],
  [0, 0, 1.06],
  [-1.06, 0, 0],
].map(([x, y, z]) => moved(boxOf(cube(), [0.06, 0.06, 0.06]), x, y, z));
const studded = joined(ball, ...pins);
const pinFaces = `body:${faceCount(ball)}-${faceCount(studded) - 1}`;
const lone = (source: Mesh) =>
  createAsset("lone", [createPart("body", 0, { source })]);

describe("stand-in shapes as an operation", () => {
  it("take the place of what they stand for, and stay when the rest is reduced again", async () => {
    const first = await run(lone(studded), "reduce/to-budget", {
      triangles: 600,
    });
    const second = await run(first.asset, "reduce/stand-in", {
      faces: [pinFaces],
      shape: "box",
    });
    const [part] = second.asset.parts;
    expect(second.report.triangles).toBe(36);
    expect(second.report.max).toBeLessThan(1e-4);
    expect(part.standIns).toHaveLength(1);
    expect(part.standIns[0].made).toBe("3 × box");
    const third = await run(second.asset, "reduce/to-budget", {
      triangles: 400,
    });
    const game = third.asset.parts[0].game!;
    expect(triangleCount(game)).toBeLessThanOrEqual(400);
    expect(triangleCount(game)).toBeGreaterThan(390);
    // The boxes are there to the corner, whatever the budget.
    const corners = new Set<string>();
    for (let i = 0; i < game.positions.length; i += 3)
      corners.add(
        [...game.positions.subarray(i, i + 3)]
          .map((x) => x.toFixed(3))
          .join(" "),
      );
    for (const pin of pins)
      for (let i = 0; i < 24; i += 3)
        expect(corners).toContain(
          [...pin.positions.subarray(i, i + 3)]
            .map((x) => x.toFixed(3))
            .join(" "),
        );
  });

  it("count in a part's own budget, and are refused where they leave nothing", async () => {
    const stood = await run(lone(studded), "reduce/stand-in", {
      faces: [pinFaces],
      shape: "box",
    });
    const own = await run(stood.asset, "intake/part-rules", {
      parts: ["body"],
      budget: 200,
    });
    const reduced = await run(own.asset, "reduce/to-budget", {
      triangles: 900,
    });
    const count = triangleCount(reduced.asset.parts[0].game!);
    expect(count).toBeLessThanOrEqual(200);
    expect(count).toBeGreaterThan(195);
    const tight = await run(own.asset, "intake/part-rules", {
      parts: ["body"],
      budget: 38,
    });
    await expect(run(tight.asset, "reduce/to-budget")).rejects.toThrow(
      /the shapes of body leave 2/,
    );
    const whole = await run(lone(ball), "reduce/stand-in", {
      shape: "turned",
      sides: 24,
    });
    await expect(
      run(whole.asset, "reduce/to-budget", { triangles: 20 }),
    ).rejects.toThrow(/over the budget/);
  });

  it("fit each of very many pieces without asking the whole mesh each time", async () => {
    const many = joined(
      ...Array.from({ length: 400 }, (_, i) =>
        moved(boxOf(cube(), [0.1, 0.2, 0.1]), i % 20, 0, Math.floor(i / 20)),
      ),
    );
    const stood = await run(lone(many), "reduce/stand-in", { shape: "box" });
    expect(stood.asset.parts[0].standIns[0].made).toBe("400 × box");
    expect(stood.report.triangles).toBe(4800);
    expect(stood.report.max).toBeLessThan(1e-4);
  });

  it("come again with other sides, and go again", async () => {
    const bar = subdivide(tubeMesh(24, 6, 0.3, 3), 0);
    const asset = createAsset("bars", [
      createPart("bar", 0, { source: bar }),
      createPart("ball", 1, { source: ball }),
    ]);
    const twelve = await run(asset, "reduce/stand-in", {
      parts: ["bar"],
      shape: "prism",
      sides: 12,
    });
    expect(twelve.report.triangles).toBe(44);
    const six = await run(twelve.asset, "reduce/stand-in", {
      parts: ["bar"],
      shape: "prism",
      sides: 6,
      capped: false,
    });
    expect(six.asset.parts[0].standIns).toHaveLength(1);
    expect(triangleCount(six.asset.parts[0].game!)).toBe(12);
    const reduced = await run(six.asset, "reduce/to-budget", {
      triangles: 212,
    });
    expect(triangleCount(reduced.asset.parts[0].game!)).toBe(12);
    expect(triangleCount(reduced.asset.parts[1].game!)).toBeLessThanOrEqual(
      200,
    );
    const gone = await run(reduced.asset, "reduce/stand-in", {
      parts: ["bar"],
      shape: "none",
    });
    expect(gone.asset.parts[0].standIns).toEqual([]);
    await expect(
      run(gone.asset, "reduce/stand-in", { parts: ["bar"], shape: "none" }),
    ).rejects.toThrow(/no shape stands/);
  });
});

describe("other ways on a selection", () => {
  it("lays quads over the chosen piece only", async () => {
    const whole = lone(joined(ball, moved(ball, 4, 0, 0)));
    const reduced = await run(whole, "reduce/to-budget", { triangles: 800 });
    const done = await run(reduced.asset, "reduce/even-quads", {
      faces: [`body:0-${faceCount(ball) - 1}`],
      triangles: 500,
      pure: true,
    });
    const game = done.asset.parts[0].game!;
    let quads = 0;
    for (let f = 0; f < faceCount(game); f++) {
      const [s, e] = [game.faceStarts[f], game.faceStarts[f + 1]];
      const near = game.positions[3 * game.corners[s]] < 2;
      expect(e - s === 4).toBe(near);
      if (near) quads++;
    }
    expect(quads).toBeGreaterThan(150);
    expect(isClosed(game)).toBe(true);
  });

  it("thins loops only between chosen faces", async () => {
    const tube = tubeMesh(16, 20);
    const half = Array.from({ length: faceCount(tube) }, (_, f) => {
      const at = 3 * tube.corners[tube.faceStarts[f]];
      return tube.positions[at + 1] < 1.95 ? 1 : 0;
    });
    const done = await run(lone(tube), "reduce/thin-loops", {
      faces: [`body:${toRanges(indicesOf(half))}`],
      triangles: 2,
    });
    const game = done.asset.parts[0].game!;
    const heights = (mesh: Mesh, sign: number) =>
      new Set(
        [...mesh.positions]
          .filter((y, i) => i % 3 === 1 && sign * (y - 2) > 0.05)
          .map((y) => y.toFixed(3)),
      ).size;
    expect(heights(game, 1)).toBe(heights(tube, 1));
    expect(heights(game, -1)).toBe(1);
  });
});

describe("leaving out", () => {
  it("lists floaters with what they free, bakes them only, and takes them back", async () => {
    const reduced = await run(lone(studded), "reduce/to-budget", {
      triangles: 600,
    });
    const found = await run(reduced.asset, "reduce/find-spares");
    const [spare] = found.report.spares as Spare[];
    expect(spare).toMatchObject({
      kind: "floaters",
      part: "body",
      pieces: 3,
      sourceTriangles: 36,
    });
    expect(`body:${spare.faces}`).toBe(pinFaces);
    expect(spare.triangles).toBeGreaterThan(0);
    expect(spare.sheet).toBeGreaterThan(0);
    const left = await run(found.asset, "reduce/leave-out", {
      faces: [pinFaces],
    });
    expect(left.report.freed).toBe(spare.triangles);
    expect(agedBy(describeAsset(left.asset), "reduce/find-spares")).toBe(null);
    expect(left.asset.reports["reduce/find-spares"].report.spares).toEqual([]);
    expect(isClosed(left.asset.parts[0].game!)).toBe(true);
    const again = await run(left.asset, "reduce/find-spares");
    expect(again.report.spares).toMatchObject([{ kind: "baked only" }]);
    const back = await run(again.asset, "reduce/leave-out", {
      faces: [pinFaces],
      on: false,
    });
    expect(back.asset.parts[0].source!.sourceOnly).toBeNull();
  });

  it("closes the hole of an attached detail and tells raised from sunken", async () => {
    // A plate with a knob grown out of it, and one with a pit.
    for (const height of [0.3, -0.12]) {
      const plate = plateWith(height);
      const asset = lone(plate.mesh);
      const faces = [`body:${toRanges(plate.detail)}`];
      const tried = await run(asset, "reduce/try-both", { faces });
      const [both] = tried.report.details as BothWays[];
      expect(both.geometry.triangles).toBe(2 * plate.detail.length);
      expect(both.map.triangles).toBeLessThan(both.geometry.triangles);
      expect(both.geometry.texels).toBeGreaterThan(both.map.texels);
      if (height > 0) {
        expect(both.raised).toBeCloseTo(0.3, 1);
        expect(both.sunken).toBe(0);
        expect(tried.report.advice).toBe("geometry");
      } else {
        expect(both.raised).toBe(0);
        expect(both.sunken).toBeCloseTo(0.12, 2);
        expect(both.silhouetteMax).toBeLessThan(0.004);
        expect(tried.report.advice).toBe("map");
      }
      const left = await run(
        createAsset("lone", [
          createPart("body", 0, { source: plate.mesh, game: plate.mesh }),
        ]),
        "reduce/leave-out",
        { faces },
      );
      expect(isClosed(left.asset.parts[0].game!)).toBe(true);
      expect(left.report.freed).toBeGreaterThan(0);
    }
  });

  it("takes a detail chosen on the game mesh for what it stands for", async () => {
    const asset = createAsset("lone", [
      createPart("body", 0, { source: studded, game: studded }),
    ]);
    const left = await run(asset, "reduce/leave-out", {
      faces: [pinFaces],
      mesh: "game",
    });
    expect(left.asset.parts[0].source!.sourceOnly).toEqual(
      new Uint8Array(faceCount(studded)).fill(1, faceCount(ball)),
    );
    expect(triangleCount(left.asset.parts[0].game!)).toBe(triangleCount(ball));
  });
});

describe("clinging as an operation", () => {
  const near = createAsset("lone", [
    createPart("body", 0, {
      source: ball,
      game: boxOf(sphere(8, 12), [1.2, 1.2, 1.2]),
    }),
  ]);

  it("brings game meshes onto their sources and lists what it missed", async () => {
    const done = await run(near, "reduce/cling", { relax: 2 });
    expect(done.report.findings).toEqual([]);
    expect(done.report.moved).toBeCloseTo(0.2, 1);
    const p = done.asset.parts[0].game!.positions;
    for (let i = 0; i < p.length; i += 3)
      expect(Math.hypot(p[i], p[i + 1], p[i + 2])).toBeCloseTo(1, 1);
    const short = await run(near, "reduce/cling", { reach: 50 });
    const [missed] = short.report.findings as ClingFinding[];
    expect(missed).toMatchObject({ kind: "missed", part: "body", count: 86 });
    expect(missed.places.length).toBeGreaterThan(0);
    const mended = await run(short.asset, "reduce/mend-cling", {
      faces: [`body:${missed.faces}`],
      mesh: "game",
      reach: 500,
    });
    expect(mended.asset.reports["reduce/cling"].report.findings).toEqual([]);
  });

  it("moves only what is chosen", async () => {
    const done = await run(near, "reduce/cling", { faces: ["body:0"] });
    const before = near.parts[0].game!.positions;
    const after = done.asset.parts[0].game!.positions;
    const changed = [...after.keys()].filter((i) => after[i] !== before[i]);
    expect(new Set(changed.map((i) => Math.floor(i / 3))).size).toBe(3);
  });

  it("says where there is nothing to cling to", async () => {
    const bare = createAsset("bare", [
      createPart("a", 0, { game: ball }),
      createPart("b", 1, { source: ball }),
    ]);
    await expect(run(bare, "reduce/cling")).rejects.toThrow(/cling to/);
  });
});

/** A closed plate of quads whose inner cells are pushed up or down: a knob or a pit with steep sides. */
function plateWith(height: number): { mesh: Mesh; detail: number[] } {
  const n = 9;
  const points: number[] = [];
  const quads: number[][] = [];
  const at = new Map<string, number>();
  const point = (x: number, y: number, z: number) => {
    const key = `${x} ${y} ${z}`;
    if (!at.has(key)) {
      at.set(key, points.length / 3);
      points.push(x / n - 0.5, y, z / n - 0.5);
    }
    return at.get(key)!;
  };
  const low = (x: number, z: number) => x >= 3 && x < 6 && z >= 3 && z < 6;
  const detail: number[] = [];
  const push = (quad: number[], own: boolean) => {
    if (own) detail.push(quads.length);
    quads.push(quad);
  };
  const thick = 0.25;
  for (let x = 0; x < n; x++)
    for (let z = 0; z < n; z++) {
      const y = low(x, z) ? thick + height : thick;
      const ring = (h: number) => [
        point(x, h, z),
        point(x, h, z + 1),
        point(x + 1, h, z + 1),
        point(x + 1, h, z),
      ];
      push(ring(y), low(x, z));
      push(ring(0).reverse(), false);
      // Walls where the next cell lies at another height, or where the plate ends.
      for (const [dx, dz, a, b] of [
        [-1, 0, [x, z], [x, z + 1]],
        [1, 0, [x + 1, z + 1], [x + 1, z]],
        [0, -1, [x + 1, z], [x, z]],
        [0, 1, [x, z + 1], [x + 1, z + 1]],
      ] as const) {
        const [u, w] = [x + dx, z + dz];
        const outside = u < 0 || w < 0 || u >= n || w >= n;
        const other = outside ? 0 : low(u, w) ? thick + height : thick;
        if (other >= y) continue;
        push(
          [
            point(a[0], other, a[1]),
            point(b[0], other, b[1]),
            point(b[0], y, b[1]),
            point(a[0], y, a[1]),
          ],
          !outside,
        );
      }
    }
  return {
    mesh: createMesh({
      positions: Float32Array.from(points),
      corners: Uint32Array.from(quads.flat()),
      faceStarts: Uint32Array.from(
        { length: quads.length + 1 },
        (_, f) => 4 * f,
      ),
    }),
    detail,
  };
}
