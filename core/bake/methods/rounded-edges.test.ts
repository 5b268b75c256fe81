import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../../tests/laid";
import { cube, sphere } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import { plainContext } from "../../base/context";
import { createMesh } from "../../mesh/change-faces";
import { hardAbove } from "../../mesh/hard-angle";
import type { Mesh } from "../../mesh/mesh";
import { keptRound, NEVER_ROUND } from "../../mesh/rounds";
import { triangulate } from "../../mesh/triangulate";
import { sampleSurface } from "../../space/sample";
import { findOperation, KERNELS } from "../../operations";
import { runOperation } from "../../route";
import type { BakeFinding } from "./findings";
import type { PartCounts } from "./maps";
import { roundedEdges } from "./rounded-edges";
import { Rounding } from "./rounding";

type Point = readonly number[];

/** Largest and mean angle at points of a mesh between its round normals and those wanted, degrees. */
function against(
  mesh: Mesh,
  radius: number,
  wanted: (p: Point, sharp: Point) => Point,
) {
  const split = triangulate(mesh);
  const edges = roundedEdges(mesh, split, radius)!;
  const { points, triangles } = sampleSurface(
    mesh.positions,
    split.vertices,
    4000,
  );
  const rounding = new Rounding();
  let [most, sum, turned] = [0, 0, 0];
  for (let i = 0; i < triangles.length; i++) {
    const p = [...points.subarray(3 * i, 3 * i + 3)];
    const weights = weightsAt(mesh, split.vertices, triangles[i], p);
    const differs = rounding.at(edges, triangles[i], ...weights, p);
    if (differs) turned++;
    const sharp = [0, 1, 2].map((k) =>
      weights.reduce(
        (all, w, j) => all + w * edges.normals[9 * triangles[i] + 3 * j + k],
        0,
      ),
    );
    const have = differs ? rounding.round : sharp;
    const want = wanted(p, sharp);
    const dot = [0, 1, 2].reduce((all, k) => all + have[k] * want[k], 0);
    const angle = (180 / Math.PI) * Math.acos(Math.max(-1, Math.min(1, dot)));
    most = Math.max(most, angle);
    sum += angle;
  }
  return {
    most,
    mean: sum / triangles.length,
    turned: turned / triangles.length,
  };
}

function weightsAt(
  { positions: p }: Mesh,
  vertices: Uint32Array,
  t: number,
  q: Point,
): [number, number, number] {
  const at = (k: number) =>
    [0, 1, 2].map((j) => p[3 * vertices[3 * t + k] + j] - q[j]);
  const areas = [0, 1, 2].map((k) => {
    const [[ax, ay, az], [bx, by, bz]] = [at((k + 1) % 3), at((k + 2) % 3)];
    return Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
  });
  const all = areas[0] + areas[1] + areas[2];
  return [areas[0] / all, areas[1] / all, areas[2] / all];
}

const unit = (v: Point): Point => {
  const length = Math.hypot(...v);
  return v.map((x) => x / length);
};

/** Normal at the nearest point of the unit cube's bevel, edge 2. */
const bevelled =
  (r: number) =>
  (p: Point): Point =>
    unit(p.map((x) => x - Math.max(r - 1, Math.min(1 - r, x))));

/** A profile in x and y drawn along z, of quads and two n-gons. */
function drawn(profile: readonly Point[], from = -1, to = 1): Mesh {
  const n = profile.length;
  const corners: number[] = [];
  const starts = [0];
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    corners.push(i, j, n + j, n + i);
    starts.push(corners.length);
  }
  corners.push(...profile.map((_, i) => n - 1 - i));
  starts.push(corners.length);
  corners.push(...profile.map((_, i) => n + i));
  starts.push(corners.length);
  return createMesh({
    positions: Float32Array.from(
      [from, to].flatMap((z) => profile.flatMap(([x, y]) => [x, y, z])),
    ),
    corners: Uint32Array.from(corners),
    faceStarts: Uint32Array.from(starts),
  });
}

describe("round edges", () => {
  it.each([0.1, 0.3])(
    "of a box are those of its bevel, corners too, at radius %s",
    (radius) => {
      const { most, turned } = against(cube(), radius, bevelled(radius));
      expect(most).toBeLessThan(0.1);
      // A face turns within the radius of its sides.
      expect(turned).toBeCloseTo(1 - (1 - radius) ** 2, 1);
    },
  );

  it("of a smooth mesh are found where its faces turn, and a round one has none", () => {
    const hard = { ...cube(), hard: new Uint8Array(24) };
    expect(against(hard, 0.1, bevelled(0.1)).most).toBeLessThan(0.1);
    const ball = sphere(20, 30);
    expect(roundedEdges(ball, triangulate(ball), 0.1)).toBeNull();
    expect(roundedEdges(cube(), triangulate(cube()), 0)).toBeNull();
  });

  it("of a wedge reach as far as their bevel, whatever the angle", () => {
    const r = 0.1;
    // Sides of 60° to each other: the bevel begins r ⋅ tan 60° from the edge.
    const h = Math.sqrt(3);
    const sides = [
      [-1, 0],
      [1, 0],
      [0, h],
    ];
    const wedge = drawn(sides, -40, 40);
    const inside = (p: Point): Point => {
      // The triangle moved in by r has the same middle.
      const k = 1 - (3 * r) / h;
      const at = ([x, y]: Point): Point => [k * x, h / 3 + k * (y - h / 3)];
      const shape = sides.map(at);
      let best: Point = shape[0];
      const far = (q: Point) => Math.hypot(q[0] - p[0], q[1] - p[1]);
      shape.forEach((a, i) => {
        const b = shape[(i + 1) % 3];
        const [x, y] = [b[0] - a[0], b[1] - a[1]];
        const along = ((p[0] - a[0]) * x + (p[1] - a[1]) * y) / (x * x + y * y);
        const t = Math.max(0, Math.min(1, along));
        const q = [a[0] + t * x, a[1] + t * y];
        if (far(q) < far(best)) best = q;
      });
      return best;
    };
    const { mean, turned } = against(wedge, r, (p, sharp) => {
      // The flat ends have corners of their own.
      if (Math.abs(sharp[2]) > 0.5 || Math.abs(p[2]) > 39.5) return unit(sharp);
      const q = inside(p);
      return unit([p[0] - q[0], p[1] - q[1], 0]);
    });
    expect(mean).toBeLessThan(0.3);
    expect(turned).toBeCloseTo(r * h, 1);
  });

  it("in a hollow are those of a fillet, and turn the other way", () => {
    const r = 0.2;
    // A step: a hollow edge at the origin, the rest far away.
    const step = drawn(
      [
        [0, 0],
        [0, 9],
        [-9, 9],
        [-9, -9],
        [9, -9],
        [9, 0],
      ],
      -9,
      9,
    );
    const hard = hardAbove(step, 40).hard;
    const only = Uint16Array.from(hard, () => NEVER_ROUND);
    const { corners, positions: p } = step;
    corners.forEach((v, c) => {
      const isHollow = (at: number) => p[3 * at] === 0 && p[3 * at + 1] === 0;
      const end = step.faceStarts.find((start) => start > c)!;
      const start = [...step.faceStarts].reverse().find((each) => each <= c)!;
      const next = corners[c + 1 < end ? c + 1 : start];
      if (isHollow(v) && isHollow(next)) only[c] = keptRound(r);
    });
    const { most, turned } = against(
      { ...step, rounds: only },
      5,
      ([x, y, z], sharp) =>
        Math.abs(z) < 8.7 && x >= -1e-6 && y >= -1e-6 && x + y < 3
          ? x < r && y < r
            ? unit([r - x, r - y, 0])
            : unit(sharp)
          : unit(sharp),
    );
    expect(turned).toBeGreaterThan(0.001);
    expect(most).toBeLessThan(0.5);
  });
});

describe("a bake with round edges", () => {
  const context = plainContext(KERNELS);
  const bake = (asset: ReturnType<typeof boxed>, options: object) =>
    runOperation(
      findOperation("bake/maps"),
      asset,
      { ao: false, also: [], samples: 2, ...options },
      context,
    );
  function boxed(source: Mesh | null = null, change: Partial<Mesh> = {}) {
    const mesh = { ...cube(), hard: new Uint8Array(24).fill(1) };
    const [game] = laidOn([mesh], squareSheet(256));
    const asset = createAsset("box", [
      createPart("box", 0, { source, game: { ...game, ...change } }),
    ]);
    return { ...asset, brief: { ...asset.brief, sheetSize: 256 } };
  }
  const shown = (asset: ReturnType<typeof boxed>) => {
    const { pixels } = asset.maps.find(({ kind }) => kind === "normal")!;
    let turned = 0;
    for (let i = 0; i < pixels.length; i += 3)
      if ([0, 1].some((k) => Math.abs(pixels[i + k] / 65535 - 0.5) > 0.02))
        turned++;
    return turned;
  };

  it("needs no source, and shows what a source with that bevel would", async () => {
    const { asset, report } = await bake(boxed(), { round: 100 });
    expect(report.findings).toEqual([]);
    const [part] = report.counts as PartCounts[];
    expect(part.missed).toBe(0);
    // Measured against the round normals themselves: half a degree is texels' size.
    expect(part.angle).toBeLessThan(1);
    expect(shown(asset)).toBeGreaterThan(1000);
    await expect(bake(boxed(), {})).rejects.toThrow(
      "there is no source mesh to bake from; without one, round edges can be baked",
    );
  });

  it("joins with what a source shows: its own detail stays", async () => {
    const plain = await bake(boxed(cube()), {});
    expect(shown(plain.asset)).toBeLessThan(100);
    const round = await bake(boxed(cube()), { round: 100 });
    const alone = await bake(boxed(), { round: 100 });
    expect(Math.abs(shown(round.asset) - shown(alone.asset))).toBeLessThan(100);
    expect((round.report.findings as BakeFinding[]).length).toBe(0);
  });

  it("is by edge: what was chosen at Edges is round, or stays sharp", async () => {
    const run = async (options: object, asset = boxed()) =>
      (
        await runOperation(
          findOperation("edges/round"),
          asset,
          options,
          context,
        )
      ).asset as ReturnType<typeof boxed>;
    const edges = ["box:0-1", "box:0-4"];
    const two = await run({ edges, radius: 100 });
    const some = shown((await bake(two, {})).asset);
    const all = shown((await bake(boxed(), { round: 100 })).asset);
    expect(some).toBeGreaterThan(all / 12);
    expect(some).toBeLessThan(all / 4);
    const less = await run({ edges, to: "sharp" });
    const rest = shown((await bake(less, { round: 100 })).asset);
    expect(rest).toBeLessThan(all);
    expect(rest).toBeGreaterThan((3 * all) / 4);
    const again = await run({ edges, to: "others" }, two);
    expect(again.parts[0].game!.rounds).toBeNull();
    await expect(run({ edges: [] })).rejects.toThrow("no edge is chosen");
    await expect(run({ edges: ["box:0-7"] })).rejects.toThrow(
      /no edge between/,
    );
  });
});
