import type { Mesh } from "../../mesh/mesh";
import { meshFromTriangles } from "../../mesh/change-faces";
import { triangulate } from "../../mesh/triangulate";
import { coincident } from "../../mesh/weld";
import { clusterMesh } from "../../decimate/cluster";
import { UnionFind } from "../../base/union-find";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { ConvexMesh } from "../../mesh/hull";
import { convexHull } from "./convex-hull";
import { foldsOf } from "./cut-planes";
import type { DecomposeOptions, Piece } from "./decompose";
import { decompose, pieceOf } from "./decompose";
import type { Plane, Surface } from "./half-space";
import { heightOf, partBelow } from "./half-space";
import { StandOff } from "./stand-off";

/** Triangles that cuts are tried on; more are made into fewer for it. */
const ROUGH_TRIANGLES = 6000;
/** Shells that are smaller than this share of the largest, or more than this many, go with the one they are nearest to. */
const TINY = 0.1;
const MOST_SHELLS = 48;

/**
 * Covers solids with convex hulls, see `decompose`.
 * @param solids what hulls are to stand for: pieces of different ones are joined only where the limit asks for it
 * @param vertices of a hull at the most
 * @param times how often each solid stands somewhere: that many hulls count for one of it, which is joined with no
 *   other where that is more than once. So there can be more than `options.most`
 * @returns the hulls, with the number of the solid that each is of
 */
export function hullsOf(
  solids: readonly Mesh[],
  options: DecomposeOptions & { vertices: number },
  check: () => void,
  times: readonly number[] = solids.map(() => 1),
): { hull: ConvexMesh; of: number }[] {
  const shells = solids.flatMap((solid, of) =>
    shellsOf(solid).map((surface) => ({ surface, of })),
  );
  const all = shells.reduce(
    (sum, { surface }) => sum + surface.triangles.length / 3,
    0,
  );
  const rough = shells.map(({ surface }) =>
    all <= ROUGH_TRIANGLES ? surface : roughOf(surface, all),
  );
  const pieces = shells.flatMap(
    ({ of }, shell) =>
      pieceOf({
        of,
        times: times[of],
        cells: [{ shell, planes: [] }],
        surface: rough[shell],
        folds: foldsOf(rough[shell]),
      }) ?? [],
  );
  if (!pieces.length) return [];
  const stand = standOffOf(rough);
  return decompose(pieces, options, stand, check).flatMap((piece) => {
    const points = pointsOf(piece, shells);
    const hull = convexHull(points, options.vertices);
    return hull ? [{ hull, of: piece.of }] : [];
  });
}

function standOffOf(surfaces: readonly Surface[]): StandOff {
  const positions: number[] = [];
  const triangles: number[] = [];
  for (const surface of surfaces) {
    const first = positions.length / 3;
    for (const x of surface.positions) positions.push(x);
    for (const v of surface.triangles) triangles.push(first + v);
  }
  return new StandOff(Float32Array.from(positions), triangles);
}

/** All points of what a piece is made of, cut as finely as the solids are: 3 × n, metres. */
function pointsOf(
  { cells }: Piece,
  shells: readonly { surface: Surface }[],
): Float64Array {
  const points: number[] = [];
  for (const { shell, planes } of cells) {
    let { surface } = shells[shell];
    const near = 1e-7 * diagonalOf(boundsOf(surface.positions));
    for (const plane of planes)
      if (crosses(surface, plane, near))
        surface = partBelow(surface, plane, near);
    for (const x of surface.positions) points.push(x);
  }
  return Float64Array.from(points);
}

function crosses({ positions }: Surface, plane: Plane, near: number): boolean {
  for (let v = 0; v < positions.length / 3; v++)
    if (heightOf(plane, positions, v) > near) return true;
  return false;
}

/** A solid's shells: what is joined through shared places, the tiny ones with the one that they are nearest to. */
function shellsOf(solid: Mesh): Surface[] {
  const { positions } = solid;
  const target = coincident(positions, 0);
  const triangles = triangulate(solid).vertices.map((v) => target[v]);
  const joined = new UnionFind(positions.length / 3);
  for (let t = 0; t < triangles.length; t += 3) {
    joined.join(triangles[t], triangles[t + 1]);
    joined.join(triangles[t], triangles[t + 2]);
  }
  const lists = new Map<number, number[]>();
  for (let t = 0; t < triangles.length; t += 3) {
    const root = joined.find(triangles[t]);
    const list = lists.get(root);
    if (list) list.push(t);
    else lists.set(root, [t]);
  }
  const boxes = [...lists.values()].map((list) => {
    const min = [Infinity, Infinity, Infinity];
    const max = [-Infinity, -Infinity, -Infinity];
    for (const t of list)
      for (let c = t; c < t + 3; c++)
        for (let k = 0; k < 3; k++) {
          const x = positions[3 * triangles[c] + k];
          min[k] = Math.min(min[k], x);
          max[k] = Math.max(max[k], x);
        }
    const size = Math.hypot(...max.map((x, k) => x - min[k]));
    return { list, min, max, size };
  });
  boxes.sort((a, b) => b.size - a.size);
  const large = boxes.filter(
    ({ size }, i) => i < MOST_SHELLS && size >= TINY * boxes[0].size,
  );
  const lots = large.map(({ list }) => [...list]);
  for (const box of boxes.slice(large.length)) {
    let nearest = 0;
    let least = Infinity;
    large.forEach((each, i) => {
      const gap = Math.hypot(
        ...[0, 1, 2].map((k) =>
          Math.max(0, box.min[k] - each.max[k], each.min[k] - box.max[k]),
        ),
      );
      // Of those that hold it the smallest.
      if (gap <= least) {
        least = gap;
        nearest = i;
      }
    });
    for (const t of box.list) lots[nearest].push(t);
  }
  return lots.map((list) => surfaceOf(positions, triangles, list));
}

function surfaceOf(
  positions: Float32Array,
  corners: Uint32Array,
  list: readonly number[],
): Surface {
  const names = new Map<number, number>();
  const points: number[] = [];
  const triangles = new Uint32Array(3 * list.length);
  let at = 0;
  for (const t of list)
    for (let c = t; c < t + 3; c++) {
      const v = corners[c];
      let name = names.get(v);
      if (name === undefined) {
        name = names.size;
        names.set(v, name);
        points.push(
          positions[3 * v],
          positions[3 * v + 1],
          positions[3 * v + 2],
        );
      }
      triangles[at++] = name;
    }
  return {
    positions: Float64Array.from(points),
    triangles,
    outlines: new Uint32Array(0),
  };
}

/** Fewer triangles, as many as are its share of all. */
function roughOf(surface: Surface, all: number): Surface {
  const share = surface.triangles.length / 3 / all;
  const mesh = meshFromTriangles(
    Float32Array.from(surface.positions),
    surface.triangles,
  );
  const made = clusterMesh(mesh, Math.max(200, ROUGH_TRIANGLES * share));
  return {
    positions: Float64Array.from(made.positions),
    triangles: made.corners,
    outlines: surface.outlines,
  };
}
