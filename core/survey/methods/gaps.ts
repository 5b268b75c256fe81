import { borderLoops } from "../../mesh/fill-holes";
import { MeshAnalysis } from "../../mesh/mesh-analysis";
import type { Piece } from "../../asset/pieces";
import { PieceDistances, someVertices } from "../../asset/pieces";

/** Something that was meant to touch and does not. */
export interface Gap {
  kind: "slit" | "hovering" | "sticks out";
  part: string;
  /** Number of the piece within its part. */
  piece: number;
  /** The part it was meant to touch. */
  of: string;
  /** Width of the gap, or how far an end sticks out, metres. */
  width: number;
  at: [number, number, number];
  radius: number;
  /** What would have to move: vertices of the part, and by how much. */
  vertices: number[];
  /** Direction to push, unit length, towards and into the other piece. */
  way: [number, number, number];
}

/** Nearer than this counts as touching, metres. */
const TOUCHING = 2e-5;

/**
 * Finds slits (open borders that run beside another piece), hovering pieces (nearest to another one but not
 * touching it) and ends that go through another piece and stick out behind.
 * @param reach metres; what is farther apart was not meant to touch
 */
export function findGaps(
  pieces: readonly Piece[],
  distances: PieceDistances,
  reach: number,
  check: () => void,
): Gap[] {
  const gaps: Gap[] = [];
  const loops = slitLoops(pieces);
  pieces.forEach((piece, i) => {
    if ((i & 63) === 0) check();
    if (pieces.length < 2) return;
    const hover = hovering(pieces, i, distances, reach);
    if (hover) gaps.push(hover);
    else gaps.push(...endsOut(pieces, i, distances, reach));
    for (const loop of loops.get(piece) ?? []) {
      const slit = slitAt(pieces, i, loop, distances, reach);
      if (slit && !hover) gaps.push(slit);
    }
  });
  return gaps;
}

function hovering(
  pieces: readonly Piece[],
  i: number,
  distances: PieceDistances,
  reach: number,
): Gap | null {
  const piece = pieces[i];
  let nearest = Infinity;
  let other = -1;
  let at: [number, number, number] = [0, 0, 0];
  let way: [number, number, number] = [0, 0, 0];
  for (const point of probesOf(piece)) {
    const [x, y, z] = point;
    const d = distances.signed(i, x, y, z, Math.min(nearest, reach) + TOUCHING);
    if (d < TOUCHING) return null;
    if (d >= nearest) continue;
    nearest = d;
    other = distances.found;
    const { closest } = distances;
    at = [closest.x, closest.y, closest.z];
    way = [(closest.x - x) / d, (closest.y - y) / d, (closest.z - z) / d];
  }
  if (other >= 0 && passesThrough(piece, i, distances)) return null;
  // The other side's vertices may lie on this one's faces: a piece that rests on it touches.
  if (other < 0 || nearest > reach || pieces[other].diagonal < piece.diagonal)
    return null;
  return {
    kind: "hovering",
    part: piece.part,
    piece: piece.index,
    of: pieces[other].part,
    width: nearest,
    at,
    radius: piece.diagonal / 2,
    vertices: piece.vertices,
    way,
  };
}

/** Whether some of a piece lies behind the surface nearest to it, however far. */
function passesThrough(piece: Piece, i: number, distances: PieceDistances) {
  const p = piece.mesh.positions;
  return someVertices(piece, 60).some(
    (v) =>
      distances.signed(
        i,
        p[3 * v],
        p[3 * v + 1],
        p[3 * v + 2],
        piece.diagonal,
      ) < 0,
  );
}

/** Vertices and face middles to measure a piece by. */
function* probesOf(piece: Piece): Generator<[number, number, number]> {
  const { mesh } = piece;
  const p = mesh.positions;
  for (const v of someVertices(piece, 300))
    yield [p[3 * v], p[3 * v + 1], p[3 * v + 2]];
  const step = Math.max(1, Math.floor(piece.faces.length / 300));
  for (let k = 0; k < piece.faces.length; k += step) {
    const f = piece.faces[k];
    const s = mesh.faceStarts[f];
    const n = mesh.faceStarts[f + 1] - s;
    const middle: [number, number, number] = [0, 0, 0];
    for (let c = s; c < s + n; c++)
      for (let axis = 0; axis < 3; axis++)
        middle[axis] += p[3 * mesh.corners[c] + axis] / n;
    yield middle;
  }
}

/** Border loops of each piece, as vertices. */
function slitLoops(pieces: readonly Piece[]): Map<Piece, number[][]> {
  const found = new Map<Piece, number[][]>();
  for (const mesh of new Set(pieces.map((piece) => piece.mesh))) {
    const own = pieces.filter((piece) => piece.mesh === mesh);
    const ofFace = new Map<number, Piece>();
    const look = new MeshAnalysis(mesh, 0);
    const loops = borderLoops(look);
    if (!loops.length) continue;
    for (const piece of own) for (const f of piece.faces) ofFace.set(f, piece);
    for (const loop of loops) {
      const piece = ofFace.get(look.face[loop[0]])!;
      found.set(piece, [
        ...(found.get(piece) ?? []),
        loop.map((c) => mesh.corners[c]),
      ]);
    }
  }
  return found;
}

function slitAt(
  pieces: readonly Piece[],
  i: number,
  loop: readonly number[],
  distances: PieceDistances,
  reach: number,
): Gap | null {
  const piece = pieces[i];
  const p = piece.mesh.positions;
  const apart: number[] = [];
  let widest = 0;
  let other = -1;
  let at: [number, number, number] = [0, 0, 0];
  let way: [number, number, number] = [0, 0, 0];
  for (const v of loop) {
    const [x, y, z] = [p[3 * v], p[3 * v + 1], p[3 * v + 2]];
    const d = distances.signed(i, x, y, z, reach);
    if (!(d > TOUCHING)) continue;
    if (d === Infinity) continue;
    apart.push(v);
    if (d <= widest) continue;
    widest = d;
    other = distances.found;
    const { closest } = distances;
    at = [x, y, z];
    way = [(closest.x - x) / d, (closest.y - y) / d, (closest.z - z) / d];
  }
  if (apart.length < Math.min(loop.length, Math.max(2, loop.length / 8)))
    return null;
  return {
    kind: "slit",
    part: piece.part,
    piece: piece.index,
    of: pieces[other].part,
    width: widest,
    at,
    radius: Math.max(4 * widest, 0.05 * piece.diagonal),
    vertices: apart,
    way,
  };
}

/**
 * Looks at both ends of a long piece, along the axis it is longest in: vertices of the end that lie in front of
 * another piece's surface while those just before them lie behind it.
 */
function endsOut(
  pieces: readonly Piece[],
  i: number,
  distances: PieceDistances,
  reach: number,
): Gap[] {
  const piece = pieces[i];
  const p = piece.mesh.positions;
  const size = piece.max.map((high, k) => high - piece.min[k]);
  const axis = size.indexOf(Math.max(...size));
  const others = size.filter((_, k) => k !== axis);
  if (size[axis] < 2 * Math.max(...others)) return [];
  const gaps: Gap[] = [];
  for (const side of [-1, 1]) {
    const end = side < 0 ? piece.min[axis] : piece.max[axis];
    const depth = (v: number) => Math.abs(p[3 * v + axis] - end);
    const tip = piece.vertices.filter((v) => depth(v) < 0.04 * size[axis]);
    const before = piece.vertices.filter(
      (v) => depth(v) >= 0.04 * size[axis] && depth(v) < 0.3 * size[axis],
    );
    let out = 0;
    let most = 0;
    let host = -1;
    for (const v of tip) {
      const d = distances.signed(
        i,
        p[3 * v],
        p[3 * v + 1],
        p[3 * v + 2],
        reach,
      );
      if (!(d > TOUCHING) || d === Infinity) continue;
      out++;
      if (d > most) {
        most = d;
        host = distances.found;
      }
    }
    if (!tip.length || out < tip.length) continue;
    const behind = before.some((v) => {
      const d = distances.signed(
        i,
        p[3 * v],
        p[3 * v + 1],
        p[3 * v + 2],
        4 * reach,
      );
      return d < 0 && distances.found === host;
    });
    if (!behind) continue;
    const at = [0, 1, 2].map(
      (k) => tip.reduce((sum, v) => sum + p[3 * v + k], 0) / tip.length,
    ) as [number, number, number];
    const way: [number, number, number] = [0, 0, 0];
    way[axis] = -side;
    gaps.push({
      kind: "sticks out",
      part: piece.part,
      piece: piece.index,
      of: pieces[host].part,
      width: most,
      at,
      radius: Math.max(4 * most, 0.05 * piece.diagonal),
      vertices: tip,
      way,
    });
  }
  return gaps;
}

/**
 * Positions with every gap's vertices pushed in: as far as it is wide, and a stated amount on.
 * @param positions 3 × vertexCount, metres; the result is the same count, moved
 */
export function pushIn(
  positions: Float32Array,
  gaps: readonly Gap[],
  amount: number,
): Float32Array {
  const moved = positions.slice();
  for (const gap of gaps)
    for (const v of gap.vertices)
      for (let k = 0; k < 3; k++)
        moved[3 * v + k] =
          positions[3 * v + k] + gap.way[k] * (gap.width + amount);
  return moved;
}
