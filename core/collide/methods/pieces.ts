import { volumeOf, roughHull } from "./convex-hull";
import type { ConvexMesh } from "../../mesh/hull";
import { boundsOf, diagonalOf } from "../../space/bounds";
import type { Fold } from "./cut-planes";
import type { Plane, Surface } from "./half-space";
import { joinSurfaces } from "./half-space";

/** A piece of a solid that one hull is to stand for. */
export interface Piece {
  /** Number of the solid that it is of, or most of it. */
  of: number;
  /** How many hulls it stands for. */
  times: number;
  /** What of which shell it is: all that lies below every plane. */
  cells: { shell: number; planes: Plane[] }[];
  surface: Surface;
  folds: Fold[];
  hull: ConvexMesh;
  volume: number;
  size: number;
  /** How far the hull stands off the solid, found when first asked for; metres. */
  off?: number;
  /** Planes that it may well be cut by and what each frees, m³, the most first; found when first asked for. */
  tried?: { plane: Plane; freed: number }[];
  /** The best cut, found when first asked for; null where none is worth it. */
  cut?: Cut | null;
  /** What it comes to with each other piece, as far as that was asked for. */
  joints?: Map<Piece, Joint | null>;
}

/** What a piece falls into, and how much less that costs. */
export interface Cut {
  gain: number;
  sides: Piece[];
}

/** Two pieces as one. */
export interface Joint {
  of: readonly [Piece, Piece];
  hull: ConvexMesh;
  volume: number;
  /** How far the hull of both stands off, metres; null as long as that was not asked for. */
  off: number | null;
  /** What the hull of both costs more than the two apart, at least, as long as `off` is not known. */
  cost: number;
}

/** Vertices of the hull of a piece. */
export const ROUGH = 40;

/** A piece from its surface; null where it is flat. */
export function pieceOf(
  made: Pick<Piece, "of" | "times" | "cells" | "surface" | "folds">,
): Piece | null {
  const hull = roughHull(made.surface.positions, ROUGH);
  return (
    hull && {
      ...made,
      hull,
      volume: volumeOf(hull.positions, hull.triangles),
      size: diagonalOf(boundsOf(hull.positions)),
    }
  );
}

/** How many hulls pieces stand for. */
export const countOf = (pieces: readonly Piece[]) =>
  pieces.reduce((sum, piece) => sum + piece.times, 0);

/** What the hulls of pieces hold together, m³. */
export const volumeOfAll = (pieces: readonly Piece[]) =>
  pieces.reduce((sum, { volume }) => sum + volume, 0);

/** Two pieces as the one that they are together. */
export function joined({ of: [one, other], hull, volume, off }: Joint): Piece {
  const { of, times } = one.volume >= other.volume ? one : other;
  return {
    of,
    times,
    cells: [...one.cells, ...other.cells],
    surface: joinSurfaces(one.surface, other.surface),
    folds: [...one.folds, ...other.folds],
    hull,
    volume,
    size: diagonalOf(boundsOf(hull.positions)),
    off: off ?? undefined,
  };
}
