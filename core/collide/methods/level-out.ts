import type { Piece } from "./pieces";
import { countOf, joined, volumeOfAll } from "./pieces";
import type { PieceSearch } from "./piece-search";

/** How often the worst piece is cut at the cost of others, and how far those may then stand off, of how far it did. */
const LEVELLINGS = 24;
const LESS = 0.95;
/** What all hulls may hold after that, of what they did: more as long as one stands off by more than this share of the size. */
const MORE = 1.05;
const MUCH_MORE = 1.25;
const FAR = 0.03;
/**
 * Limits that are tried for all pieces together where one stands off so far, the lowest that may be among them as a share
 * of the size, and how many pieces that may take, of those that are wanted, before they are joined.
 */
const HALVINGS = 5;
const LOWEST = 0.025;
const SPLIT_UP = 1.5;
/** Hulls that stand off by no more than this share of the size are level. */
const EVEN = 0.005;
/** Points at which a hull is asked how far it stands off, while cuts are tried and after; cuts that are looked at, and how often sides are cut again. */
const FEW_SAMPLES = 96;
const LEVEL_SAMPLES = 1200;
const LEVEL_CUTS = 10;
const AGAIN = 2;

/** Makes the piece that stands off farthest stand off less, at the cost of others. */
export class LevelOut {
  constructor(private readonly search: PieceSearch) {}

  /**
   * Cuts the piece that stands off farthest and joins others for it, as long as those then stand off less far than it
   * did.
   */
  run(given: readonly Piece[], most: number): Piece[] {
    let pieces = [...given];
    const volume = volumeOfAll(given);
    this.search.samples = LEVEL_SAMPLES;
    for (const piece of pieces) piece.off = piece.joints = undefined;
    for (let turn = 0; turn < LEVELLINGS; turn++) {
      this.search.check();
      const worst = this.search.farthestOff(pieces);
      if (
        this.search.offOf(worst) <=
        Math.max(this.search.tolerance, EVEN * this.search.size)
      )
        break;
      const mostVolume =
        volume *
        (this.search.offOf(worst) > FAR * this.search.size ? MUCH_MORE : MORE);
      const limit = LESS * this.search.offOf(worst);
      const next = this.cutWorst(pieces, worst, most, limit);
      if (!next || volumeOfAll(next) > mostVolume) break;
      pieces = next;
    }
    return this.levelAll(pieces, most, MUCH_MORE * volume);
  }

  /**
   * Where pieces stand off far: all that do are cut until none does, and joined again as long as none then does, with the
   * least limit that leaves few enough (bisection).
   * @param mostVolume of all hulls, m³
   */
  private levelAll(
    given: readonly Piece[],
    most: number,
    mostVolume: number,
  ): Piece[] {
    let pieces = [...given];
    const farthest = () => this.search.offOf(this.search.farthestOff(pieces));
    if (farthest() <= FAR * this.search.size) return pieces;
    let low = Math.max(this.search.tolerance, LOWEST * this.search.size);
    for (let turn = 0; turn < HALVINGS && farthest() > low; turn++) {
      const limit = (low + farthest()) / 2;
      const cut = this.cutWithin(pieces, limit, SPLIT_UP * most);
      const next = cut && this.joinWithin(cut, most, limit);
      // Where not even that can be met, less far is not worth the time.
      if (!cut && !turn) break;
      if (next && volumeOfAll(next) <= mostVolume) pieces = next;
      else low = limit;
    }
    return pieces;
  }

  /** Cuts what stands off farthest until nothing does by more than a limit; null where that takes too many pieces. */
  private cutWithin(
    given: readonly Piece[],
    limit: number,
    enough: number,
  ): Piece[] | null {
    let pieces = [...given];
    for (;;) {
      this.search.check();
      const worst = this.search.farthestOff(pieces);
      if (this.search.offOf(worst) <= limit) return pieces;
      const sides = this.levelCut(worst, limit, 0);
      if (!sides.length || countOf(pieces) >= enough) return null;
      pieces = pieces.flatMap((piece) => (piece === worst ? sides : [piece]));
    }
  }

  /** Joins what costs least and stands off no farther than a limit; null where too many are left. */
  private joinWithin(
    given: readonly Piece[],
    most: number,
    limit: number,
  ): Piece[] | null {
    let pieces = [...given];
    while (countOf(pieces) > most) {
      this.search.check();
      const joint = this.search.cheapestJoint(pieces, limit);
      if (!joint) return null;
      pieces = [
        ...pieces.filter((piece) => !joint.of.includes(piece)),
        joined(joint),
      ];
    }
    return pieces;
  }

  /** The worst piece cut, and others joined for it; null where not all would stand off less far. */
  private cutWorst(
    pieces: readonly Piece[],
    worst: Piece,
    most: number,
    limit: number,
  ): Piece[] | null {
    const sides = this.levelCut(worst, limit);
    if (!sides.length || sides.some((side) => this.search.offOf(side) > limit))
      return null;
    return this.joinWithin(
      pieces.flatMap((piece) => (piece === worst ? sides : [piece])),
      most,
      limit,
    );
  }

  /** The sides of the cut of a piece after which neither stands off far, those cut again that do. */
  private levelCut(piece: Piece, limit: number, again = AGAIN): Piece[] {
    let best: Piece[] = [];
    let least = Infinity;
    this.search.samples = FEW_SAMPLES;
    for (const { plane } of this.search.tryCuts(piece).slice(0, LEVEL_CUTS)) {
      const sides = this.search.cutBy(piece, plane)?.sides;
      if (!sides) continue;
      const off = Math.max(...sides.map((side) => this.search.offOf(side)));
      if (off >= least) continue;
      least = off;
      best = sides;
    }
    this.search.samples = LEVEL_SAMPLES;
    for (const side of best) side.off = undefined;
    const good = best.filter((side) => this.search.offOf(side) <= limit).length;
    // Where neither side is good yet, further cuts seldom make all of them so.
    return !good || good === best.length || !again
      ? best
      : best.flatMap((side) =>
          this.search.offOf(side) > limit
            ? this.levelCut(side, limit, again - 1)
            : side,
        );
  }
}
