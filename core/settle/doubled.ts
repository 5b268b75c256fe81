import { boundsOf } from "../space/bounds";
import { buildBvh } from "../space/bvh";
import { ClosestPoint } from "../space/closest-point";
import { dot, pointAt, unit } from "../space/vector";
import { cross } from "../mesh/triangle-shape";
import type { Done, SettleWork } from "./work";
import { UnionFind } from "../base/union-find";

/** Open pieces of up to so many triangles, or this share of all, may be a second layer of what lies under them. */
const FEW = 64;
const SHARE = 0.01;
/** A layer lies nearer than this share of its edges to what it doubles, corners and all, and faces the way that does. */
const NEAR = 0.15;
const ALIKE = 0.8;
/** Share of its triangles for which that must hold. */
const MOST = 0.95;
/** Cells along the longest side of the grid that tells what can be near. */
const CELLS = 64;

/** Drops small open pieces that lie on another surface all over: patches that merging left twice. */
export function dropDoubled(work: SettleWork, done: Done): void {
  const borders = work.borders();
  if (!borders.vertices.length) return;
  const { vertices, count } = work;
  const piece = piecesOf(work);
  const sizes = new Uint32Array(piece.length);
  for (let t = 0; t < count; t++) sizes[piece[vertices[3 * t]]]++;
  const limit = Math.max(FEW, SHARE * count);
  const open = new Set<number>();
  for (const v of borders.vertices)
    if (sizes[piece[v]] <= limit && sizes[piece[v]] < count) open.add(piece[v]);
  if (!open.size) return;
  const members = new Map<number, number[]>();
  const pieceOf = new Uint32Array(count);
  for (let t = 0; t < count; t++) {
    pieceOf[t] = piece[vertices[3 * t]];
    if (!open.has(pieceOf[t])) continue;
    const list = members.get(pieceOf[t]);
    if (list) list.push(t);
    else members.set(pieceOf[t], [t]);
  }
  const near = trianglesNear(work, members);
  const closest = new ClosestPoint(
    buildBvh(
      work.positions,
      Uint32Array.from(
        { length: 3 * near.length },
        (_, c) => vertices[3 * near[(c / 3) | 0] + (c % 3)],
      ),
    ),
    near.map((t) => pieceOf[t]),
  );
  // Smallest first, so that of two that double each other the larger one stays.
  const order = [...members].sort(
    ([p, a], [q, b]) => a.length - b.length || q - p,
  );
  for (const [own, list] of order)
    if (liesOnOthers(work, closest, near, own, list))
      for (const t of list) {
        done.note(work.positions, vertices[3 * t]);
        work.drop(t);
      }
}

/** vertexCount: a vertex of the connected piece that each belongs to. */
function piecesOf({ vertices, positions }: SettleWork): Uint32Array {
  const pieces = new UnionFind(positions.length / 3);
  for (let c = 0; c < vertices.length; c += 3) {
    pieces.join(vertices[c + 1], vertices[c]);
    pieces.join(vertices[c + 2], vertices[c]);
  }
  return new Uint32Array(positions.length / 3).map((_, v) => pieces.find(v));
}

/** How near to others a piece has to lie to double them, metres. */
function reachOf(work: SettleWork, list: readonly number[]): number {
  let sum = 0;
  for (const t of list)
    for (let k = 0; k < 3; k++)
      sum += work.distance(
        work.vertices[3 * t + k],
        work.vertices[3 * t + ((k + 1) % 3)],
      );
  return (NEAR * sum) / (3 * list.length);
}

/** All triangles that may lie within reach of the pieces: those in the same cells of a coarse grid. */
function trianglesNear(
  work: SettleWork,
  members: ReadonlyMap<number, readonly number[]>,
): Uint32Array {
  const { vertices, positions: p, count } = work;
  const { min, max } = boundsOf(p);
  const cell = Math.max(...max.map((x, k) => x - min[k])) / CELLS || 1;
  const marked = new Uint8Array(CELLS ** 3);
  const from = [0, 0, 0];
  const to = [0, 0, 0];
  const cellsOf = (t: number, reach: number) => {
    for (let k = 0; k < 3; k++) {
      const a = p[3 * vertices[3 * t] + k];
      const b = p[3 * vertices[3 * t + 1] + k];
      const c = p[3 * vertices[3 * t + 2] + k];
      from[k] = cellAt(Math.min(a, b, c) - reach, min[k], cell);
      to[k] = cellAt(Math.max(a, b, c) + reach, min[k], cell);
    }
  };
  for (const list of members.values()) {
    const reach = reachOf(work, list);
    for (const t of list) {
      cellsOf(t, reach);
      for (let z = from[2]; z <= to[2]; z++)
        for (let y = from[1]; y <= to[1]; y++)
          marked.fill(
            1,
            (z * CELLS + y) * CELLS + from[0],
            (z * CELLS + y) * CELLS + to[0] + 1,
          );
    }
  }
  const near = new Uint32Array(count);
  let used = 0;
  for (let t = 0; t < count; t++) {
    cellsOf(t, 0);
    let any = 0;
    for (let z = from[2]; z <= to[2]; z++)
      for (let y = from[1]; y <= to[1]; y++)
        for (let x = from[0]; x <= to[0]; x++)
          any |= marked[(z * CELLS + y) * CELLS + x];
    if (any) near[used++] = t;
  }
  return near.slice(0, used);
}

const cellAt = (x: number, low: number, cell: number) =>
  Math.max(0, Math.min(CELLS - 1, Math.floor((x - low) / cell)));

function liesOnOthers(
  work: SettleWork,
  closest: ClosestPoint,
  near: Uint32Array,
  own: number,
  list: readonly number[],
): boolean {
  const { vertices, positions: p } = work;
  const reach = reachOf(work, list);
  const normalOf = (t: number) =>
    unit(cross(p, vertices[3 * t], vertices[3 * t + 1], vertices[3 * t + 2]));
  let on = 0;
  for (const t of list) {
    const [a, b, c] = [0, 1, 2].map((k) => pointAt(p, vertices[3 * t + k]));
    const middle = a.map((x, k) => (x + b[k] + c[k]) / 3);
    const all = [middle, a, b, c].every(([x, y, z]) => {
      const found = closest.find(x, y, z, reach * reach, own);
      const hit = near[found];
      return (
        found >= 0 &&
        work.alive[hit] &&
        Math.abs(dot(normalOf(hit), normalOf(t))) > ALIKE
      );
    });
    if (all) on++;
  }
  return on >= MOST * list.length;
}
