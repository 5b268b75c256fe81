import type { Tell } from "./tell";
import { benchTimes, benchCarry } from "./unwrap-times";
import type { Asset } from "../core/asset/asset";
import { createAsset, createPart } from "../core/asset/asset";
import { buildEdges } from "../core/mesh/edges";
import type { Mesh } from "../core/mesh/mesh";
import { faceOfCorners } from "../core/mesh/mesh";
import type { Context } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { seededRandom } from "../core/base/random";
import { prepareUnwrap } from "../core/unwrap/methods/chart";
import { packIslands } from "../core/unwrap/methods/pack";
import {
  exposureOf,
  exposureRanks,
} from "../core/unwrap/methods/seams/exposure";
import { DEMO_ASSETS } from "../demo/index";
import { limbedBody, mug, organic } from "./bodies";

const SHEET = { sheetSize: 2048, padding: 8 };

async function run(
  asset: Asset,
  id: string,
  options: object,
  context: Context,
) {
  const start = performance.now();
  const result = await runOperation(findOperation(id), asset, options, context);
  return { ...result, seconds: (performance.now() - start) / 1000 };
}

const assetOf = (name: string, game: Mesh): Asset => {
  const asset = createAsset(name, [createPart(name, 0, { game })]);
  return { ...asset, brief: { ...asset.brief, ...SHEET } };
};

/** Everything unwrapping is measured by. */
export async function benchUnwrap(context: Context, tell: Tell): Promise<void> {
  const bodies: [string, Asset][] = [];
  for (const [name, make] of Object.entries(DEMO_ASSETS)) {
    const made = make();
    const brief = { ...made.brief, ...SHEET, triangles: 5000 };
    const { asset } = await run(
      { ...made, brief },
      "reduce/to-budget",
      {},
      context,
    );
    bodies.push([name, asset]);
  }
  for (const seed of [1, 2, 3, 4])
    bodies.push([`organic ${seed}`, assetOf("body", organic(seed))]);
  bodies.push(
    ["limbed body", assetOf("body", limbedBody())],
    ["mug", assetOf("mug", mug())],
  );
  const stretches: number[] = [];
  const reach: Record<string, string> = {
    "horn-shell": "≤ 8",
    "limbed body": "≤ 12",
    mug: "≤ 6",
  };
  for (const [name, asset] of bodies) {
    const done = await run(asset, "unwrap/unwrap", {}, context);
    const report = done.report as Record<string, number>;
    const on = `${name} 5000`;
    stretches.push(report.stretch);
    tell("stretch", on, report.stretch, "≤ 1.10");
    tell("flipped, overlap", on, report.flipped + report.overlap, "0");
    tell("islands", on, report.islands, reach[name] ?? "");
    tell("density spread", on, report.densitySpread, "≤ 0.03");
    tell("fill", on, report.fill, report.islands < 20 ? "≥ 0.75" : "");
    tell("seconds", on, done.seconds, "");
    if (name === "limbed body")
      tell(
        "seam length in the least seen third",
        on,
        hiddenShare(done.asset),
        "≥ 0.60",
      );
  }
  tell(
    "stretch, mean of all",
    "",
    stretches.reduce((sum, x) => sum + x, 0) / stretches.length,
    "≤ 1.05",
  );
  benchPacking(tell);
  benchTimes(tell);
  benchCarry(tell);
  await benchShare(context, tell);
}

/** Share of the length of seams that lies in the third of the surface seen least from standing height. */
function hiddenShare(asset: Asset): number {
  const meshes = asset.parts.flatMap(({ game }) => (game ? [game] : []));
  const ranks = exposureRanks(
    exposureOf(meshes, "standing", () => {}),
    meshes.map((mesh) => prepareUnwrap(mesh).areas),
  );
  let all = 0;
  let low = 0;
  meshes.forEach((mesh, i) => {
    const edges = buildEdges(mesh);
    const face = faceOfCorners(mesh);
    const p = mesh.positions;
    for (let e = 0; e < edges.count; e++) {
      if (!mesh.seams?.[edges.first[e]] || edges.second[e] < 0) continue;
      const [a, b] = [3 * edges.vertices[2 * e], 3 * edges.vertices[2 * e + 1]];
      const length = Math.hypot(
        p[a] - p[b],
        p[a + 1] - p[b + 1],
        p[a + 2] - p[b + 2],
      );
      all += length;
      const rank =
        (ranks[i][face[edges.first[e]]] + ranks[i][face[edges.second[e]]]) / 2;
      if (rank < 1 / 3) low += length;
    }
  });
  return all ? low / all : 0;
}

/**
 * Sixty islands of six kinds: rectangles, discs, angles, blobs, half rings and triangles, 1 : 8 in size.
 * In one piece: a list of six shapes.
 */
function mixedIslands(): { triangles: Float64Array }[] {
  const random = seededRandom(5);
  const fan = (points: [number, number][]) => {
    const middle = [0, 1].map((k) =>
      points.reduce((sum, p) => sum + p[k] / points.length, 0),
    );
    return {
      triangles: Float64Array.from(
        points.flatMap((p, i) => [
          ...middle,
          ...p,
          ...points[(i + 1) % points.length],
        ]),
      ),
    };
  };
  const boxes = (list: number[][]) => ({
    triangles: Float64Array.from(
      list.flatMap(([x, y, w, h]) => [
        x,
        y,
        x + w,
        y,
        x + w,
        y + h,
        x,
        y,
        x + w,
        y + h,
        x,
        y + h,
      ]),
    ),
  });
  const round = (count: number, radius: (angle: number) => number) =>
    fan(
      Array.from({ length: count }, (_, k): [number, number] => {
        const angle = (2 * Math.PI * k) / count;
        return [
          radius(angle) * Math.cos(angle),
          radius(angle) * Math.sin(angle),
        ];
      }),
    );
  return Array.from({ length: 60 }, (_, i) => {
    const s = 0.25 * 8 ** random();
    const [f, g] = [6 * random(), 6 * random()];
    switch (i % 6) {
      case 0:
        return boxes([[0, 0, s, s * (0.2 + random())]]);
      case 1:
        return round(24, () => s / 2);
      case 2:
        return boxes([
          [0, 0, s, 0.35 * s],
          [0, 0.35 * s, 0.35 * s, 0.7 * s],
        ]);
      case 3:
        return round(
          40,
          (a) =>
            s * (0.42 + 0.1 * Math.sin(2 * a + f) + 0.06 * Math.sin(3 * a + g)),
        );
      case 4: {
        const at = (r: number, k: number) => [
          s * r * Math.cos((Math.PI * k) / 20),
          s * r * Math.sin((Math.PI * k) / 20),
        ];
        return {
          triangles: Float64Array.from(
            Array.from({ length: 20 }, (_, k) => [
              ...at(0.6, k),
              ...at(0.9, k),
              ...at(0.9, k + 1),
              ...at(0.6, k),
              ...at(0.9, k + 1),
              ...at(0.6, k + 1),
            ]).flat(),
          ),
        };
      }
      default:
        return fan([
          [0, 0],
          [s * (0.5 + random()), 0],
          [s * random(), 0.8 * s],
        ]);
    }
  });
}

function benchPacking(tell: Tell): void {
  const items = mixedIslands();
  let area = 0;
  for (const { triangles: t } of items)
    for (let i = 0; i < t.length; i += 6)
      area +=
        Math.abs(
          (t[i + 2] - t[i]) * (t[i + 5] - t[i + 1]) -
            (t[i + 4] - t[i]) * (t[i + 3] - t[i + 1]),
        ) / 2;
  for (const [seconds, wanted] of [
    [5, "≥ 0.80"],
    [60, "≥ 0.85"],
  ] as const) {
    const { texelsPerMetre } = packIslands(
      items,
      { width: 2048, height: 2048, padding: 8, texelsPerMetre: 0, seconds },
      () => {},
    );
    tell(
      "fill",
      `60 mixed islands, ${seconds} s`,
      (area * texelsPerMetre ** 2) / 2048 ** 2,
      wanted,
    );
  }
}

/** The crate with every slat a part of its own again: its repeats as islands, and what sharing frees. */
async function benchShare(context: Context, tell: Tell): Promise<void> {
  const made = DEMO_ASSETS["fish-crate"]();
  let at: Asset = {
    ...made,
    brief: { ...made.brief, ...SHEET, triangles: 3000 },
  };
  at = (await run(at, "survey/link-repeats", {}, context)).asset;
  at = (await run(at, "reduce/to-budget", {}, context)).asset;
  const worked = at.parts.filter((part) => part.repeat).length;
  const loose: Asset = {
    ...at,
    parts: at.parts.map((part) => ({ ...part, repeat: null })),
  };
  const laid = await run(loose, "unwrap/unwrap", { islands: 10_000 }, context);
  const found = await run(laid.asset, "unwrap/find-repeats", {}, context);
  const rows = found.report.groups as { count: number; parts: string[] }[];
  tell(
    "copies found among islands",
    `fish-crate, ${worked} repeated parts`,
    rows.reduce((sum, row) => sum + row.count - 1, 0),
    "",
  );
  const shared = await run(
    laid.asset,
    "unwrap/share",
    { only: "all" },
    context,
  );
  const [before, after] = [laid, shared].map(({ report }) =>
    Number(report.fill),
  );
  tell(
    "sheet freed against what was foretold",
    "fish-crate",
    (before - after) / before - Number(found.report.freed),
    "± 0.02",
  );
}
