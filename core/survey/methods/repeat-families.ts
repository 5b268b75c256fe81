import type { Asset } from "../../asset/asset";
import { faceCount, triangleCount, vertexCount } from "../../mesh/mesh";
import type { Matrix } from "../../mesh/transform";
import type { Piece } from "../../asset/pieces";
import { findFamilies, mirrors } from "./repeats";

/** One of a family of the same: a whole part, or a piece within one. */
export interface RepeatMember {
  part: string;
  /** Number of the piece within its part, or −1 for the whole part. */
  piece: number;
  matrix: Matrix;
}

export interface FoundFamily {
  part: string;
  piece: number;
  /** Triangles of one. */
  triangles: number;
  mirrored: number;
  scaled: number;
  copies: RepeatMember[];
}

/** Pieces smaller than this are not worth placing. */
const LEAST_TRIANGLES = 4;
/** Most pieces that are compared. */
const MOST_PIECES = 20_000;

/**
 * Finds parts, and pieces within parts, that are the same moved, turned, scaled or mirrored.
 * @param found the pieces of the asset
 * @param tolerance metres
 */
export function familiesOf(
  asset: Asset,
  found: readonly Piece[],
  tolerance: number,
  check: () => void,
): FoundFamily[] {
  const slack = Math.max(tolerance, 1e-5);
  const parts = asset.parts.filter((part) => part.source && !part.repeat);
  const wholes = parts.map((part) => {
    const source = part.source!;
    return {
      item: { part: part.name, piece: -1, triangles: triangleCount(source) },
      vertices: vertexCount(source),
      faces: faceCount(source),
      corners: source.corners.length,
      points: () => source.positions,
    };
  });
  const families = findFamilies(wholes, slack, check);
  const inFamily = new Set(
    families.flatMap(({ first, copies }) => [
      first.part,
      ...copies.map(({ item }) => item.part),
    ]),
  );
  const counts = new Map<string, number>();
  for (const { part } of found) counts.set(part, (counts.get(part) ?? 0) + 1);
  const pieces = found
    .filter(
      (piece) =>
        !inFamily.has(piece.part) &&
        counts.get(piece.part)! > 1 &&
        piece.triangles >= LEAST_TRIANGLES,
    )
    .slice(0, MOST_PIECES);
  const among = findFamilies(
    pieces.map((piece) => ({
      item: {
        part: piece.part,
        piece: piece.index,
        triangles: piece.triangles,
      },
      vertices: piece.vertices.length,
      faces: piece.faces.length,
      corners: piece.triangles + 2 * piece.faces.length,
      points: () => pointsOf(piece),
    })),
    slack,
    check,
  );
  return [...families, ...among].map(({ first, copies }) => ({
    ...first,
    mirrored: copies.filter(({ matrix }) => mirrors(matrix)).length,
    scaled: copies.filter(({ matrix }) => Math.abs(scaleOf(matrix) - 1) > 1e-6)
      .length,
    copies: copies.map(({ item, matrix }) => ({
      part: item.part,
      piece: item.piece,
      matrix,
    })),
  }));
}

const scaleOf = (m: Matrix) => Math.hypot(m[0], m[1], m[2]);

function pointsOf(piece: Piece): Float32Array {
  const points = new Float32Array(3 * piece.vertices.length);
  piece.vertices.forEach((v, i) =>
    points.set(piece.mesh.positions.subarray(3 * v, 3 * v + 3), 3 * i),
  );
  return points;
}
