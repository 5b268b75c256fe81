import { BufferAttribute, BufferGeometry, DoubleSide, Ray } from "three";
import { MeshBVH, SAH } from "three-mesh-bvh";
import type { Asset } from "../core/asset/asset";
import { measureFidelity } from "../core/bake/methods/fidelity";
import { cornerNormals } from "../core/mesh/normals";
import { triangulate } from "../core/mesh/triangulate";
import type { Context } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { buildBvh } from "../core/space/bvh";
import { seededRandom } from "../core/base/random";
import { RayScene, widen } from "../core/space/ray-scene";
import { sampleSurface } from "../core/space/sample";
import { DEMO_ASSETS } from "../demo/index";
import { threadWorkers } from "../host/workers";
import { benchCollide } from "./collide";
import { benchDirty } from "./dirty";
import { benchReduce } from "./reduce";
import { benchSurvey } from "./survey";
import { benchUnwrap } from "./unwrap";

/** Measured ratios against general libraries in one run, on the demo assets. `--json` prints the figures. */

type Figure = { what: string; on: string; value: number; reach: string };
const figures: Figure[] = [];
const asJson = process.argv.includes("--json");
const only = process.argv.find((word) =>
  ["reduce", "unwrap", "bake", "rays", "survey", "dirty", "collide"].includes(
    word,
  ),
);

function tell(what: string, on: string, value: number, reach: string): void {
  figures.push({ what, on, value, reach });
  if (!asJson)
    process.stdout.write(
      `${what.padEnd(40)} ${on.padEnd(28)} ${value.toPrecision(4).padStart(10)}   ${reach}\n`,
    );
}

/** Numbers parted by commas after a word of the call. */
function numbersOf(word: string, otherwise: number[]): number[] {
  const at = process.argv.indexOf(word);
  return at < 0 ? otherwise : process.argv[at + 1].split(",").map(Number);
}

function timed<T>(work: () => T): [T, number] {
  const start = performance.now();
  const result = work();
  return [result, performance.now() - start];
}

async function made(
  asset: Asset,
  triangles: number,
  size: number,
  context: Context,
): Promise<Asset> {
  let at: Asset = {
    ...asset,
    brief: { ...asset.brief, triangles, sheetSize: size, padding: 8 },
  };
  for (const id of ["reduce/to-budget", "edges/hard-by-angle", "unwrap/unwrap"])
    at = (await runOperation(findOperation(id), at, {}, context)).asset;
  return at;
}

async function benchBake(context: Context): Promise<void> {
  for (const name of ["horn-shell", "storm-lamp"]) {
    const game = await made(DEMO_ASSETS[name](), 5000, 1024, context);
    const baked = await runOperation(
      findOperation("bake/maps"),
      game,
      { ao: false },
      context,
    );
    const { mean, p95, unmet } = measureFidelity(
      baked.asset,
      baked.asset.maps[0],
      true,
    );
    const on = `${name} 5000, 1024`;
    tell("normal fidelity, mean °", on, mean, "≤ 4");
    tell("normal fidelity, 95 % °", on, p95, "");
    tell("points that meet no source", on, unmet, "");
    tell("missed texels", on, Number(baked.report.missed), "≤ 0.001");
  }
}

/**
 * Rays as baking casts them: inwards along normals, and cosine-weighted outwards, both in order of the surface.
 * In one piece: both kinds of rays are cast in turns, so that a busy machine slows both.
 */
function benchRays(): void {
  const mesh = DEMO_ASSETS["horn-shell"]().parts[0].source!;
  const indices = triangulate(mesh).vertices;
  const scene = new RayScene([widen(buildBvh(mesh.positions, indices))]);
  const geometry = new BufferGeometry();
  geometry.setAttribute(
    "position",
    new BufferAttribute(mesh.positions.slice(), 3),
  );
  geometry.setIndex(new BufferAttribute(indices.slice(), 1));
  const reference = new MeshBVH(geometry, { strategy: SAH });
  const { points, triangles } = sampleSurface(mesh.positions, indices, 150_000);
  const normals = cornerNormals(mesh);
  const random = seededRandom(3);
  const split = triangulate(mesh).corners;
  const count = triangles.length;
  const inwards = new Float64Array(6 * count);
  const outwards = new Float64Array(6 * count);
  for (let i = 0; i < count; i++) {
    const n = [0, 1, 2].map((k) => normals[3 * split[3 * triangles[i]] + k]);
    const ball = [0, 1, 2].map(() => random() * 2 - 1);
    const size = Math.hypot(...ball) || 1;
    const d = ball.map((x, k) => x / size + 1.01 * n[k]);
    const length = Math.hypot(...d);
    for (let k = 0; k < 3; k++) {
      inwards[6 * i + k] = points[3 * i + k] + 0.004 * n[k];
      inwards[6 * i + 3 + k] = -n[k];
      outwards[6 * i + k] = points[3 * i + k] + 1e-4 * n[k];
      outwards[6 * i + 3 + k] = d[k] / length;
    }
  }
  const ray = new Ray();
  const theirs = (rays: Float64Array, far: number) => {
    let hits = 0;
    for (let i = 0; i < rays.length; i += 6) {
      ray.origin.set(rays[i], rays[i + 1], rays[i + 2]);
      ray.direction.set(rays[i + 3], rays[i + 4], rays[i + 5]);
      if (reference.raycastFirst(ray, DoubleSide, 0, far)) hits++;
    }
    return hits;
  };
  const project = () => {
    let hits = 0;
    for (let i = 0; i < inwards.length; i += 6)
      if (
        scene.first(
          0,
          inwards[i],
          inwards[i + 1],
          inwards[i + 2],
          inwards[i + 3],
          inwards[i + 4],
          inwards[i + 5],
          0,
          0.01,
        ) >= 0
      )
        hits++;
    return hits;
  };
  const occlude = () => {
    let hits = 0;
    for (let i = 0; i < outwards.length; i += 6)
      if (
        scene.any(
          0,
          outwards[i],
          outwards[i + 1],
          outwards[i + 2],
          outwards[i + 3],
          outwards[i + 4],
          outwards[i + 5],
          0,
          0.1,
        )
      )
        hits++;
    return hits;
  };
  for (const [what, own, other] of [
    ["projection rays", project, () => theirs(inwards, 0.01)],
    ["occlusion rays", occlude, () => theirs(outwards, 0.1)],
  ] as const) {
    own();
    other();
    const [hits, ours] = timed(own);
    const [same, its] = timed(other);
    tell(
      `${what}, × three-mesh-bvh`,
      "horn-shell, one thread",
      its / ours,
      "≥ 3",
    );
    tell(
      `${what}, share of hits that differ`,
      "horn-shell, one thread",
      Math.abs(hits - same) / count,
      "",
    );
  }
}

const workers = threadWorkers(new URL("./kernel-worker.mjs", import.meta.url));
const context: Context = { progress() {}, check() {}, workers };
if (!only || only === "reduce") await benchReduce(tell);
if (!only || only === "unwrap") await benchUnwrap(context, tell);
if (!only || only === "bake") await benchBake(context);
if (!only || only === "rays") benchRays();
if (!only || only === "survey") await benchSurvey(context, tell);
if (!only || only === "collide") benchCollide(tell);
if (only === "dirty")
  await benchDirty(tell, {
    seeds: numbersOf("--seeds", [1, 2, 3, 4, 5, 6, 7, 8, 9, 10]),
    sizes: numbersOf("--sizes", [50_000, 1_000_000]),
  });
await workers.close();
if (asJson) process.stdout.write(`${JSON.stringify(figures)}\n`);
