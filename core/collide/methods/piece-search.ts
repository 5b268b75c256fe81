import { volumeOf, roughHull } from "./convex-hull";
import type { Context } from "../../base/context";
import { WORLD_AXES, principalAxes } from "../../space/principal-axes";
import { cutPlanes, isBelow } from "./cut-planes";
import type { Plane } from "./half-space";
import { NEAR, SideRoom, flipped, sidesOf } from "./half-space";
import { partBelow } from "./part-below";
import type { Cut, Joint, Piece } from "./pieces";
import { ROUGH, countOf, joined, pieceOf, volumeOfAll } from "./pieces";
import type { StandOff } from "./stand-off";

/** Vertices of a hull while cuts are tried, and points at which those that are looked at are asked how far they stand off. */
const TRIED = 16;
const SAMPLES = 96;
/** What stands off by a length costs as much as this many cubes of it. */
const OFF_COST = 4;
/** A cut that gains less than this share of what a piece costs is not made. */
const LEAST_GAIN = 0.01;
/** Joining that costs less than this share of all volume is done although there is room. */
const FREE = 1e-3;
/** Cuts of which is found how far their sides stand off. */
const LOOKED_AT = 6;
/** A gap is wide where a hull stands off by more than this share of the size of everything. */
const WIDE = 0.025;
/** One cut that gains more than this share of what a piece costs is enough: no cross is tried. */
const WORTH = 0.06;
/** Crosses whose quarters are cut once more. */
const CROSSES = 2;

/**
 * Cuts pieces where that frees most, and joins those that cost least: cuts are tried where a surface folds inwards, through
 * its deepest hollows and along its axes, and crosswise through the widest gap where none gains much by itself.
 */
export class PieceSearch {
  private readonly room = new SideRoom();
  /** Points at which a hull is asked how far it stands off. */
  samples = SAMPLES;

  /** @param size of everything, metres */
  constructor(
    private readonly stand: StandOff,
    readonly size: number,
    readonly tolerance: number,
    private readonly context: Context,
  ) {}

  /** @throws what the caller throws to cancel */
  check(): void {
    this.context.check();
  }

  /** What pieces cost that stand for one: their volume, and for the one that stands off farthest how far it does. */
  costOf(pieces: readonly Piece[]): number {
    const volume = volumeOfAll(pieces);
    const off = Math.max(0, ...pieces.map((piece) => this.offOf(piece)));
    return volume + OFF_COST * off ** 3;
  }

  private dearestFirst(pieces: readonly Piece[]): Piece[] {
    return pieces.toSorted((a, b) => this.costOf([b]) - this.costOf([a]));
  }

  /** How far the hull of a piece stands off, metres. */
  offOf(piece: Piece): number {
    return (piece.off ??= this.stand.of(piece.hull, this.samples));
  }

  /** The piece that stands off farthest. */
  farthestOff(pieces: readonly Piece[]): Piece {
    return pieces.reduce((far, piece) =>
      this.offOf(piece) > this.offOf(far) ? piece : far,
    );
  }

  /** Cuts the piece whose cut frees most, until there are enough or none is worth it. */
  cutUp(given: readonly Piece[], enough: number): Piece[] {
    let pieces = [...given];
    for (;;) {
      const count = countOf(pieces);
      this.context.progress(count / enough, `${count} pieces`);
      const room = enough - count;
      let best: Piece | null = null;
      // No cut gains more than what its piece costs: those that cost most are asked first, the others often never.
      for (const piece of this.dearestFirst(pieces)) {
        const least = best?.cut?.gain ?? 0;
        if (this.costOf([piece]) <= least) break;
        if (piece.times > room) continue;
        this.check();
        if (piece.cut === undefined) piece.cut = this.bestCut(piece);
        if (piece.cut && piece.cut.gain > least) best = piece;
      }
      if (!best) return pieces;
      const { sides } = best.cut!;
      pieces = pieces.flatMap((piece) => (piece === best ? sides : [piece]));
    }
  }

  /** Joins what costs least until there are few enough, and goes on while it costs next to nothing. */
  joinUp(given: readonly Piece[], most: number): Piece[] {
    let pieces = [...given];
    const free = FREE * volumeOfAll(pieces);
    for (;;) {
      this.check();
      const best = this.cheapestJoint(pieces);
      if (!best || (countOf(pieces) <= most && best.cost > free)) return pieces;
      pieces = [
        ...pieces.filter((piece) => !best.of.includes(piece)),
        joined(best),
      ];
    }
  }

  /**
   * What costs least to join; null where nothing can be.
   * @param limit how far the hull of both may stand off, metres
   */
  cheapestJoint(pieces: readonly Piece[], limit = Infinity): Joint | null {
    const joints: Joint[] = [];
    for (let i = 0; i < pieces.length; i++)
      for (let j = i + 1; j < pieces.length; j++) {
        const [one, other] = [pieces[i], pieces[j]];
        if ((one.times > 1 || other.times > 1) && one.of !== other.of) continue;
        const joint = this.jointOf(one, other);
        if (joint) joints.push(joint);
      }
    // What a joint costs at least is soon told; how far it stands off only of those that may be the cheapest.
    joints.sort((a, b) => a.cost - b.cost);
    let best: Joint | null = null;
    for (const joint of joints) {
      if (best && joint.cost >= best.cost) break;
      if (joint.off === null) {
        joint.off = this.stand.of(joint.hull, this.samples);
        joint.cost += OFF_COST * joint.off ** 3;
      }
      if (joint.off <= limit && joint.cost < (best?.cost ?? Infinity))
        best = joint;
    }
    return best;
  }

  /** Two pieces as one, as far as it has been asked for; null where they are flat together. */
  private jointOf(one: Piece, other: Piece): Joint | null {
    one.joints ??= new Map();
    let joint = one.joints.get(other);
    if (joint !== undefined) return joint;
    const points = new Float64Array(
      one.hull.positions.length + other.hull.positions.length,
    );
    points.set(one.hull.positions);
    points.set(other.hull.positions, one.hull.positions.length);
    const hull = roughHull(points, ROUGH);
    joint = null;
    if (hull) {
      const volume = volumeOf(hull.positions, hull.triangles);
      const cost = volume - this.costOf([one, other]);
      joint = { of: [one, other], hull, volume, off: null, cost };
    }
    one.joints.set(other, joint);
    return joint;
  }

  private bestCut(piece: Piece): Cut | null {
    if (this.tolerance > 0 && this.offOf(piece) <= this.tolerance) return null;
    const tried = this.tryCuts(piece);
    const least = LEAST_GAIN * this.costOf([piece]);
    let best: Cut | null = null;
    for (const { plane } of tried.slice(0, LOOKED_AT)) {
      const cut = this.cutBy(piece, plane);
      if (cut && cut.gain > Math.max(least, best?.gain ?? 0)) best = cut;
    }
    return best && best.gain > WORTH * this.costOf([piece])
      ? best
      : (this.crossCut(piece, best ? best.gain : least / 4) ?? best);
  }

  /** What planes free of the volume of a piece, the most first. */
  tryCuts(piece: Piece): NonNullable<Piece["tried"]> {
    if (piece.tried) return piece.tried;
    const { surface, hull, folds, size, volume } = piece;
    const found: { plane: Plane; freed: number }[] = [];
    for (const plane of cutPlanes(surface, hull, folds, size)) {
      const [below, above] = sidesOf(surface, plane, NEAR * size, this.room);
      const one = roughHull(below, TRIED);
      const other = one && roughHull(above, TRIED);
      if (!one || !other) continue;
      const freed =
        volume -
        volumeOf(one.positions, one.triangles) -
        volumeOf(other.positions, other.triangles);
      found.push({ plane, freed });
    }
    return (piece.tried = found.sort((a, b) => b.freed - a.freed));
  }

  /** Both sides of a plane; null where one is flat. */
  cutBy(piece: Piece, plane: Plane): Cut | null {
    const near = NEAR * piece.size;
    const side = (way: Plane) =>
      pieceOf({
        of: piece.of,
        times: piece.times,
        cells: piece.cells.map(({ shell, planes }) => ({
          shell,
          planes: [...planes, way],
        })),
        surface: partBelow(piece.surface, way, near),
        folds: piece.folds.filter((fold) => isBelow(fold, way, near)),
      });
    const one = side(plane);
    const other = one && side(flipped(plane));
    if (!one || !other) return null;
    const gain = this.costOf([piece]) - this.costOf([one, other]);
    return { gain, sides: [one, other] };
  }

  /**
   * Both cuts of a cross through the middle of the widest gap, and one more of each quarter: rings and cups gain nothing
   * by one alone.
   */
  private crossCut(piece: Piece, least: number): Cut | null {
    const far = this.stand.of(piece.hull, 4 * SAMPLES);
    if (far <= WIDE * this.size) return null;
    const [x, y, z] = this.stand.farthest;
    const through = (axis: readonly number[]): Plane => [
      axis[0],
      axis[1],
      axis[2],
      axis[0] * x + axis[1] * y + axis[2] * z,
    ];
    const crosses: Piece[][] = [];
    for (const axes of [WORLD_AXES, principalAxes(piece.surface.positions)])
      for (let k = 0; k < 3; k++) {
        this.check();
        const [one, other] = [axes[k], axes[(k + 1) % 3]].map(through);
        const halves = this.cutBy(piece, one)?.sides;
        if (halves)
          crosses.push(
            halves.flatMap((half) => this.cutBy(half, other)?.sides ?? [half]),
          );
      }
    const cost = new Map(crosses.map((sides) => [sides, this.costOf(sides)]));
    crosses.sort((a, b) => cost.get(a)! - cost.get(b)!);
    let best: Cut | null = null;
    for (const quarters of crosses.slice(0, CROSSES)) {
      const sides = quarters.flatMap((quarter) => this.further(quarter));
      const gain = this.costOf([piece]) - this.costOf(sides);
      // A cross is many cuts: it is held against one by what each gains.
      if (gain < least * (sides.length - 1)) continue;
      if (gain > (best?.gain ?? 0)) best = { gain, sides };
    }
    return best;
  }

  /** The sides of the cut of a piece that frees most, or the piece. */
  private further(piece: Piece): Piece[] {
    const [first] = this.tryCuts(piece);
    const cut = first && this.cutBy(piece, first.plane);
    return cut && cut.gain > 0 ? cut.sides : [piece];
  }
}
