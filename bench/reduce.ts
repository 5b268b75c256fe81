import type { Tell } from "./tell";
import { MeshoptSimplifier } from "meshoptimizer";
import { createAsset, createPart } from "../core/asset/asset";
import { finishDeal, recordTogether } from "../core/decimate/reduce-together";
import { allocateBudget, seek } from "../core/decimate/collapse-record";
import { faceComponents } from "../core/mesh/components";
import { buildEdges } from "../core/mesh/edges";
import { evenQuads } from "../core/remesh/even/even-quads";
import type { Mesh } from "../core/mesh/mesh";
import { faceCount, triangleCount } from "../core/mesh/mesh";
import { quadShare } from "../core/remesh/pair-quads";
import { skinOver } from "../core/remesh/skin/skin-over";
import type { Soup } from "../core/decimate/soup";
import { gatherSoup } from "../core/decimate/soup";
import { triangulate } from "../core/mesh/triangulate";
import { plainContext } from "../core/base/context";
import { judgeSurfaces, surfaceOf } from "../core/reduce/operations/judge";
import { boundsOf } from "../core/space/bounds";
import { buildBvh } from "../core/space/bvh";
import { ClosestPoint } from "../core/space/closest-point";
import type { Surface } from "../core/space/deviation";
import { measureDeviation } from "../core/space/deviation";
import { sampleSurface } from "../core/space/sample";
import { runOperation } from "../core/route";
import { findOperation } from "../core/operations";
import { DEMO_ASSETS } from "../demo/index";
import { joined, moved, sphere, torus } from "../tests/shapes";

/** Thousands of loose strands are no measure for reduction: they are meant for a card. */
const LEFT_OUT = ["net-panel"];
const BUDGETS = [5000, 2000, 500];

/** Organic: bumps that the budget can show, and finer ones that it can't. */
const ORGANIC: Record<string, () => Mesh[]> = {
  "organic bumps": () => [
    sphere(
      300,
      400,
      1,
      (a, h) =>
        0.12 * Math.sin(5 * a) * Math.cos(4 * h) +
        0.03 * Math.sin(13 * a + 7 * h),
    ),
  ],
  "organic ring": () => [torus(500, 240, 1, 0.35)],
};

/** A scan of a million triangles. */
const million = () =>
  sphere(
    700,
    720,
    1,
    (a, h) =>
      0.08 * Math.sin(7 * a) * Math.cos(5 * h) +
      0.004 * Math.sin(60 * a) * Math.sin(50 * h),
  );

export function timed<T>(work: () => T): [T, number] {
  const start = performance.now();
  const result = work();
  return [result, performance.now() - start];
}

export const plainSurface = (soup: Soup): Surface => ({
  positions: new Float32Array(soup.positions),
  triangles: soup.triangles.slice(),
});

export function simplified({ positions, triangles }: Surface, budget: number) {
  const [indices] = MeshoptSimplifier.simplify(
    triangles,
    positions,
    3,
    3 * budget,
    1e9,
    [],
  );
  return indices;
}

export function reduced(meshes: readonly Mesh[], budget: number): Mesh[] {
  const context = plainContext();
  return finishDeal(
    recordTogether(meshes, budget, {}, context),
    { budget },
    context,
  ).filter((mesh) => mesh !== null);
}

/** Both game meshes against the same source, about the same middle. */
export function about(centre: readonly number[], surface: Surface): Surface {
  return {
    ...surface,
    positions: surface.positions.map((x, i) => x - centre[i % 3]),
  };
}

/** Everything the reduction is measured by. */
export async function benchReduce(tell: Tell): Promise<void> {
  await MeshoptSimplifier.ready;
  const rms: number[] = [];
  const max: number[] = [];
  const cases = [
    ...Object.entries(DEMO_ASSETS)
      .filter(([name]) => !LEFT_OUT.includes(name))
      .map(
        ([name, make]) =>
          [name, () => make().parts.map((part) => part.source!)] as const,
      ),
    ...Object.entries(ORGANIC),
  ];
  for (const [name, make] of cases) {
    const meshes = make();
    const soup = gatherSoup(meshes);
    const source = plainSurface(soup);
    for (const budget of BUDGETS) {
      const [reference, theirs] = timed(() => simplified(source, budget));
      const [own, ours] = timed(() => reduced(meshes, budget));
      const reached = reference.length / 3;
      const count = own.reduce((sum, mesh) => sum + triangleCount(mesh), 0);
      // Where the reference stops above the budget, both are compared at the count it reached.
      const compared = reached > budget ? reduced(meshes, reached) : own;
      const game = about(soup.centre, surfaceOf(compared));
      const mine = measureDeviation(source, game);
      const its = measureDeviation(source, {
        positions: source.positions,
        triangles: reference,
      });
      rms.push(mine.rms / its.rms);
      max.push(mine.max / its.max);
      const on = `${name} ${budget}`;
      tell(
        "triangles",
        on,
        count,
        `≤ ${budget}, ≥ ${Math.ceil(0.99 * budget)}`,
      );
      tell(
        "deviation rms, × the simplifier's",
        on,
        mine.rms / its.rms,
        "≤ 0.70",
      );
      tell(
        "deviation largest, × the simplifier's",
        on,
        mine.max / its.max,
        "≤ 1.0",
      );
      tell(
        "slivers",
        on,
        judgeSurfaces(source, game, "all round").slivers,
        name.startsWith("organic") || name === "horn-shell"
          ? "≤ 0.002"
          : "≤ 0.02",
      );
      tell("time, × the simplifier's", on, ours / theirs, "");
    }
  }
  const mean = (values: readonly number[]) =>
    values.reduce((sum, x) => sum + x, 0) / values.length;
  tell("deviation rms, mean of all", "", mean(rms), "≤ 0.50");
  tell("deviation largest, mean of all", "", mean(max), "≤ 0.75");
  benchTopology(tell);
  benchMillion(tell);
  await benchShares(tell);
  benchQuads(tell);
  benchSkin(tell);
}

function benchTopology(tell: Tell): void {
  const bodies: [string, Mesh][] = [
    ["bumps", ORGANIC["organic bumps"]()[0]],
    ["ring", ORGANIC["organic ring"]()[0]],
    [
      "three bodies",
      joined(
        sphere(80, 100),
        moved(torus(90, 40), 3, 0, 0),
        moved(sphere(60, 80, 0.5), 0, 3, 0),
      ),
    ],
  ];
  for (const [name, body] of bodies)
    for (const budget of BUDGETS) {
      const [small] = reduced([body], budget);
      const on = `${name} ${budget}`;
      const edges = buildEdges(small);
      tell(
        "edges not of two faces",
        on,
        edges.uses.filter((n) => n !== 2).length,
        "0",
      );
      tell(
        "components lost",
        on,
        faceComponents(body).count - faceComponents(small).count,
        "0",
      );
      tell("flipped faces", on, flippedFaces(body, small), "0");
    }
}

/** Faces of a reduced mesh that look the other way than the source where it is nearest. */
function flippedFaces(source: Mesh, small: Mesh): number {
  const { vertices } = triangulate(source);
  const closest = new ClosestPoint(buildBvh(source.positions, vertices));
  const game = triangulate(small).vertices;
  const normal = (p: Float32Array, at: ArrayLike<number>, t: number) => {
    const [a, b, c] = [0, 1, 2].map((k) => 3 * at[3 * t + k]);
    const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
    return [
      u[1] * v[2] - u[2] * v[1],
      u[2] * v[0] - u[0] * v[2],
      u[0] * v[1] - u[1] * v[0],
    ];
  };
  let count = 0;
  for (let t = 0; t < game.length / 3; t++) {
    const middle = [0, 1, 2].map(
      (k) =>
        (small.positions[3 * game[3 * t] + k] +
          small.positions[3 * game[3 * t + 1] + k] +
          small.positions[3 * game[3 * t + 2] + k]) /
        3,
    );
    const s = closest.find(middle[0], middle[1], middle[2]);
    const n = normal(small.positions, game, t);
    const m = normal(source.positions, vertices, s);
    if (n[0] * m[0] + n[1] * m[1] + n[2] * m[2] < 0) count++;
  }
  return count;
}

function benchMillion(tell: Tell): void {
  const mesh = million();
  const source = plainSurface(gatherSoup([mesh]));
  let least = Infinity;
  for (let round = 0; round < 3; round++) {
    const [, theirs] = timed(() => simplified(source, 5000));
    const [, ours] = timed(() => reduced([mesh], 5000));
    least = Math.min(least, ours / theirs);
  }
  tell("time, × the simplifier's, best of three", "1 M to 5 000", least, "≤ 4");
  const context = plainContext();
  const { record } = recordTogether([mesh], 5000, {}, context);
  const [, preview] = timed(() =>
    seek(record, allocateBudget(record, { budget: 8000 }).taken),
  );
  tell("a seek in the record, ms", "1 M", preview, "≤ 100");
}

/** The lamp's budget dealt out by what is seen against equal shares of it. */
async function benchShares(tell: Tell): Promise<void> {
  const lamp = DEMO_ASSETS["storm-lamp"]();
  const run = async (own: number) =>
    (
      await runOperation(
        findOperation("reduce/to-budget"),
        createAsset(
          "lamp",
          lamp.parts.map((part, i) =>
            createPart(part.name, i, { source: part.source, budget: own }),
          ),
        ),
        { triangles: 5000 },
        plainContext(),
      )
    ).report as { rms: number };
  const dealt = await run(0);
  const equal = await run(Math.floor(5000 / lamp.parts.length));
  tell(
    "rms of one budget, × equal shares",
    "lamp 5000",
    dealt.rms / equal.rms,
    "≤ 0.7",
  );
}

function benchQuads(tell: Tell): void {
  const bodies: [string, Mesh][] = [
    ...Object.entries(ORGANIC).map(([name, make]): [string, Mesh] => [
      name,
      make()[0],
    ]),
    ["horn-shell", DEMO_ASSETS["horn-shell"]().parts[0].source!],
    ["bollard post", DEMO_ASSETS["mooring-bollard"]().parts[0].source!],
  ];
  for (const [name, body] of bodies)
    for (const [pure, grading] of [
      [false, 1],
      [false, 2],
      [true, 2],
    ] as const) {
      const made = evenQuads(
        body,
        { triangles: 4000, pure, grading, sizeAt: null, guides: null },
        () => {},
      );
      const source = surfaceOf([body]);
      const [same] = reduced([body], triangleCount(made));
      const on = `${name}, ${pure ? "pure" : "mixed"}, grading ${grading}`;
      tell(
        "even quads: share of quads",
        on,
        quadShare(made),
        pure ? "1" : "≥ 0.95",
      );
      tell("corner angle error, °", on, angleError(made), "≤ 10");
      tell(
        "rms, × triangles at the same count",
        on,
        measureDeviation(source, surfaceOf([made])).rms /
          measureDeviation(source, surfaceOf([same])).rms,
        "≤ 1.5",
      );
      tell(
        "edges not of two faces",
        on,
        buildEdges(made).uses.filter((n) => n !== 2).length,
        "0",
      );
    }
}

function angleError(mesh: Mesh): number {
  let sum = 0;
  let count = 0;
  for (let f = 0; f < faceCount(mesh); f++) {
    const s = mesh.faceStarts[f];
    if (mesh.faceStarts[f + 1] - s !== 4) continue;
    for (let i = 0; i < 4; i++) {
      const at = (j: number) => 3 * mesh.corners[s + ((i + j) % 4)];
      const side = (j: number) =>
        [0, 1, 2].map(
          (k) => mesh.positions[at(j) + k] - mesh.positions[at(0) + k],
        );
      const [u, v] = [side(1), side(3)];
      const cos =
        (u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) /
        (Math.hypot(...u) * Math.hypot(...v) || 1);
      sum += Math.abs(
        (Math.acos(Math.max(-1, Math.min(1, cos))) * 180) / Math.PI - 90,
      );
      count++;
    }
  }
  return sum / count;
}

function benchSkin(tell: Tell): void {
  for (const name of ["storm-lamp", "mooring-bollard", "fish-crate"]) {
    const meshes = DEMO_ASSETS[name]().parts.map((part) => part.source!);
    const skin = skinOver(meshes, 160, () => {});
    const all = surfaceOf(meshes);
    const { min, max } = boundsOf(all.positions);
    const cell = Math.max(...[0, 1, 2].map((k) => max[k] - min[k])) / 160;
    const closest = new ClosestPoint(buildBvh(all.positions, all.triangles));
    const own = surfaceOf([skin]);
    const { points } = sampleSurface(own.positions, own.triangles, 60_000);
    let sum = 0;
    for (let i = 0; i < points.length; i += 3) {
      closest.find(points[i], points[i + 1], points[i + 2]);
      sum += closest.distance2;
    }
    tell(
      "skin over, rms in cells",
      `${name}, 160 cells`,
      Math.sqrt(sum / 60_000) / cell,
      "≤ 0.5",
    );
    tell(
      "edges not of two faces",
      `${name}, 160 cells`,
      buildEdges(skin).uses.filter((n) => n !== 2).length,
      "0",
    );
  }
}
