import type { Tell } from "./tell";
import { MeshoptSimplifier } from "meshoptimizer";
import { buildEdges, meanEdge } from "../core/mesh/edges";
import type { Mesh } from "../core/mesh/mesh";
import { triangleCount } from "../core/mesh/mesh";
import { settleMesh } from "../core/settle/settle";
import { triangulate } from "../core/mesh/triangulate";
import { MENDS, mendMesh } from "../core/survey/methods/mend";
import type { Soup } from "../core/decimate/soup";
import { gatherSoup } from "../core/decimate/soup";
import { plainContext } from "../core/base/context";
import { findOperation } from "../core/operations";
import { runOperation } from "../core/route";
import { createAsset, createPart } from "../core/asset/asset";
import { surfaceOf } from "../core/reduce/operations/judge";
import { boundsOf, diagonalOf } from "../core/space/bounds";
import { buildBvh } from "../core/space/bvh";
import { ClosestPoint } from "../core/space/closest-point";
import type { Surface } from "../core/space/deviation";
import { measureDeviation } from "../core/space/deviation";
import { sampleSurface, triangleArea } from "../core/space/sample";
import { dot, unit } from "../core/space/vector";
import { cross } from "../core/mesh/triangle-shape";
import { cadAssembly, cadMachine, cadPart } from "../tests/cad-like";
import { DIRTY, scanLike } from "../tests/scan-like";
import { dirtyRoute } from "./dirty-route";
import { about, plainSurface, reduced, simplified, timed } from "./reduce";

const BUDGETS = [10_000, 5000, 1000];

/** Below this share of the diagonal nothing shows: both sides count as at least so far off. */
const UNSEEN = 5e-5;

/** Larger CAD is many parts. */
const LARGE = 100_000;

export interface DirtyOptions {
  seeds: readonly number[];
  sizes: readonly number[];
}

/** What is measured on scan-like and CAD-like meshes. */
export async function benchDirty(
  tell: Tell,
  { seeds, sizes }: DirtyOptions,
): Promise<void> {
  await MeshoptSimplifier.ready;
  const families: [string, (seed: number, size: number) => Mesh][] = [
    ["scan", (seed, size) => scanLike(seed, size, seed % 2 ? {} : DIRTY)],
    [
      "cad",
      (seed, size) =>
        size > LARGE ? cadMachine(seed, size) : cadPart(seed, size),
    ],
  ];
  const all: Compared[] = [];
  for (const [family, make] of families)
    for (const size of sizes)
      for (const seed of seeds) {
        const mesh = make(seed, size);
        for (const budget of BUDGETS)
          all.push(compare(tell, mesh, budget, `${family} ${size} #${seed}`));
      }
  for (const seed of seeds) await assembly(tell, seed);
  for (const seed of seeds) mending(tell, seed);
  for (const size of sizes)
    for (const seed of seeds) {
      const scan = scanLike(seed, size, seed % 2 ? {} : DIRTY);
      await dirtyRoute(tell, scan, `scan ${size} #${seed}`);
    }
  const [big] = sizes.filter((size) => size >= 1e6);
  if (big) settling(tell, scanLike(seeds[0], big, DIRTY));
  const summed: [string, (one: Compared) => number, number, number][] = [
    ["rms, × the simplifier's", (one) => one.rms, 0.55, 0.8],
    ["largest, × the simplifier's", (one) => one.max, 0.8, 1.2],
    ["normals, × the simplifier's", (one) => one.turn, 1, 1],
  ];
  for (const [what, of, mean, most] of summed) {
    const values = all.filter(({ shows }) => shows).map(of);
    const sum = values.reduce((total, x) => total + x, 0);
    tell(`${what}, mean`, "all", sum / values.length, `≤ ${mean}`);
    tell(`${what}, worst`, "all", Math.max(...values), `≤ ${most}`);
  }
}

interface Compared {
  /** Whether either side is far enough off to show. */
  shows: boolean;
  rms: number;
  max: number;
  turn: number;
}

function compare(tell: Tell, mesh: Mesh, budget: number, of: string): Compared {
  const on = `${of} → ${budget}`;
  const soup = gatherSoup([mesh]);
  const source = plainSurface(soup);
  const [reference, theirs] = timed(() => simplified(source, budget));
  const [own, ours] = timed(() => reduced([mesh], budget));
  const reached = reference.length / 3;
  const count = own.reduce((sum, one) => sum + triangleCount(one), 0);
  const compared =
    Math.abs(reached - budget) > 0.01 * budget ? reduced([mesh], reached) : own;
  const game = about(soup.centre, surfaceOf(compared));
  const other = { positions: source.positions, triangles: reference };
  const mine = measureDeviation(source, game);
  const its = measureDeviation(source, other);
  const found = {
    shows: Math.max(mine.rms, its.rms) > UNSEEN,
    rms: Math.max(UNSEEN, mine.rms) / Math.max(UNSEEN, its.rms),
    max: Math.max(UNSEEN, mine.max) / Math.max(UNSEEN, its.max),
    turn: turned(source, game) / turned(source, other),
  };
  const least = Math.min(budget, soup.owner.length);
  tell("triangles", on, count, `≤ ${budget}, ≥ ${Math.ceil(0.99 * least)}`);
  tell("reached by the simplifier", on, reached, "");
  tell("faces without area", on, withoutArea(own), "0");
  tell("non-manifold edges", on, nonManifold(own), "0");
  tell("rms, × the simplifier's", on, found.rms, "≤ 0.8");
  tell("largest, × the simplifier's", on, found.max, "≤ 1.2");
  tell("normals, × the simplifier's", on, found.turn, "≤ 1");
  tell("time, × the simplifier's", on, ours / theirs, "");
  return found;
}

/** Faces whose height is less than a millionth of their longest edge. */
function withoutArea(meshes: readonly Mesh[]): number {
  let count = 0;
  for (const { positions: p, corners } of meshes)
    for (let t = 0; t < corners.length / 3; t++) {
      let longest2 = 0;
      for (let k = 0; k < 3; k++) {
        const a = 3 * corners[3 * t + k];
        const b = 3 * corners[3 * t + ((k + 1) % 3)];
        longest2 = Math.max(
          longest2,
          (p[a] - p[b]) ** 2 +
            (p[a + 1] - p[b + 1]) ** 2 +
            (p[a + 2] - p[b + 2]) ** 2,
        );
      }
      if (!(2 * triangleArea(p, corners, t) > 1e-6 * longest2)) count++;
    }
  return count;
}

const nonManifold = (meshes: readonly Mesh[]) =>
  meshes.reduce(
    (sum, mesh) =>
      sum + buildEdges(mesh).uses.filter((uses) => uses > 2).length,
    0,
  );

/** Mean angle, degrees, between the faces of a reduced mesh and the source's where it is nearest. */
function turned(source: Surface, game: Surface): number {
  const closest = new ClosestPoint(
    buildBvh(source.positions, source.triangles),
  );
  const { points, triangles } = sampleSurface(
    game.positions,
    game.triangles,
    20_000,
    5,
  );
  const reach = 1e-6 * diagonalOf(boundsOf(source.positions));
  let sum = 0;
  for (let i = 0; i < triangles.length; i++) {
    const t = closest.find(
      points[3 * i] + reach,
      points[3 * i + 1],
      points[3 * i + 2],
    );
    const cos = dot(normalOf(source, t), normalOf(game, triangles[i]));
    sum += Math.acos(Math.max(-1, Math.min(1, cos)));
  }
  return ((sum / triangles.length) * 180) / Math.PI;
}

const normalOf = ({ positions, triangles }: Surface, t: number) =>
  unit(
    cross(
      positions,
      triangles[3 * t],
      triangles[3 * t + 1],
      triangles[3 * t + 2],
    ),
  );

/** What of an assembly of sixty parts, half of them inside, gets a tenth of its triangles. */
async function assembly(tell: Tell, seed: number): Promise<void> {
  const { parts, hidden } = cadAssembly(seed, 60, 110_000);
  const budget = Math.round(
    parts.reduce((sum, { mesh }) => sum + triangleCount(mesh), 0) / 10,
  );
  const { asset } = await runOperation(
    findOperation("reduce/to-budget"),
    createAsset(
      "assembly",
      parts.map(({ name, mesh }, i) => createPart(name, i, { source: mesh })),
    ),
    { triangles: budget, measure: false },
    plainContext(),
  );
  const on = `assembly #${seed} → ${budget}`;
  const triangles = (names: (name: string) => boolean) =>
    asset.parts.reduce(
      (sum, { name, game }) =>
        sum + (game && names(name) ? triangleCount(game) : 0),
      0,
    );
  const all = triangles(() => true);
  tell("triangles", on, all, `≤ ${budget}, ≥ ${Math.ceil(0.99 * budget)}`);
  tell(
    "share of them in hidden parts",
    on,
    triangles((name) => hidden.includes(name)) / all,
    "≤ 0.02",
  );
  const visible = asset.parts.filter(({ name }) => !hidden.includes(name));
  const soup = gatherSoup(visible.map(({ source }) => source!));
  const source = plainSurface(soup);
  const game = about(soup.centre, surfaceOf(visible.map((part) => part.game)));
  // The simplifier gets the whole, hidden parts and all, at the same count.
  const whole = gatherSoup(parts.map(({ mesh }) => mesh));
  const other = plainSurface(whole);
  const theirs = {
    positions: other.positions.map(
      (x, i) => x + whole.centre[i % 3] - soup.centre[i % 3],
    ),
    triangles: keptBy(
      whole,
      simplified(other, budget),
      (m) => !hidden.includes(parts[m].name),
    ),
  };
  tell(
    "rms over what is seen, × the simplifier's",
    on,
    Math.max(UNSEEN, measureDeviation(source, game).rms) /
      Math.max(UNSEEN, measureDeviation(source, theirs).rms),
    "≤ 0.4",
  );
  tell("normals of what is seen, °", on, turned(source, game), "≤ 12");
}

/** Triangles of a simplified soup that belong to some of its meshes: vertices keep their numbers. */
function keptBy(
  soup: Soup,
  triangles: Uint32Array,
  wanted: (mesh: number) => boolean,
): Uint32Array {
  const owner = new Uint16Array(soup.positions.length / 3);
  soup.triangles.forEach((v, c) => (owner[v] = soup.owner[(c / 3) | 0]));
  return triangles.filter((_, c) =>
    wanted(owner[triangles[3 * Math.floor(c / 3)]]),
  );
}

/** All mends on a scan that merging left badly. */
function mending(tell: Tell, seed: number): void {
  const scan = scanLike(seed, 200_000, {
    ...DIRTY,
    duplicates: 400,
    fins: 250,
  });
  const on = `scan of ${triangleCount(scan)}, ${nonManifold([scan])} non-manifold edges #${seed}`;
  const [{ mesh, crossing }, time] = timed(() =>
    mendMesh(scan, new Set(MENDS.map(({ value }) => value)), {
      tolerance: 1e-6,
    }),
  );
  const uses = [...buildEdges(mesh).uses];
  const surface = (of: Mesh) => ({
    positions: of.positions,
    triangles: triangulate(of).vertices,
  });
  const far = measureDeviation(surface(mesh), surface(scan));
  const edge = meanEdge(scan) / diagonalOf(boundsOf(scan.positions));
  tell("mend all, s", on, time / 1000, "≤ 10");
  tell("open edges", on, uses.filter((n) => n === 1).length, "0");
  tell("non-manifold edges", on, uses.filter((n) => n > 2).length, "0");
  tell("faces that still cross", on, crossing, "0");
  tell("rms off, edges", on, far.rms / edge, "");
  tell("farthest off, edges", on, far.max / edge, "≤ 2");
}

function settling(tell: Tell, mesh: Mesh): void {
  let least = Infinity;
  for (let round = 0; round < 3; round++)
    least = Math.min(least, timed(() => settleMesh(mesh))[1]);
  tell("settle, s, best of three", "scan 1 M", least / 1000, "≤ 1.5");
}
