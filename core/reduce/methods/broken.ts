import { seekMeshes } from "../../decimate/reduce-together";
import { allocationOf } from "../../decimate/kept-record";
import type { KeptRecord } from "../../decimate/kept-record";
import { kneesOf } from "../../asset/knee";
import type { CollapseRecord } from "../../decimate/collapse-record";
import { allocateBudget, errorCurves } from "../../decimate/collapse-record";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { standInFor } from "../../remesh/stand-in/stand-in";
import { triangulate } from "../../mesh/triangulate";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { measureDeviation } from "../../space/deviation";
import type { UnbrokenCounts } from "./broken-words";

/** A box has so many triangles: with fewer a part that breaks is a shard. */
const BOX = 12;
/** The shapes that are tried, their sides, and how many triangles they have: none finer, that is what reducing is for. */
const SHAPES = [
  ["box", 4, BOX],
  ["prism", 6, 20],
  ["prism", 10, 36],
] as const;
/** A shape whose normals are farther off on average shows something else, however near it lies; radians. */
const LIKE = 0.4;
/** Points that a broken part is rated by. */
const POINTS = 4000;

/** What stands in place of parts that a budget under the knee of its curve breaks. */
export interface Unbroken {
  /** Shapes by the part's name; null for one that is only baked. */
  instead: Map<string, Mesh | null>;
  /** What they are and cost all together, repeats counted. */
  shapes: UnbrokenCounts["shapes"];
  triangles: number;
}

/** A part of the record. */
export type BreakingPart = KeptRecord["parts"][number] & {
  /** The source that is reduced. */
  mesh: Mesh;
  /** Whether something may stand in its place. */
  free: boolean;
};

/**
 * Finds what can stand for parts that break under a budget: a simple shape of no more triangles that comes nearer
 * than what reducing leaves, and nothing, to be baked only, where that would be a shard.
 * @param parts those of the record, in its order
 * @param budget of all of them, placed
 */
export function insteadOfBroken(
  record: CollapseRecord,
  parts: readonly BreakingPart[],
  budget: number,
  own: Readonly<Record<string, number>>,
  cap: Readonly<Record<string, number>>,
  check: () => void,
): Unbroken {
  const found: Unbroken = { instead: new Map(), shapes: [], triangles: 0 };
  const deal = allocationOf(parts, budget, own, cap);
  const { triangles } = allocateBudget(record, deal);
  const { all, meshes } = errorCurves(record, (m) => parts[m].times);
  const { breaking } = kneesOf(
    all,
    parts.flatMap(({ name, mesh, free }, m) =>
      free
        ? [{ name, source: mesh, curve: meshes[m], triangles: triangles[m] }]
        : [],
    ),
    budget,
  );
  if (!breaking.length) return found;
  const left = seekMeshes(
    record,
    parts.map(({ materials }) => materials),
    deal,
  );
  let room =
    budget - parts.reduce((sum, { times }, m) => sum + times * triangles[m], 0);
  parts.forEach(({ name, mesh, times }, m) => {
    if (!breaking.includes(name)) return;
    check();
    const count = triangles[m];
    const most = Math.max(
      count,
      Math.min(BOX, count + Math.floor(room / times)),
    );
    const far = distanceOf(mesh, left[m]);
    const shape = shapeFor(mesh, most, check);
    const better = shape !== null && shape.rms < far;
    if (!better && count >= BOX) return;
    found.instead.set(name, better ? shape.mesh : null);
    const cost = better ? shape.triangles : 0;
    room += times * (count - cost);
    if (!better) return;
    found.shapes.push({ part: name, shape: shape.shapes[0], triangles: cost });
    found.triangles += times * cost;
  });
  return found;
}

/** The shape of at most so many triangles that comes nearest; null where none does. */
function shapeFor(mesh: Mesh, most: number, check: () => void) {
  const marks = new Uint8Array(faceCount(mesh)).fill(1);
  let best: ReturnType<typeof standInFor> = null;
  for (const [shape, sides, triangles] of SHAPES) {
    if (triangles > most) continue;
    const options = { shape, sides, rings: 0, capped: true };
    const made = standInFor(mesh, marks, options, false, check);
    if (!made || made.triangles > most || made.turned > LIKE) continue;
    if (!best || made.rms < best.rms) best = made;
  }
  return best;
}

/** Root mean square distance between a source and what is left of it, metres. */
function distanceOf(source: Mesh, game: Mesh | null): number {
  if (!game?.corners.length) return Infinity;
  const surface = (mesh: Mesh) => ({
    positions: mesh.positions,
    triangles: triangulate(mesh).vertices,
  });
  return (
    measureDeviation(surface(source), surface(game), POINTS).rms *
    diagonalOf(boundsOf(source.positions))
  );
}
