import { triangleArea } from "../space/sample";
import { UnionFind } from "../base/union-find";
import { buildEdges } from "../mesh/edges";
import type { Soup, SoupPlace } from "./soup";
import { placeIn } from "./soup";

/** What goes may be this share of the whole surface: more is no leftover but what the asset is made of. */
const MOST_AREA = 0.03;
/** Triangles of what scanning strews have edges like the rest: those of a detail made on purpose may be far shorter. */
const LIKE_THE_REST = 0.3;
/** Small pieces that lie within this many of their own sizes of each other belong together. */
const APART = 0.5;

export interface WithoutPieces {
  soup: Soup;
  /** Where each was. */
  places: SoupPlace[];
}

interface Piece {
  triangles: number[];
  low: number[];
  high: number[];
  size: number;
}

export interface SmallRules {
  /** For each mesh: what is smaller goes, corner to corner of the box round it, metres. */
  sizes: ArrayLike<number>;
  /** For each mesh how long its edges are about, metres. */
  edges: ArrayLike<number>;
  /** Rows and heaps of pieces that reach so far stay, metres. */
  together: number;
}

/**
 * Leaves out small closed pieces, as scans are strewn with; none of a mesh that has nothing larger.
 * @param stays per triangle: whether it is to be left as it is; null for none
 */
export function withoutSmallPieces(
  soup: Soup,
  { sizes, edges, together }: SmallRules,
  stays: ArrayLike<number> | null = null,
): WithoutPieces {
  const areaOf = (t: number) => triangleArea(soup.positions, soup.triangles, t);
  const likeTheRest = ({ triangles }: Piece) => {
    const area = triangles.reduce((sum, t) => sum + areaOf(t), 0);
    const edge = Math.sqrt((4 * area) / (Math.sqrt(3) * triangles.length));
    return edge > LIKE_THE_REST * edges[soup.owner[triangles[0]]];
  };
  const gone = strewn(smallPieces(soup, sizes), together).filter(
    (piece) =>
      isClosed(soup, piece) &&
      likeTheRest(piece) &&
      !piece.triangles.some((t) => stays?.[t]),
  );
  const lost = gone
    .flatMap(({ triangles }) => triangles)
    .reduce((sum, t) => sum + areaOf(t), 0);
  let all = 0;
  for (let t = 0; t < soup.owner.length; t++) all += areaOf(t);
  if (!gone.length || lost > MOST_AREA * all) return { soup, places: [] };
  const keep = new Uint8Array(soup.owner.length).fill(1);
  for (const { triangles } of gone) for (const t of triangles) keep[t] = 0;
  return {
    soup: keepTriangles(soup, keep),
    places: gone.map(({ triangles: [t], low, high }) =>
      placeIn(
        soup,
        soup.owner[t],
        low.map((x, k) => (x + high[k]) / 2),
      ),
    ),
  };
}

/** Pieces below the size for their mesh, of meshes that have larger ones. */
function smallPieces(
  { positions, triangles, owner }: Soup,
  limits: ArrayLike<number>,
) {
  const joined = new UnionFind(positions.length / 3);
  for (let c = 0; c < triangles.length; c += 3) {
    joined.join(triangles[c + 1], triangles[c]);
    joined.join(triangles[c + 2], triangles[c]);
  }
  const root = new Uint32Array(positions.length / 3);
  for (let v = 0; v < root.length; v++) root[v] = joined.find(v);
  const low = new Float64Array(positions.length).fill(Infinity);
  const high = new Float64Array(positions.length).fill(-Infinity);
  for (let c = 0; c < triangles.length; c++) {
    const v = 3 * triangles[c];
    const r = 3 * root[triangles[c]];
    for (let k = 0; k < 3; k++) {
      const x = positions[v + k];
      if (x < low[r + k]) low[r + k] = x;
      if (x > high[r + k]) high[r + k] = x;
    }
  }
  const sizes = new Float64Array(root.length);
  for (let r = 0; r < root.length; r++)
    if (root[r] === r)
      sizes[r] = Math.hypot(
        high[3 * r] - low[3 * r],
        high[3 * r + 1] - low[3 * r + 1],
        high[3 * r + 2] - low[3 * r + 2],
      );
  const found = new Map<number, Piece>();
  const larger = new Set<number>();
  for (let t = 0; t < owner.length; t++) {
    const r = root[triangles[3 * t]];
    if (sizes[r] >= limits[owner[t]]) {
      larger.add(owner[t]);
      continue;
    }
    const piece = found.get(r);
    if (piece) piece.triangles.push(t);
    else
      found.set(r, {
        triangles: [t],
        low: [...low.subarray(3 * r, 3 * r + 3)],
        high: [...high.subarray(3 * r, 3 * r + 3)],
        size: sizes[r],
      });
  }
  return [...found.values()].filter((piece) =>
    larger.has(owner[piece.triangles[0]]),
  );
}

/** Pieces that form no rows or heaps of at least a length. */
function strewn(pieces: readonly Piece[], together: number): Piece[] {
  const order = pieces
    .map((piece) => {
      const more = APART * piece.size;
      return {
        piece,
        low: piece.low.map((x) => x - more),
        high: piece.high.map((x) => x + more),
      };
    })
    .sort((a, b) => a.low[0] - b.low[0]);
  const joined = new UnionFind(order.length);
  let open: number[] = [];
  order.forEach(({ low, high }, i) => {
    open = open.filter((j) => order[j].high[0] >= low[0]);
    for (const j of open)
      if (
        [1, 2].every(
          (k) => order[j].high[k] >= low[k] && order[j].low[k] <= high[k],
        )
      )
        joined.join(i, j);
    open.push(i);
  });
  const rows = new Map<number, Piece[]>();
  order.forEach(({ piece }, i) => {
    const row = rows.get(joined.find(i));
    if (row) row.push(piece);
    else rows.set(joined.find(i), [piece]);
  });
  return [...rows.values()].filter((row) => reachOf(row) < together).flat();
}

/** Corner to corner of the box round pieces, however many. */
function reachOf(pieces: readonly Piece[]): number {
  const low = [...pieces[0].low];
  const high = [...pieces[0].high];
  for (const piece of pieces)
    for (let k = 0; k < 3; k++) {
      low[k] = Math.min(low[k], piece.low[k]);
      high[k] = Math.max(high[k], piece.high[k]);
    }
  return Math.hypot(...high.map((x, k) => x - low[k]));
}

function isClosed({ triangles }: Soup, piece: Piece): boolean {
  // By numbers of its own: edges are sought among all vertices up to the highest one.
  const own = new Map<number, number>();
  const corners = Uint32Array.from(
    piece.triangles.flatMap((t) =>
      Array.from(triangles.subarray(3 * t, 3 * t + 3), (v) => {
        const known = own.get(v) ?? own.size;
        own.set(v, known);
        return known;
      }),
    ),
  );
  const faceStarts = new Uint32Array(piece.triangles.length + 1).map(
    (_, t) => 3 * t,
  );
  return buildEdges({ corners, faceStarts }).uses.every((uses) => uses === 2);
}

function keepTriangles(soup: Soup, keep: Uint8Array): Soup {
  let count = 0;
  for (let t = 0; t < keep.length; t++) count += keep[t];
  const picked = <T extends Uint8Array | Uint16Array | Uint32Array>(
    values: T,
    width: number,
  ): T => {
    const next = values.slice(0, width * count) as T;
    let at = 0;
    for (let t = 0; t < keep.length; t++) {
      if (!keep[t]) continue;
      for (let k = 0; k < width; k++) next[at++] = values[width * t + k];
    }
    return next;
  };
  return {
    ...soup,
    triangles: picked(soup.triangles, 3),
    owner: picked(soup.owner, 1),
    face: picked(soup.face, 1),
    material: picked(soup.material, 1),
    id: picked(soup.id, 1),
    marks: picked(soup.marks, 3),
  };
}
