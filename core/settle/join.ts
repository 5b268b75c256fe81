import { coincident } from "../mesh/weld";
import type { Borders } from "./borders";
import type { Done, SettleWork } from "./work";

/** Vertices on borders that are nearer than this share of the edges there are one. */
const NEAR = 2e-4;

/** Joins vertices in equal places. Triangles that lose a corner go. */
export function joinCoincident(work: SettleWork, done: Done): void {
  joinVertices(work, coincident(work.positions, 0), done);
}

/** Joins vertices on open borders that are nearer than the edges there, and the numbers they are kept in, can tell. */
export function joinNearOnBorders(
  work: SettleWork,
  borders: Borders,
  done: Done,
): void {
  const { positions: p, spacing } = work;
  const target = new Uint32Array(p.length / 3);
  for (let v = 0; v < target.length; v++) target[v] = v;
  const { vertices: list, mean } = borders;
  const order = Uint32Array.from(list, (_, i) => i);
  const reach = mean.map((length) => Math.max(1.01 * spacing, NEAR * length));
  // Along one axis, as reaches are tiny against the distances between vertices.
  order.sort((i, j) => p[3 * list[i]] - p[3 * list[j]] || list[i] - list[j]);
  for (let i = 0; i < order.length; i++) {
    const v = list[order[i]];
    for (let j = i + 1; j < order.length; j++) {
      const w = list[order[j]];
      if (p[3 * w] - p[3 * v] > reach[order[i]]) break;
      const near = Math.min(reach[order[i]], reach[order[j]]);
      if (work.distance(v, w) > near) continue;
      const a = rootOf(target, v);
      const b = rootOf(target, w);
      target[Math.max(a, b)] = Math.min(a, b);
    }
  }
  for (const v of list) target[v] = rootOf(target, v);
  joinVertices(work, target, done);
}

function rootOf(target: Uint32Array, v: number): number {
  while (target[v] !== v) v = target[v];
  return v;
}

/**
 * Joins every vertex with its target; triangles that lose a corner go.
 * @param target vertexCount: which vertex each is joined to
 */
export function joinVertices(
  work: SettleWork,
  target: Uint32Array,
  done: Done,
): void {
  const { vertices, alive, positions } = work;
  const joined = new Uint8Array(target.length);
  let any = false;
  for (let c = 0; c < vertices.length; c++) {
    const v = vertices[c];
    const to = target[v];
    if (to === v) continue;
    any = true;
    if (!joined[v]) {
      joined[v] = 1;
      done.note(positions, v);
    }
    vertices[c] = to;
  }
  if (!any) return;
  work.touch();
  for (let t = 0; t < alive.length; t++) {
    const a = vertices[3 * t];
    const b = vertices[3 * t + 1];
    const c = vertices[3 * t + 2];
    if (alive[t] && (a === b || b === c || c === a)) work.drop(t);
  }
}
