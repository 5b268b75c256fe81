import { joinArrays } from "../../base/join-arrays";
import type { Mesh } from "../../mesh/mesh";
import { meshFromTriangles } from "../../mesh/change-faces";
import { triangulate } from "../../mesh/triangulate";
import { coincident } from "../../mesh/weld";
import { clusterMesh } from "../../decimate/cluster";
import { Collapser } from "../../decimate/collapse";
import { gatherSoup, scatterSoup } from "../../decimate/soup";
import { piecesIn } from "../../asset/pieces";
import type { Context } from "../../base/context";
import type { Bounds } from "../../space/bounds";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { ConvexMesh } from "../../mesh/hull";
import { convexHull } from "./convex-hull";
import { foldsOf } from "./cut-planes";
import type { DecomposeOptions } from "./decompose";
import { decompose } from "./decompose";
import type { Plane, Surface } from "./half-space";
import { NEAR, joinSurfaces } from "./half-space";
import { partBelow } from "./part-below";
import type { Piece } from "./pieces";
import { pieceOf } from "./pieces";
import { StandOff } from "./stand-off";

/** Triangles that cuts are tried on; more are made into fewer for it. */
const ROUGH_TRIANGLES = 3000;
/** Triangles that are made into those, of more a light look-alike. */
const LIGHT_TRIANGLES = 70_000;
/** Shells that are smaller than this share of the largest, or more than this many, go with the one they are nearest to. */
const TINY = 0.1;
const MOST_SHELLS = 48;

/**
 * Covers solids with convex hulls, see `decompose`.
 * @param solids what hulls are to stand for: pieces of different ones are joined only where the limit asks for it
 * @param vertices of a hull at the most
 * @param times how often each solid stands somewhere: that many hulls count for one of it, which is joined with no
 *   other where that is more than once. So there can be more than `options.most`
 * @returns the hulls, with what each holds (3 × n, metres) and the number of the solid that it is of
 */
export function hullsOf(
  solids: readonly Mesh[],
  options: DecomposeOptions & { vertices: number },
  context: Context,
  times: readonly number[] = solids.map(() => 1),
): { hull: ConvexMesh; points: ArrayLike<number>; of: number }[] {
  const check = () => context.check();
  context.progress(0, "looking for shells");
  const shells = solids.flatMap((solid, of) => {
    check();
    return shellsOf(solid).map((surface) => ({ surface, of }));
  });
  const surfaces = shells.map(({ surface }) => surface);
  const all = surfaces.reduce(
    (sum, { triangles }) => sum + triangles.length / 3,
    0,
  );
  const { light, rough } =
    all <= ROUGH_TRIANGLES
      ? { light: surfaces, rough: surfaces }
      : roughOf(surfaces, check);
  const pieces = attachFlat(
    shells.map(({ of }, shell) => ({
      of,
      times: times[of],
      cells: [{ shell, planes: [] }],
      surface: rough[shell],
      folds: foldsOf(rough[shell]),
    })),
  );
  if (!pieces.length) return [];
  const stand = standOffOf(light);
  const made = decompose(pieces, options, stand, context);
  return pointsOf(made, surfaces, check).flatMap((lists) => {
    check();
    const points = joinArrays(
      Float64Array,
      lists.map((list) => list.points),
    );
    const hull = convexHull(points, options.vertices);
    return hull ? [{ hull, points, of: ownerOf(lists, shells) }] : [];
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

/** The solid that most of a piece is of: the one that reaches farthest in it. */
function ownerOf(
  lists: readonly ShellPoints[],
  shells: readonly { of: number }[],
): number {
  let owner = shells[lists[0].shell].of;
  let most = -1;
  for (const { of } of shells) {
    const own = lists.filter(({ shell }) => shells[shell].of === of);
    const size = diagonalOf(boundsOf(...own.map(({ points }) => points)));
    if (size <= most) continue;
    most = size;
    owner = of;
  }
  return owner;
}

/** Points of one shell that a piece holds: 3 × n, metres. */
interface ShellPoints {
  shell: number;
  points: Float64Array;
}

/**
 * All points of what pieces are made of, cut as finely as the solids are: 3 × n for each, metres. What several pieces
 * were cut by is cut once.
 */
function pointsOf(
  pieces: readonly Piece[],
  shells: readonly Surface[],
  check: () => void,
): ShellPoints[][] {
  const lists = pieces.map((): ShellPoints[] => []);
  const cells = pieces.flatMap((piece, i) =>
    piece.cells.map((cell) => ({ ...cell, piece: i })),
  );
  shells.forEach((surface, shell) => {
    const near = NEAR * diagonalOf(boundsOf(surface.positions));
    const gather = (
      surface: Surface,
      depth: number,
      inside: readonly (typeof cells)[number][],
    ) => {
      const further = new Map<Plane, (typeof cells)[number][]>();
      for (const cell of inside) {
        const plane = cell.planes.at(depth);
        if (plane) {
          const list = further.get(plane);
          if (list) list.push(cell);
          else further.set(plane, [cell]);
        } else lists[cell.piece].push({ shell, points: surface.positions });
      }
      check();
      for (const [plane, list] of further)
        gather(partBelow(surface, plane, near), depth + 1, list);
    };
    gather(
      surface,
      0,
      cells.filter((cell) => cell.shell === shell),
    );
  });
  return lists;
}

/** A solid's shells: what is joined through shared places, the tiny ones with the one that they are nearest to. */
function shellsOf(solid: Mesh): Surface[] {
  const mesh = meshFromTriangles(solid.positions, triangulate(solid).vertices);
  const shells = piecesIn("", mesh).sort((a, b) => b.diagonal - a.diagonal);
  const large = shells.filter(
    ({ diagonal }, i) =>
      i < MOST_SHELLS && diagonal >= TINY * shells[0].diagonal,
  );
  const lots = large.map(({ faces }) => [...faces]);
  for (const shell of shells.slice(large.length)) {
    let nearest = 0;
    let least = Infinity;
    large.forEach((each, i) => {
      const gap = gapOf(shell, each);
      // Of those that hold it the smallest.
      if (gap <= least) {
        least = gap;
        nearest = i;
      }
    });
    for (const f of shell.faces) lots[nearest].push(f);
  }
  const target = coincident(solid.positions, 0);
  const corners = mesh.corners.map((v) => target[v]);
  // A vertex is in one shell alone: what is joined is one.
  const names = new Int32Array(solid.positions.length / 3).fill(-1);
  return lots.map((faces) => surfaceOf(solid.positions, corners, faces, names));
}

/** @param names vertexCount: −1, for those of its faces their numbers in the surface after it */
function surfaceOf(
  positions: Float32Array,
  corners: Uint32Array,
  faces: readonly number[],
  names: Int32Array,
): Surface {
  const triangles = new Uint32Array(3 * faces.length);
  const points = new Float64Array(9 * faces.length);
  let count = 0;
  let at = 0;
  for (const f of faces)
    for (let c = 3 * f; c < 3 * f + 3; c++) {
      const v = corners[c];
      let name = names[v];
      if (name < 0) {
        name = names[v] = count++;
        points[3 * name] = positions[3 * v];
        points[3 * name + 1] = positions[3 * v + 1];
        points[3 * name + 2] = positions[3 * v + 2];
      }
      triangles[at++] = name;
    }
  return {
    positions: points.slice(0, 3 * count),
    triangles,
    outlines: new Uint32Array(0),
  };
}

/**
 * Surfaces of fewer triangles, dealt out by what they are worth: rough ones to try cuts on, and lighter ones to tell how
 * far hulls stand off, as the rough ones fill what is narrow. One of which nothing would be left stays as it is.
 */
function roughOf(
  surfaces: readonly Surface[],
  check: () => void,
): { light: Surface[]; rough: Surface[] } {
  const most = LIGHT_TRIANGLES / surfaces.length;
  const meshes = surfaces.map(({ positions, triangles }) => {
    check();
    const mesh = meshFromTriangles(Float32Array.from(positions), triangles);
    return triangles.length / 3 > most ? clusterMesh(mesh, most) : mesh;
  });
  const surfaceOr = (i: number, made: Mesh | null): Surface =>
    made?.corners.length
      ? {
          positions: Float64Array.from(made.positions),
          triangles: made.corners,
          outlines: new Uint32Array(0),
        }
      : surfaces[i];
  const light = meshes.map((mesh, i) => surfaceOr(i, mesh));
  const soup = gatherSoup(meshes, check);
  new Collapser(soup, meshes.length).run(ROUGH_TRIANGLES, {
    check,
    progress() {},
  });
  const rough = scatterSoup(
    soup,
    meshes.map(({ materials }) => materials),
  ).map((made, i) => surfaceOr(i, made));
  return { light, rough };
}

/** Pieces; what is flat by itself goes with the nearest of the same solid that is not. */
function attachFlat(
  made: readonly Pick<Piece, "of" | "times" | "cells" | "surface" | "folds">[],
): Piece[] {
  const pieces = made.map((each) => pieceOf(each));
  const solid = pieces.filter((piece) => piece !== null);
  const boxes = solid.map(({ surface }) => boundsOf(surface.positions));
  const more = new Map<Piece, (typeof made)[number]>();
  pieces.forEach((piece, i) => {
    if (piece) return;
    const box = boundsOf(made[i].surface.positions);
    let nearest = -1;
    let least = Infinity;
    solid.forEach(({ of }, k) => {
      if (of !== made[i].of) return;
      const gap = gapOf(box, boxes[k]);
      if (gap >= least) return;
      least = gap;
      nearest = k;
    });
    if (nearest < 0) return;
    const host = more.get(solid[nearest]) ?? solid[nearest];
    more.set(solid[nearest], {
      ...host,
      cells: [...host.cells, ...made[i].cells],
      surface: joinSurfaces(host.surface, made[i].surface),
    });
  });
  return solid.map((piece) => pieceOf(more.get(piece) ?? piece) ?? piece);
}

/** How far apart two boxes are, metres. */
const gapOf = (a: Bounds, b: Bounds): number =>
  Math.hypot(
    ...[0, 1, 2].map((k) =>
      Math.max(0, a.min[k] - b.max[k], b.min[k] - a.max[k]),
    ),
  );
