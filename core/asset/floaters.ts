import { toRanges } from "../base/ranges";
import type { Piece } from "./pieces";
import { PieceDistances, someVertices } from "./pieces";

/** Pieces of one part that lie on one host without being joined to it. */
export interface Floaters {
  host: string;
  part: string;
  pieces: number;
  triangles: number;
  /** Faces of the part in short form. */
  faces: string;
  /** Whether all of these faces are for the source only already. */
  sourceOnly: boolean;
}

/** A floater is at most this share of its host's size, and no farther off than this share of its own. */
const SMALL = 0.25;
const NEAR = 0.08;

/**
 * Finds floating detail: small pieces that lie on, just above or slightly in a larger one.
 * @returns groups by host and part, and the numbers of the pieces concerned
 */
export function findFloaters(
  pieces: readonly Piece[],
  distances: PieceDistances,
  check: () => void,
): { groups: Floaters[]; floating: Set<number> } {
  const floating = new Set<number>();
  const groups = new Map<string, Floaters & { list: number[] }>();
  const largest = pieces.reduce(
    (most, piece) => Math.max(most, piece.diagonal),
    0,
  );
  pieces.forEach((piece, i) => {
    if ((i & 255) === 0) check();
    if (piece.diagonal > SMALL * largest || piece.diagonal === 0) return;
    const p = piece.mesh.positions;
    let nearest = Infinity;
    let host = -1;
    let sum = 0;
    const some = someVertices(piece, 24);
    for (const v of some) {
      const d = Math.abs(
        distances.signed(
          i,
          p[3 * v],
          p[3 * v + 1],
          p[3 * v + 2],
          piece.diagonal,
        ),
      );
      sum += Math.min(d, piece.diagonal);
      if (
        d < nearest &&
        pieces[distances.found].diagonal * SMALL >= piece.diagonal
      ) {
        nearest = d;
        host = distances.found;
      }
    }
    if (host < 0 || nearest > NEAR * piece.diagonal) return;
    if (sum / some.length > 0.6 * piece.diagonal) return;
    floating.add(i);
    const key = `${pieces[host].part}\n${piece.part}`;
    const group = groups.get(key) ?? {
      host: pieces[host].part,
      part: piece.part,
      pieces: 0,
      triangles: 0,
      faces: "",
      sourceOnly: true,
      list: [],
    };
    group.pieces++;
    group.triangles += piece.triangles;
    for (const f of piece.faces) group.list.push(f);
    if (!piece.faces.every((f) => piece.mesh.sourceOnly?.[f]))
      group.sourceOnly = false;
    groups.set(key, group);
  });
  return {
    floating,
    groups: [...groups.values()].map(({ list, ...group }) => ({
      ...group,
      faces: toRanges(list.sort((a, b) => a - b)),
    })),
  };
}
