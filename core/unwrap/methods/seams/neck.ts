import type { UnwrapMesh } from "../unwrap-mesh";
import { pop, push } from "../cut";
import {
  connectedSets,
  cutAtLeast,
  middlesOf,
  neighboursWithin,
} from "../split";

/** Places looked at for limbs, and the steps in which their length is walked. */
const TIPS = 10;
const STEPS = 72;
/** A limb is long against its waist: area beyond over its length squared (a rod of h long and r thick: h / 2πr). */
const LONG = 0.3;
/** And the body widens behind it, by so much within so many steps. */
const WIDENS = 1.35;
const BEHIND = 7;
/** A limb has no less than this share of the set, and no more. */
const LEAST = 0.015;
const MOST = 0.55;

/**
 * Looks for a limb: from each of the places farthest apart, the length of the lines of equal distance is followed;
 * a limb ends where much area lies beyond a short line and the lines grow after it. The border goes where a seam
 * costs least nearby.
 * @returns the faces in connected sets, limb first, or null where there is no limb
 */
export function splitAtNeck(m: UnwrapMesh, faces: number[]): number[][] | null {
  if (faces.length < 60) return null;
  const neighbours = neighboursWithin(m, faces);
  const middles = middlesOf(m, faces);
  const links = neighbours.map((list, i) =>
    list.map(([other]) =>
      Math.hypot(
        ...[0, 1, 2].map((k) => middles[3 * i + k] - middles[3 * other + k]),
      ),
    ),
  );
  const total = faces.reduce((sum, f) => sum + m.areas[f], 0);
  let best: {
    score: number;
    at: number;
    step: number;
    far: Float64Array;
  } | null = null;
  const nearest = new Float64Array(faces.length).fill(Infinity);
  let tip = farthest(walk(neighbours, links, 0));
  for (let k = 0; k < TIPS; k++) {
    const far = walk(neighbours, links, tip);
    const found = neckFrom(m, faces, neighbours, far, total);
    if (found && (!best || found.score > best.score)) best = { ...found, far };
    for (let i = 0; i < nearest.length; i++)
      nearest[i] = Math.min(nearest[i], far[i]);
    tip = farthest(nearest);
  }
  if (!best) return null;
  const { far, at, step } = best;
  const side = Uint8Array.from(far, (d) => (d < at ? 0 : 1));
  const band = 3.5 * step;
  const free = Uint8Array.from(far, (d) => (Math.abs(d - at) < band ? 1 : 0));
  cutAtLeast(m, neighbours, side, free);
  const sets = connectedSets(faces, neighbours, side);
  return sets.length > 1 ? sets : null;
}

function farthest(distance: Float64Array): number {
  let best = 0;
  for (let i = 1; i < distance.length; i++)
    if (distance[i] > distance[best] && distance[i] < Infinity) best = i;
  return best;
}

/** Distances from one face over neighbouring middles (Dijkstra 1959), metres. */
function walk(
  neighbours: [number, number][][],
  links: number[][],
  from: number,
): Float64Array {
  const distance = new Float64Array(neighbours.length).fill(Infinity);
  distance[from] = 0;
  const heap: [number, number][] = [[0, from]];
  while (heap.length) {
    const [d, i] = pop(heap);
    if (d > distance[i]) continue;
    const list = neighbours[i];
    for (let k = 0; k < list.length; k++) {
      const to = d + links[i][k];
      if (to < distance[list[k][0]]) {
        distance[list[k][0]] = to;
        push(heap, [to, list[k][0]]);
      }
    }
  }
  return distance;
}

/**
 * Where a chart is narrowest against what lies beyond.
 * @param far one distance per face from where it begins, metres
 */
export function neckFrom(
  m: UnwrapMesh,
  faces: number[],
  neighbours: [number, number][][],
  far: Float64Array,
  total: number,
): { score: number; at: number; step: number } | null {
  let most = 0;
  for (const d of far) if (d < Infinity && d > most) most = d;
  if (!(most > 0)) return null;
  const step = most / STEPS;
  const area = new Float64Array(STEPS + 2);
  const length = new Float64Array(STEPS + 2);
  const binOf = (d: number) => Math.min(STEPS, Math.ceil(d / step));
  const p = m.mesh.positions;
  faces.forEach((f, i) => {
    if (!(far[i] < Infinity)) return;
    area[binOf(far[i])] += m.areas[f];
    for (const [other, e] of neighbours[i]) {
      if (!(far[other] > far[i])) continue;
      const a = 3 * m.edges.vertices[2 * e];
      const b = 3 * m.edges.vertices[2 * e + 1];
      const size = Math.hypot(
        p[a] - p[b],
        p[a + 1] - p[b + 1],
        p[a + 2] - p[b + 2],
      );
      length[binOf(far[i])] += size;
      length[binOf(far[other])] -= size;
    }
  });
  for (let k = 1; k <= STEPS; k++) {
    area[k] += area[k - 1];
    length[k] += length[k - 1];
  }
  let best: { score: number; at: number; step: number } | null = null;
  for (let k = 3; k + BEHIND <= STEPS; k++) {
    if (area[k] < LEAST * total || area[k] > MOST * total) continue;
    // Steps of the mesh make single values jump: three are taken together.
    const here = (length[k - 1] + length[k] + length[k + 1]) / 3;
    const score = area[k] / (here * here || 1);
    if (score < LONG || (best && score <= best.score)) continue;
    let behind = 0;
    for (let b = 2; b <= BEHIND; b++) behind = Math.max(behind, length[k + b]);
    if (behind > WIDENS * here) best = { score, at: k * step, step };
  }
  return best;
}
