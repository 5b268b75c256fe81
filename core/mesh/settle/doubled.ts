import { buildBvh } from "../../space/bvh";
import { ClosestPoint } from "../../space/closest-point";
import { dot, pointAt, unit } from "../../space/vector";
import { cross } from "../triangle-shape";
import type { Done, SettleWork } from "./work";
import { UnionFind } from "../../space/union-find";

/** Open pieces of up to so many triangles, or this share of all, may be a second layer of what lies under them. */
const FEW = 64;
const SHARE = 0.01;
/** A layer lies nearer than this share of its edges to what it doubles, corners and all, and faces the way that does. */
const NEAR = 0.15;
const ALIKE = 0.8;
/** Share of its triangles for which that must hold. */
const MOST = 0.95;

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
  const closest = new ClosestPoint(buildBvh(work.positions, vertices), pieceOf);
  // Smallest first, so that of two that double each other the larger one stays.
  const order = [...members].sort(
    ([p, a], [q, b]) => a.length - b.length || q - p,
  );
  for (const [own, list] of order)
    if (liesOnOthers(work, closest, own, list))
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

function liesOnOthers(
  work: SettleWork,
  closest: ClosestPoint,
  own: number,
  list: readonly number[],
): boolean {
  const { vertices, positions: p } = work;
  let sum = 0;
  for (const t of list)
    for (let k = 0; k < 3; k++)
      sum += work.distance(
        vertices[3 * t + k],
        vertices[3 * t + ((k + 1) % 3)],
      );
  const reach = (NEAR * sum) / (3 * list.length);
  const normalOf = (t: number) =>
    unit(cross(p, vertices[3 * t], vertices[3 * t + 1], vertices[3 * t + 2]));
  let on = 0;
  for (const t of list) {
    const [a, b, c] = [0, 1, 2].map((k) => pointAt(p, vertices[3 * t + k]));
    const middle = a.map((x, k) => (x + b[k] + c[k]) / 3);
    const all = [middle, a, b, c].every(([x, y, z]) => {
      const hit = closest.find(x, y, z, reach * reach, own);
      return (
        hit >= 0 &&
        work.alive[hit] &&
        Math.abs(dot(normalOf(hit), normalOf(t))) > ALIKE
      );
    });
    if (all) on++;
  }
  return on >= MOST * list.length;
}
