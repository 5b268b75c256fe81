import type { ConvexMesh } from "./convex-hull";
import { convexHull, volumeOf } from "./convex-hull";

/** A cut that frees less than this share of the piece's hull is not made. */
const LEAST_GAIN = 0.02;
const CUTS = 9;

interface Piece {
  /** Number of the surface that it is of, or most of it. */
  of: number;
  /** 9 × triangleCount: the part of the surface inside the piece. */
  triangles: Float64Array;
  hull: ConvexMesh;
  volume: number;
  /** How many hulls it stands for. */
  times: number;
  /** The best cut, found when first asked for. */
  cut?: { gain: number; sides: [Piece, Piece] } | null;
  /** What it comes to with each other piece, as far as that was asked for. */
  joints?: Map<Piece, Joint | null>;
}

interface Joint {
  hull: ConvexMesh;
  volume: number;
  /** Volume that the hull of both has more than the two apart. */
  cost: number;
}

/**
 * Covers a surface with convex hulls: starts from one hull of everything and keeps cutting the piece, by a
 * plane square to an axis, where the cut makes the hulls lose most volume.
 * @param surfaces 9 × triangleCount each: pieces that are never joined in one hull unless the limit asks for it
 * @param most hulls at the most; @param vertices per hull at the most
 * @param times how often each surface stands somewhere: that many hulls count for one of it, which is joined with no
 *   other surface where that is more than once. So there can be more than `most`
 * @returns the hulls, with the number of the surface that each is of
 */
export function decompose(
  surfaces: readonly Float64Array[],
  most: number,
  vertices: number,
  check: () => void,
  times: readonly number[] = surfaces.map(() => 1),
): { hull: ConvexMesh; of: number }[] {
  let pieces = surfaces.flatMap(
    (triangles, of) => pieceOf(triangles, vertices, of, times[of]) ?? [],
  );
  const count = () => pieces.reduce((sum, piece) => sum + piece.times, 0);
  while (count() > most) {
    check();
    const joined = joinCheapest(pieces, vertices);
    if (!joined) break;
    pieces = joined;
  }
  for (;;) {
    check();
    const room = most - count();
    let best: Piece | null = null;
    for (const piece of pieces) {
      if (piece.times > room) continue;
      if (piece.cut === undefined) piece.cut = bestCut(piece, vertices);
      if (piece.cut && piece.cut.gain > (best?.cut?.gain ?? 0)) best = piece;
    }
    if (!best) break;
    pieces = pieces.flatMap((piece) =>
      piece === best ? best.cut!.sides : [piece],
    );
  }
  return pieces.map(({ hull, of }) => ({ hull, of }));
}

function pieceOf(
  triangles: Float64Array,
  vertices: number,
  of: number,
  times: number,
): Piece | null {
  const hull = convexHull(triangles, vertices);
  return (
    hull && {
      of,
      times,
      triangles,
      hull,
      volume: volumeOf(hull.positions, hull.triangles),
    }
  );
}

/** The pieces with two joined into one where that adds least volume; null where no two can be. */
function joinCheapest(pieces: Piece[], vertices: number): Piece[] | null {
  let best: { one: Piece; other: Piece; joint: Joint } | null = null;
  pieces.forEach((one, i) => {
    if (one.times > 1) return;
    for (let j = i + 1; j < pieces.length; j++) {
      const other = pieces[j];
      if (other.times > 1) continue;
      const joint = jointOf(one, other, vertices);
      if (joint && joint.cost < (best?.joint.cost ?? Infinity))
        best = { one, other, joint };
    }
  });
  if (!best) return null;
  const { one, other, joint } = best as {
    one: Piece;
    other: Piece;
    joint: Joint;
  };
  const { of, times } = one.volume >= other.volume ? one : other;
  const triangles = new Float64Array(
    one.triangles.length + other.triangles.length,
  );
  triangles.set(one.triangles);
  triangles.set(other.triangles, one.triangles.length);
  const { hull, volume } = joint;
  return [
    ...pieces.filter((piece) => piece !== one && piece !== other),
    { of, times, triangles, hull, volume },
  ];
}

/** What two pieces come to as one, null where they are flat together; found when first asked for. */
function jointOf(one: Piece, other: Piece, vertices: number): Joint | null {
  one.joints ??= new Map();
  let joint = one.joints.get(other);
  if (joint === undefined) {
    const hull = convexHull(
      [...one.hull.positions, ...other.hull.positions],
      vertices,
    );
    const volume = hull ? volumeOf(hull.positions, hull.triangles) : 0;
    joint = hull && { hull, volume, cost: volume - one.volume - other.volume };
    one.joints.set(other, joint);
  }
  return joint;
}

function cutAt(
  piece: Piece,
  axis: number,
  share: number,
  vertices: number,
): NonNullable<Piece["cut"]> | null {
  const p = piece.hull.positions;
  let low = Infinity;
  let high = -Infinity;
  for (let i = axis; i < p.length; i += 3) {
    low = Math.min(low, p[i]);
    high = Math.max(high, p[i]);
  }
  const at = low + (high - low) * share;
  const [below, above] = cutSurface(piece.triangles, axis, at);
  const first = pieceOf(below, vertices, piece.of, piece.times);
  const second = pieceOf(above, vertices, piece.of, piece.times);
  if (!first || !second) return null;
  const gain = piece.volume - first.volume - second.volume;
  return { gain, sides: [first, second] };
}

function bestCut(piece: Piece, vertices: number): Piece["cut"] {
  return directCut(piece, vertices) ?? cutAhead(piece, vertices);
}

/** The cut that frees most volume at once. */
function directCut(piece: Piece, vertices: number): Piece["cut"] {
  let best: Piece["cut"] = null;
  for (let axis = 0; axis < 3; axis++)
    for (let k = 1; k <= CUTS; k++) {
      const cut = cutAt(piece, axis, k / (CUTS + 1), vertices);
      if (!cut || cut.gain <= LEAST_GAIN * piece.volume) continue;
      if (cut.gain > (best?.gain ?? 0)) best = cut;
    }
  return best;
}

/** A cut through the middle that frees nothing by itself but lets its sides be cut well: rings need it. */
function cutAhead(piece: Piece, vertices: number): Piece["cut"] {
  let best: Piece["cut"] = null;
  for (let axis = 0; axis < 3; axis++) {
    const cut = cutAt(piece, axis, 0.5, vertices);
    if (!cut) continue;
    let gain = cut.gain;
    for (const side of cut.sides) {
      side.cut = directCut(side, vertices);
      gain += side.cut?.gain ?? 0;
    }
    if (gain > LEAST_GAIN * piece.volume && gain > (best?.gain ?? 0))
      best = { gain, sides: cut.sides };
  }
  return best;
}

/** The parts of triangles on either side of a plane (Sutherland and Hodgman 1974). */
function cutSurface(
  triangles: Float64Array,
  axis: number,
  at: number,
): [Float64Array, Float64Array] {
  const sides: [number[], number[]] = [[], []];
  for (let t = 0; t < triangles.length; t += 9) {
    const d = [0, 1, 2].map((k) => triangles[t + 3 * k + axis] - at);
    if (d[0] <= 0 && d[1] <= 0 && d[2] <= 0) pushAll(sides[0], triangles, t);
    else if (d[0] >= 0 && d[1] >= 0 && d[2] >= 0)
      pushAll(sides[1], triangles, t);
    else
      [-1, 1].forEach((way, side) => {
        const polygon: number[][] = [];
        for (let k = 0; k < 3; k++) {
          const m = (k + 1) % 3;
          const from = [0, 1, 2].map((n) => triangles[t + 3 * k + n]);
          const to = [0, 1, 2].map((n) => triangles[t + 3 * m + n]);
          if (way * d[k] >= 0) polygon.push(from);
          if (d[k] * d[m] < 0)
            polygon.push(
              from.map((x, n) => x + ((to[n] - x) * d[k]) / (d[k] - d[m])),
            );
        }
        for (let k = 1; k + 1 < polygon.length; k++)
          sides[side].push(...polygon[0], ...polygon[k], ...polygon[k + 1]);
      });
  }
  return [new Float64Array(sides[0]), new Float64Array(sides[1])];
}

function pushAll(into: number[], triangles: Float64Array, t: number): void {
  for (let k = 0; k < 9; k++) into.push(triangles[t + k]);
}
