import { volumeOf, roughHull } from "./convex-hull";
import type { ConvexMesh } from "../../mesh/hull";
import type { Context } from "../../base/context";
import { boundsOf, diagonalOf } from "../../space/bounds";
import { WORLD_AXES, principalAxes } from "../../space/principal-axes";
import { cutPlanes, isBelow } from "./cut-planes";
import type { Fold } from "./cut-planes";
import type { Plane, Surface } from "./half-space";
import { NEAR, SideRoom, flipped, joinSurfaces, sidesOf } from "./half-space";
import { partBelow } from "./part-below";
import { StandOff } from "./stand-off";

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

interface Cut {
  gain: number;
  sides: Piece[];
}

interface Joint {
  of: readonly [Piece, Piece];
  hull: ConvexMesh;
  volume: number;
  /** How far the hull of both stands off, metres; null as long as that was not asked for. */
  off: number | null;
  /** What the hull of both costs more than the two apart, at least, as long as `off` is not known. */
  cost: number;
}

export interface DecomposeOptions {
  /** Hulls at the most, every piece counted as often as it stands somewhere. */
  most: number;
  /** A piece whose hull stands off no farther is not cut, metres. */
  tolerance: number;
}

/** Vertices of a hull while cuts are tried, of those that are looked at, and points at which it is asked how far it stands off. */
const TRIED = 16;
const ROUGH = 40;
const SAMPLES = 96;
/** What stands off by a length costs as much as this many cubes of it. */
const OFF_COST = 4;
/** A cut that gains less than this share of what a piece costs is not made. */
const LEAST_GAIN = 0.01;
/** Joining that costs less than this share of all volume is done although there is room. */
const FREE = 1e-3;
/** Pieces beyond what is wanted that are cut before the cheapest are joined, and how often both is done. */
const SPARE = 6;
const ROUNDS = 2;
/** Cuts of which is found how far their sides stand off. */
const LOOKED_AT = 6;
/** A gap is wide where a hull stands off by more than this share of the size of everything. */
const WIDE = 0.025;
/** One cut that gains more than this share of what a piece costs is enough: no cross is tried. */
const WORTH = 0.06;
/** Crosses whose quarters are cut once more. */
const CROSSES = 2;
/** How often the worst piece is cut at the cost of others, and how far those may then stand off, of how far it did. */
const LEVELLINGS = 24;
const LESS = 0.95;
/** What all hulls may hold after that, of what they did: more as long as one stands off by more than this share of the size. */
const MORE = 1.05;
const MUCH_MORE = 1.25;
const FAR = 0.03;
/** Hulls that stand off by no more than this share of the size are level. */
const EVEN = 0.005;
/** Points at which a hull is asked for that how far it stands off, cuts that are looked at, and how often sides are cut again. */
const LEVEL_SAMPLES = 384;
const LEVEL_CUTS = 10;
const AGAIN = 2;

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
  const search = new Search(stand, size, tolerance, context);
  let pieces = start;
  for (let round = 0; round < ROUNDS; round++) {
    const before = search.costOf(pieces);
    const cut = search.cutUp(pieces, (round ? 1 : 2) * most + SPARE);
    const next = search.joinUp(cut, most);
    const kept = round === 0 || search.costOf(next) < before;
    if (kept) pieces = next;
    if (!kept || next.length === start.length) break;
  }
  return search.levelOut(pieces, most);
}

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

const countOf = (pieces: readonly Piece[]) =>
  pieces.reduce((sum, piece) => sum + piece.times, 0);

class Search {
  private readonly room = new SideRoom();
  /** Points at which a hull is asked how far it stands off. */
  private samples = SAMPLES;

  /** @param size of everything, metres */
  constructor(
    private readonly stand: StandOff,
    private readonly size: number,
    private readonly tolerance: number,
    private readonly context: Context,
  ) {}

  private check(): void {
    this.context.check();
  }

  /** What pieces cost that stand for one: their volume, and for the one that stands off farthest how far it does. */
  costOf(pieces: readonly Piece[]): number {
    const volume = pieces.reduce((sum, piece) => sum + piece.volume, 0);
    const off = Math.max(0, ...pieces.map((piece) => this.offOf(piece)));
    return volume + OFF_COST * off ** 3;
  }

  private dearestFirst(pieces: readonly Piece[]): Piece[] {
    return pieces.toSorted((a, b) => this.costOf([b]) - this.costOf([a]));
  }

  private offOf(piece: Piece): number {
    return (piece.off ??= this.stand.of(piece.hull, this.samples));
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
    const free = FREE * pieces.reduce((sum, { volume }) => sum + volume, 0);
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
   * Cuts the piece that stands off farthest and joins others for it, as long as those then stand off less far than it
   * did.
   */
  levelOut(given: readonly Piece[], most: number): Piece[] {
    let pieces = [...given];
    const volumeOfAll = (list: readonly Piece[]) =>
      list.reduce((sum, { volume }) => sum + volume, 0);
    const volume = volumeOfAll(given);
    this.samples = LEVEL_SAMPLES;
    for (const piece of pieces) piece.off = piece.joints = undefined;
    for (let turn = 0; turn < LEVELLINGS; turn++) {
      this.check();
      const worst = pieces.reduce((far, piece) =>
        this.offOf(piece) > this.offOf(far) ? piece : far,
      );
      if (this.offOf(worst) <= Math.max(this.tolerance, EVEN * this.size))
        break;
      const mostVolume =
        volume * (this.offOf(worst) > FAR * this.size ? MUCH_MORE : MORE);
      const limit = LESS * this.offOf(worst);
      const next = this.cutWorst(pieces, worst, most, limit);
      if (!next || volumeOfAll(next) > mostVolume) break;
      pieces = next;
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
    if (!sides.length || sides.some((side) => this.offOf(side) > limit))
      return null;
    let next = pieces.flatMap((piece) => (piece === worst ? sides : [piece]));
    while (countOf(next) > most) {
      const joint = this.cheapestJoint(next, limit);
      if (!joint) return null;
      next = [
        ...next.filter((piece) => !joint.of.includes(piece)),
        joined(joint),
      ];
    }
    return next;
  }

  /** The sides of the cut of a piece after which neither stands off far, those cut again that do. */
  private levelCut(piece: Piece, limit: number, again = AGAIN): Piece[] {
    let best: Piece[] = [];
    let least = Infinity;
    this.samples = SAMPLES;
    for (const { plane } of this.tryCuts(piece).slice(0, LEVEL_CUTS)) {
      const sides = this.cutBy(piece, plane)?.sides;
      if (!sides) continue;
      const off = Math.max(...sides.map((side) => this.offOf(side)));
      if (off >= least) continue;
      least = off;
      best = sides;
    }
    this.samples = LEVEL_SAMPLES;
    for (const side of best) side.off = undefined;
    const good = best.filter((side) => this.offOf(side) <= limit).length;
    // Where neither side is good yet, further cuts seldom make all of them so.
    return !good || good === best.length || !again
      ? best
      : best.flatMap((side) =>
          this.offOf(side) > limit
            ? this.levelCut(side, limit, again - 1)
            : side,
        );
  }

  /** @param limit how far the hull of both may stand off, metres */
  private cheapestJoint(
    pieces: readonly Piece[],
    limit = Infinity,
  ): Joint | null {
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
  private tryCuts(piece: Piece): NonNullable<Piece["tried"]> {
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

  private cutBy(piece: Piece, plane: Plane): Cut | null {
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

function joined({ of: [one, other], hull, volume, off }: Joint): Piece {
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
