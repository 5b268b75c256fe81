import type { Context } from "../../base/context";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { LevelOut } from "./level-out";
import { PieceSearch } from "./piece-search";
import type { Piece } from "./pieces";
import type { StandOff } from "./stand-off";

export interface DecomposeOptions {
  /** Hulls at the most, every piece counted as often as it stands somewhere. */
  most: number;
  /** A piece whose hull stands off no farther is not cut, metres. */
  tolerance: number;
}

/** Pieces beyond what is wanted that are cut before the cheapest are joined, and how often both is done. */
const SPARE = 6;
const ROUNDS = 2;

/**
 * Covers solids with convex pieces: cuts, each time where that frees most, more often than there may be hulls, and then
 * joins what costs least to join. Cuts are tried where a surface folds inwards, through its deepest hollows and along
 * its axes, and crosswise through the widest gap where none gains much by itself (compare Wei et al. 2022, Mamou 2016).
 * @param start pieces that nothing was cut from yet
 * @param stand how far shapes stand off all solids together
 */
export function decompose(
  start: Piece[],
  { most, tolerance }: DecomposeOptions,
  stand: StandOff,
  context: Context,
): Piece[] {
  const size = diagonalOf(boundsOf(...start.map(({ hull }) => hull.positions)));
  const search = new PieceSearch(stand, size, tolerance, context);
  let pieces = start;
  for (let round = 0; round < ROUNDS; round++) {
    const before = search.costOf(pieces);
    const cut = search.cutUp(pieces, (round ? 1 : 2) * most + SPARE);
    const next = search.joinUp(cut, most);
    const kept = round === 0 || search.costOf(next) < before;
    if (kept) pieces = next;
    if (!kept || next.length === start.length) break;
  }
  return new LevelOut(search).run(pieces, most);
}
