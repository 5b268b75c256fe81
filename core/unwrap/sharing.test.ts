import { decode } from "fast-png";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../tests/laid";
import {
  cube,
  joined,
  moved,
  sphere,
  torus,
  tubeMesh,
} from "../../tests/shapes";
import { DEMO_ASSETS } from "../../demo/index";
import type { Asset } from "../asset/asset";
import { createAsset, createPart } from "../asset/asset";
import { carryMarks, keepMarks } from "../asset/carry";
import { reduceTogether } from "../decimate/reduce-together";
import { carrySeams } from "../mesh/carry-seams";
import { buildEdges } from "../mesh/edges";
import type { Mesh } from "../mesh/mesh";
import { VertexGrid } from "../mesh/vertex-grid";
import { agedBy } from "../asset/stale";
import { plainContext } from "../base/context";
import { findOperation } from "../operations";
import {
  bringUpToDate,
  describe as describeAsset,
  runOperation,
} from "../route";
import { seededRandom } from "../base/random";
import { transformMesh } from "../mesh/transform";
import { findAlike } from "./methods/alike/find-alike";
import { TOLERANCE } from "./methods/alike/share-islands";
import type { RepeatRow } from "./operations/find-repeats";
import { measureUnwrap } from "./methods/measure";
import { islandsOf } from "./methods/connected-islands";
import { gatherIslands } from "./methods/sheet-islands";

const SHEET = squareSheet(512);
const run = (asset: Asset, id: string, options: object = {}) =>
  runOperation(findOperation(id), asset, options, plainContext());
const turned = (mesh: Mesh, angle: number, x: number, mirror = false) =>
  transformMesh(mesh, [
    (mirror ? -1 : 1) * Math.cos(angle),
    0,
    Math.sin(angle),
    0,
    0,
    1,
    0,
    0,
    (mirror ? 1 : -1) * Math.sin(angle),
    0,
    Math.cos(angle),
    0,
    x,
    0,
    0,
    1,
  ]);
/** A wedge without any symmetry of its own. */
const wedge = (): Mesh => {
  const mesh = cube();
  const positions = mesh.positions.slice();
  positions.set([1.4, 1.2, 1.9], 21);
  positions[12] = -0.4;
  return { ...mesh, positions };
};
const assetOf = (meshes: readonly Mesh[], size = 512): Asset => {
  const asset = createAsset(
    "a",
    meshes.map((game, i) => createPart(`p${i}`, i, { game })),
  );
  return { ...asset, brief: { ...asset.brief, sheetSize: size, padding: 4 } };
};

describe("pieces that are copies of one another", () => {
  const cases: [string, Mesh[]][] = [
    ["in meshes of their own", [wedge(), turned(wedge(), 0.7, 8)]],
    ["in one mesh", [joined(wedge(), turned(wedge(), 2, 8))]],
    [
      "with a body that is like neither",
      [
        joined(torus(18, 8), moved(wedge(), 5, 0, 0)),
        turned(wedge(), 1, 0),
        moved(sphere(10, 14), 0, 6, 0),
      ],
    ],
  ];
  it.each(cases)("get the same islands %s", async (_, meshes) => {
    const { asset } = await run(assetOf(meshes), "unwrap/unwrap", {
      rounds: 0,
    });
    const found = findAlike(
      asset.parts.map(({ game }) => game!),
      gatherIslands(
        asset.parts.map(({ game }) => game!),
        SHEET,
      ),
      TOLERANCE,
      plainContext(),
    );
    expect(found.length).toBeGreaterThan(0);
    const count = asset.parts.reduce(
      (sum, { game }) => sum + islandsOf(game!).count,
      0,
    );
    expect(asset.results.unwrap!.report.islands).toBe(count);
    expect(asset.results.unwrap!.report.overlap).toBe(0);
  });
});

describe("islands that are alike", () => {
  it("are found turned and mirrored, and others are not", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 6, noNaN: true }),
        fc.boolean(),
        (angle, mirror) => {
          const [one, ring] = laidOn(
            [wedge(), moved(torus(18, 8), 20, 0, 0)],
            SHEET,
            { islands: 99 },
          );
          const meshes = [one, turned(one, angle, 8, mirror), ring];
          const islands = gatherIslands(meshes, SHEET);
          const groups = findAlike(meshes, islands, TOLERANCE, plainContext());
          for (const { first, others } of groups)
            for (const other of others) {
              const ring = (i: number) => islands[i].mesh === 2;
              expect(ring(other.island)).toBe(ring(first));
              expect(islands[other.island].area).toBeCloseTo(
                islands[first].area,
                3,
              );
            }
          expect(groups.length).toBeGreaterThan(0);
        },
      ),
      { numRuns: 5, endOnFailure: true },
    );
  });

  it("are found however they are turned on the sheet", () => {
    const [one] = laidOn([wedge()], SHEET, { islands: 99 });
    const count = gatherIslands([one], SHEET).length;
    for (const angle of [0.3, 1.1, 2.5, 4]) {
      const [cos, sin] = [0.7 * Math.cos(angle), 0.7 * Math.sin(angle)];
      const uvs = one.uvs!.map((v, i, all) =>
        i % 2
          ? 0.5 + sin * (all[i - 1] - 0.5) + cos * (v - 0.5)
          : 0.5 + cos * (v - 0.5) - sin * (all[i + 1] - 0.5),
      );
      const meshes = [one, { ...one, uvs }];
      const groups = findAlike(
        meshes,
        gatherIslands(meshes, SHEET),
        TOLERANCE,
        plainContext(),
      );
      expect(
        groups.reduce((sum, { others }) => sum + others.length, 0),
      ).toBeGreaterThanOrEqual(count);
    }
  });

  it("lie exactly on each other once they share, and free what was foretold", async () => {
    const asset = assetOf([
      wedge(),
      turned(wedge(), 0.7, 8),
      turned(wedge(), 2, 16, true),
    ]);
    const laid = (
      await run(asset, "unwrap/unwrap", { rounds: 4, symmetric: false })
    ).asset;
    const found = await run(laid, "unwrap/find-repeats");
    const rows = found.report.groups as RepeatRow[];
    expect(rows.length).toBeGreaterThan(0);
    const before = measureUnwrap(
      laid.parts.map(({ game }) => game!),
      SHEET,
    );
    const shared = await run(laid, "unwrap/share", { only: "all" });
    expect(Number(shared.report.freed)).toBeCloseTo(
      Number(found.report.freed),
      2,
    );
    expect(shared.report.overlap).toBe(0);
    const after = measureUnwrap(
      shared.asset.parts.map(({ game }) => game!),
      SHEET,
    );
    expect(
      Math.abs(after.fill - before.fill * (1 - Number(found.report.freed))),
    ).toBeLessThan(0.02);
    // The list of what is alike says of each what has just been done, and is of what is there now.
    const { faces, count } = rows[0];
    const one = await run(found.asset, "unwrap/share", { faces, only: "all" });
    const sharedIn = ({ asset: at }: typeof one) =>
      at.reports["unwrap/find-repeats"].report.groups as RepeatRow[];
    expect(sharedIn(one)[0].shared).toBe(count - 1);
    expect(agedBy(describeAsset(one.asset), "unwrap/find-repeats")).toBe(null);
    const none = await run(one.asset, "unwrap/share", { faces, only: "none" });
    expect(sharedIn(none)[0].shared).toBe(0);
    const anew = await run(none.asset, "unwrap/pack", { rounds: 1 });
    expect(agedBy(describeAsset(anew.asset), "unwrap/find-repeats")).toBe(
      "UVs changed since",
    );
    // Every corner of a copy lies on a corner of what it shares.
    const own = new Set<string>();
    const copies: string[] = [];
    for (const { game } of shared.asset.parts)
      for (let f = 0; f + 1 < game!.faceStarts.length; f++)
        for (let c = game!.faceStarts[f]; c < game!.faceStarts[f + 1]; c++) {
          const at = `${game!.uvs![2 * c]} ${game!.uvs![2 * c + 1]}`;
          if (game!.copies?.[f]) copies.push(at);
          else own.add(at);
        }
    expect(copies.length).toBeGreaterThan(0);
    for (const at of copies) expect(own.has(at)).toBe(true);
    const packed = await run(shared.asset, "unwrap/pack", { rounds: 4 });
    expect(packed.report.overlap).toBe(0);
    expect(Number(packed.report.density)).toBeGreaterThan(
      Number(shared.report.density),
    );
    const unique = await run(packed.asset, "unwrap/share", { only: "none" });
    expect(unique.asset.parts.every(({ game }) => !game!.copies)).toBe(true);
  });

  it("lie on each other again when all is unwrapped anew, and not once they were set free", async () => {
    const asset = assetOf([wedge(), turned(wedge(), 0.7, 8)]);
    const options = { rounds: 2, symmetric: false };
    let at = (await run(asset, "unwrap/unwrap", options)).asset;
    at = (await run(at, "unwrap/share", { only: "all" })).asset;
    const copied = ({ parts }: Asset) =>
      parts.some(({ game }) => game!.copies?.some(Boolean));
    at = (await run(at, "unwrap/unwrap", options)).asset;
    expect(copied(at)).toBe(true);
    expect(at.results.unwrap!.report.overlap).toBe(0);
    at = (await run(at, "unwrap/share", { only: "none" })).asset;
    at = (await run(at, "unwrap/unwrap", options)).asset;
    expect(copied(at)).toBe(false);
  });

  it("are packed by the options of the last packing when the mesh has changed", async () => {
    let at = assetOf([wedge(), moved(torus(18, 8), 20, 0, 0)]);
    at = (await run(at, "unwrap/unwrap", { rounds: 2, stretch: 1.06 })).asset;
    at = (await run(at, "unwrap/pack", { rounds: 1, rotate: "none" })).asset;
    const { operation, options } = at.results.unwrap!;
    expect(operation).toBe("unwrap/unwrap");
    expect(options).toMatchObject({ stretch: 1.06, rotate: "none" });
    const changed: Asset = {
      ...at,
      parts: [
        createPart("p0", 0, { game: moved(wedge(), 0, 3, 0) }),
        at.parts[1],
      ],
    };
    const { asset: next } = await bringUpToDate(changed, plainContext());
    expect(next.parts.every(({ game }) => game!.uvs)).toBe(true);
  });

  it("share only where no two are seen together, unless asked", async () => {
    // One wedge is walled in: nobody sees it with the other.
    const wall = (
      x: number,
      y: number,
      z: number,
      sx: number,
      sy: number,
      sz: number,
    ) =>
      transformMesh(cube(), [
        sx,
        0,
        0,
        0,
        0,
        sy,
        0,
        0,
        0,
        0,
        sz,
        0,
        x,
        y,
        z,
        1,
      ]);
    const room = joined(
      wall(10, 4, 0, 5, 0.2, 5),
      wall(10, -4, 0, 5, 0.2, 5),
      wall(5, 0, 0, 0.2, 5, 5),
      wall(15, 0, 0, 0.2, 5, 5),
      wall(10, 0, 4.5, 5, 5, 0.2),
      wall(10, 0, -4.5, 5, 5, 0.2),
    );
    const hidden = assetOf([wedge(), turned(wedge(), 1, 10), room]);
    const open = assetOf([wedge(), turned(wedge(), 0, 10)]);
    for (const [asset, free] of [
      [hidden, true],
      [open, false],
    ] as const) {
      const laid = (
        await run(asset, "unwrap/unwrap", {
          rounds: 2,
          hide: 0,
          islands: 99,
          symmetric: false,
        })
      ).asset;
      const rows = (await run(laid, "unwrap/find-repeats")).report
        .groups as RepeatRow[];
      const wedges = rows.filter(
        ({ parts, size }) =>
          parts.includes("p0") && parts.includes("p1") && size > 24,
      );
      expect(wedges.length).toBeGreaterThan(0);
      expect(wedges.every((row) => row.free)).toBe(free);
    }
  });

  it("are all found on the crate's slats, none wrong", async () => {
    const crate = DEMO_ASSETS["fish-crate"]();
    const slats = crate.parts.filter(({ source }) => source);
    const game = reduceTogether([slats[0].source!], 60, plainContext())[0]!;
    const copies = [0, 1, 2, 3].map((i) => turned(game, i, 2 * i, i === 3));
    const laid = (
      await run(assetOf(copies), "unwrap/unwrap", {
        rounds: 2,
        hide: 0,
        symmetric: false,
        islands: 4000,
      })
    ).asset;
    const rows = (await run(laid, "unwrap/find-repeats")).report
      .groups as RepeatRow[];
    const islands = islandsOf(laid.parts[0].game!).count;
    const found = rows.reduce((sum, row) => sum + row.count, 0);
    expect(found).toBeGreaterThanOrEqual(4 * islands - 2);
  });
});

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

describe("templates", () => {
  const asset = () => {
    const mesh = laidOn(
      [joined(cube(), moved(tubeMesh(12, 4), 5, 0, 0))],
      squareSheet(256),
    )[0];
    const at = assetOf(
      [{ ...mesh, ids: new Uint16Array(mesh.faceStarts.length - 1).fill(1) }],
      256,
    );
    return { ...at, palette: [{ name: "tin", colour: "#336699" }] };
  };

  it("as PNG are transparent where no island lies, at any size", async () => {
    for (const size of [0, 128]) {
      const { files, report } = await run(asset(), "unwrap/template", { size });
      const png = decode(files![0].bytes);
      expect([png.width, png.height, png.channels]).toEqual([
        size || 256,
        size || 256,
        4,
      ]);
      expect(report).toMatchObject({ width: size || 256 });
      const alphas = [...png.data].filter((_, i) => i % 4 === 3);
      expect(alphas.some((a) => a === 0)).toBe(true);
      expect(alphas.some((a) => a > 200)).toBe(true);
    }
  });

  it("as SVG hold lines, fills by ID and names that can't break out of it", async () => {
    const at = asset();
    const named = { ...at, parts: [{ ...at.parts[0], name: "a<b" }] };
    for (const lines of ["island", "seam", "hard"]) {
      const { files } = await run(named, "unwrap/template", {
        format: "svg",
        lines,
        fillIds: true,
        names: true,
      });
      const svg = new TextDecoder().decode(files![0].bytes);
      expect(svg).toMatch(/^<svg [^>]*width="256"/);
      expect(svg).toContain('fill="#336699"');
      expect(svg).toContain("a&lt;b");
      expect(svg).not.toContain("a<b");
      expect(svg).toMatch(/<path d="M/);
    }
  });

  it("write names into PNGs too, and need UVs", async () => {
    const plain = await run(asset(), "unwrap/template", { wire: false });
    const named = await run(asset(), "unwrap/template", {
      wire: false,
      names: true,
      fillIds: true,
    });
    expect(named.files![0].bytes).not.toEqual(plain.files![0].bytes);
    await expect(run(assetOf([cube()]), "unwrap/template")).rejects.toThrow(
      /unwrap first/,
    );
  });
});

describe("painted pictures", () => {
  it("come in with their size and go out again", async () => {
    const { files } = await run(
      assetOf([laidOn([cube()], SHEET)[0]]),
      "unwrap/template",
      { size: 64 },
    );
    const context = {
      ...plainContext(),
      files: [{ name: "rust.png", bytes: files![0].bytes }],
    };
    const at = assetOf([cube()]);
    const done = await runOperation(
      findOperation("unwrap/paint-in"),
      at,
      {},
      context,
    );
    expect(done.asset.painted).toMatchObject({
      name: "rust.png",
      kind: "png",
      width: 64,
      height: 64,
    });
    expect(
      (await run(done.asset, "unwrap/paint-out")).asset.painted,
    ).toBeNull();
    await expect(run(at, "unwrap/paint-in")).rejects.toThrow(/no picture/);
    await expect(
      runOperation(
        findOperation("unwrap/paint-in"),
        at,
        {},
        {
          ...plainContext(),
          files: [{ name: "x.png", bytes: new Uint8Array(9) }],
        },
      ),
    ).rejects.toThrow();
  });
});
