import type { UnwrapMesh } from "../unwrap-mesh";
import { acrossCorner } from "../chart";
import { pop, push } from "../cut";
import {
  connectedSets,
  cutAtLeast,
  middlesOf,
  neighboursWithin,
} from "../split";
import { neckFrom } from "./neck";

/** An edge that is a seam already costs so much of what it would. */
const SEAM_SHARE = 0.25;

/**
 * The cheapest path of edges between two vertices: short, along creases, through what shows little, along seams
 * there are (Dijkstra 1959, over `m.costs`).
 * @returns edges from the first to the second vertex, none where there is no way
 */
export function tracePath(m: UnwrapMesh, from: number, to: number): number[] {
  if (from === to) return [];
  const { edges, mesh } = m;
  const links = linksOf(m);
  const distance = new Float64Array(links.starts.length - 1).fill(Infinity);
  const via = new Int32Array(distance.length).fill(-1);
  const heap: [number, number][] = [[0, from]];
  distance[from] = 0;
  while (heap.length) {
    const [d, v] = pop(heap);
    if (v === to) break;
    if (d > distance[v]) continue;
    for (let k = links.starts[v]; k < links.starts[v + 1]; k++) {
      const e = links.list[k];
      const w =
        edges.vertices[2 * e] === v
          ? edges.vertices[2 * e + 1]
          : edges.vertices[2 * e];
      const share = mesh.seams?.[edges.first[e]] ? SEAM_SHARE : 1;
      const cost = d + share * m.costs[e] + 1e-9;
      if (cost >= distance[w]) continue;
      distance[w] = cost;
      via[w] = e;
      push(heap, [cost, w]);
    }
  }
  const path: number[] = [];
  for (let v = to; v !== from;) {
    const e = via[v];
    if (e < 0) return [];
    path.push(e);
    v =
      edges.vertices[2 * e] === v
        ? edges.vertices[2 * e + 1]
        : edges.vertices[2 * e];
  }
  return path.reverse();
}

const known = new WeakMap<UnwrapMesh, ReturnType<typeof makeLinks>>();

function linksOf(m: UnwrapMesh) {
  let links = known.get(m);
  if (!links) known.set(m, (links = makeLinks(m)));
  return links;
}

function makeLinks({ edges, mesh }: UnwrapMesh) {
  const starts = new Uint32Array(mesh.positions.length / 3 + 1);
  for (let i = 0; i < 2 * edges.count; i++) starts[edges.vertices[i] + 1]++;
  for (let v = 1; v < starts.length; v++) starts[v] += starts[v - 1];
  const list = new Uint32Array(2 * edges.count);
  const at = starts.slice();
  for (let e = 0; e < edges.count; e++)
    for (let k = 0; k < 2; k++) list[at[edges.vertices[2 * e + k]]++] = e;
  return { starts, list };
}

/** A region by shape ends where faces turn by more than this, and is no more than that share of its piece. */
const TURN = Math.cos((28 * Math.PI) / 180);
const MOST = 0.6;

/**
 * The faces to be cut out at a face: what is bounded by sharp edges (a cap, a pocket), else the lobe that begins
 * here and ends at its neck.
 * @returns faces, or null where neither is found
 */
export function regionAt(m: UnwrapMesh, face: number): number[] | null {
  const piece = floodFrom(m, face, -2);
  const flat = floodFrom(m, face, TURN);
  const area = (faces: readonly number[]) =>
    faces.reduce((sum, f) => sum + m.areas[f], 0);
  if (area(flat) < MOST * area(piece)) return flat;
  const neighbours = neighboursWithin(m, piece);
  const middles = middlesOf(m, piece);
  const start = piece.indexOf(face);
  const far = new Float64Array(piece.length).fill(Infinity);
  far[start] = 0;
  const heap: [number, number][] = [[0, start]];
  while (heap.length) {
    const [d, i] = pop(heap);
    if (d > far[i]) continue;
    for (const [other] of neighbours[i]) {
      const to =
        d +
        Math.hypot(
          ...[0, 1, 2].map((k) => middles[3 * i + k] - middles[3 * other + k]),
        );
      if (to < far[other]) {
        far[other] = to;
        push(heap, [to, other]);
      }
    }
  }
  const neck = neckFrom(m, piece, neighbours, far, area(piece));
  if (!neck) return null;
  const side = Uint8Array.from(far, (d) => (d < neck.at ? 0 : 1));
  cutAtLeast(
    m,
    neighbours,
    side,
    Uint8Array.from(far, (d) =>
      Math.abs(d - neck.at) < 3 * neck.step ? 1 : 0,
    ),
  );
  return (
    connectedSets(piece, neighbours, side).find((set) => set.includes(face)) ??
    null
  );
}

/** Faces reached from one across edges that turn by no more than an angle. @param least cosine of it */
function floodFrom(m: UnwrapMesh, face: number, least: number): number[] {
  const { mesh, normals: n } = m;
  const seen = new Set([face]);
  const waiting = [face];
  while (waiting.length) {
    const f = waiting.pop()!;
    for (let c = mesh.faceStarts[f]; c < mesh.faceStarts[f + 1]; c++) {
      const g = acrossCorner(m, c);
      if (g < 0 || seen.has(g)) continue;
      const dot =
        n[3 * f] * n[3 * g] +
        n[3 * f + 1] * n[3 * g + 1] +
        n[3 * f + 2] * n[3 * g + 2];
      if (dot < least) continue;
      seen.add(g);
      waiting.push(g);
    }
  }
  return [...seen];
}
