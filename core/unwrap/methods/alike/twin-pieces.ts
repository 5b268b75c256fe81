import { faceComponents } from "../../../mesh/components";
import type { Mesh } from "../../../mesh/mesh";
import type { LaidIsland } from "../islands";

/** How much lengths of two pieces may differ, as a share of the longest edge. */
const NEAR = 1e-4;

type IslandIn = LaidIsland & { mesh: number };

/** A connected piece of a mesh, told so that a moved copy of it tells the same. */
interface Piece {
  mesh: number;
  faces: number[];
  corners: number[];
  /** Faces, corners and marks by the order of their first use. */
  words: Int32Array;
  hash: number;
  /** Length of the edge from every corner, metres. */
  lengths: Float32Array;
}

/**
 * Gives pieces that are moved copies of one another the islands of the first of them: what is repeated can then
 * share texels, whatever shows of each. Copies are told by their order, which copying keeps.
 * @param keep per mesh: corners at whose edges UVs part whatever else is found
 */
export function withTwinsAlike<T extends IslandIn>(
  meshes: readonly Mesh[],
  keep: readonly (Uint8Array | null)[],
  islands: readonly T[],
): T[] {
  const pieces = meshes.flatMap((mesh, m) => piecesOf(mesh, m, keep[m]));
  const firsts = new Map<number, Piece[]>();
  /** The first piece like a piece, by its mesh and first face. */
  const twins = new Map<string, { first: Piece; twin: Piece }>();
  for (const piece of pieces) {
    const known = firsts.get(piece.hash) ?? [];
    const first = known.find((each) => alike(each, piece));
    if (first) twins.set(nameOf(piece), { first, twin: piece });
    else firsts.set(piece.hash, [...known, piece]);
  }
  if (!twins.size) return [...islands];
  const pieceOf = new Map<string, Piece>();
  for (const piece of pieces)
    for (const f of piece.faces) pieceOf.set(`${piece.mesh} ${f}`, piece);
  const own = new Map<string, T[]>();
  const kept: T[] = [];
  for (const island of islands) {
    const piece = pieceOf.get(`${island.mesh} ${island.chart.faces[0]}`)!;
    const name = nameOf(piece);
    if (twins.has(name)) continue;
    kept.push(island);
    own.set(name, [...(own.get(name) ?? []), island]);
  }
  for (const { first, twin } of twins.values())
    for (const island of own.get(nameOf(first)) ?? [])
      kept.push({ ...onTwin(island, first, twin), mesh: twin.mesh });
  return kept;
}

const nameOf = ({ mesh, faces }: Piece) => `${mesh} ${faces[0]}`;

function piecesOf(mesh: Mesh, m: number, keep: Uint8Array | null): Piece[] {
  const { count, ofFace } = faceComponents(mesh);
  const faces: number[][] = Array.from({ length: count }, () => []);
  ofFace.forEach((piece, f) => faces[piece].push(f));
  return faces.map((list) => pieceFrom(mesh, m, list, keep));
}

function pieceFrom(
  mesh: Mesh,
  m: number,
  faces: number[],
  keep: Uint8Array | null,
): Piece {
  const words: number[] = [];
  const corners: number[] = [];
  const lengths: number[] = [];
  const names = new Map<number, number>();
  const p = mesh.positions;
  for (const f of faces) {
    const [s, e] = [mesh.faceStarts[f], mesh.faceStarts[f + 1]];
    words.push(e - s, mesh.faceMaterials?.[f] ?? 0, mesh.ids?.[f] ?? 0);
    for (let c = s; c < e; c++) {
      const v = mesh.corners[c];
      if (!names.has(v)) names.set(v, names.size);
      corners.push(c);
      words.push(
        names.get(v)!,
        (mesh.hard?.[c] ? 1 : 0) |
          (keep?.[c] ? 2 : 0) |
          ((mesh.seamOverrides?.[c] ?? 0) * 4),
      );
      const w = mesh.corners[c + 1 < e ? c + 1 : s];
      lengths.push(
        Math.hypot(
          p[3 * v] - p[3 * w],
          p[3 * v + 1] - p[3 * w + 1],
          p[3 * v + 2] - p[3 * w + 2],
        ),
      );
    }
  }
  let hash = 0x811c9dc5;
  for (const word of words) hash = Math.imul(hash ^ word, 0x01000193);
  return {
    mesh: m,
    faces,
    corners,
    words: Int32Array.from(words),
    hash,
    lengths: Float32Array.from(lengths),
  };
}

function alike(a: Piece, b: Piece): boolean {
  if (a.words.length !== b.words.length) return false;
  if (!a.words.every((word, i) => word === b.words[i])) return false;
  const limit = NEAR * a.lengths.reduce((most, x) => Math.max(most, x), 0);
  return a.lengths.every((x, i) => Math.abs(x - b.lengths[i]) <= limit);
}

/** Faces and corners of one thing, and in the same order those of a copy of it. */
type Ordered = Pick<Piece, "faces" | "corners">;

/** An island on a copy of what it lies on. Its layout is the same object. */
export function onTwin<T extends LaidIsland>(
  island: T,
  from: Ordered,
  to: Ordered,
): T {
  const faces = new Map(from.faces.map((f, i) => [f, to.faces[i]]));
  const corners = new Map(from.corners.map((c, i) => [c, to.corners[i]]));
  return {
    ...island,
    chart: {
      ...island.chart,
      faces: island.chart.faces.map((f) => faces.get(f)!),
      corners: island.chart.corners.map((c) => corners.get(c)!),
    },
  };
}
