import type { Done, SettleWork } from "./work";

/** An edge below this share of the mean of the edges round it means nothing. */
const SHORT = 2e-4;
const ROUNDS = 4;

/**
 * Collapses edges that are too short to mean anything, where that joins no surfaces (link condition, Dey et al.
 * 1999) and turns no face over. The vertex that stays keeps its place.
 */
export function collapseShortEdges(work: SettleWork, done: Done): void {
  const { vertices, alive, positions: p } = work;
  const reach = reachOf(work);
  work.link();
  let touched = new Uint8Array(reach.length).fill(1);
  for (let round = 0; round < ROUNDS; round++) {
    const before = done.count;
    const next = new Uint8Array(reach.length);
    for (let c = 0; c < vertices.length; c++) {
      const a = vertices[c];
      const b = vertices[c % 3 === 2 ? c - 2 : c + 1];
      if (!touched[a] && !touched[b]) continue;
      const x = p[3 * a] - p[3 * b];
      const y = p[3 * a + 1] - p[3 * b + 1];
      const z = p[3 * a + 2] - p[3 * b + 2];
      const limit = Math.max(reach[a], reach[b]);
      if (x * x + y * y + z * z > limit * limit) continue;
      if (!alive[(c / 3) | 0]) continue;
      if (collapseEdge(work, a, b) || collapseEdge(work, b, a)) {
        next[a] = next[b] = 1;
        done.note(p, a);
      }
    }
    if (done.count === before) break;
    touched = next;
  }
}

/** vertexCount: the length up to which an edge at it means nothing, metres. */
function reachOf(work: SettleWork): Float64Array {
  const { vertices, positions, spacing } = work;
  const sum = new Float64Array(positions.length / 3);
  const edges = new Uint32Array(sum.length);
  for (let c = 0; c < vertices.length; c++) {
    const a = vertices[c];
    const b = vertices[c % 3 === 2 ? c - 2 : c + 1];
    const length = work.distance(a, b);
    sum[a] += length;
    sum[b] += length;
    edges[a]++;
    edges[b]++;
  }
  for (let v = 0; v < sum.length; v++)
    sum[v] = edges[v]
      ? Math.max(1.01 * spacing, (SHORT * sum[v]) / edges[v])
      : 0;
  return sum;
}

const mine = new Set<number>();

/** Joins b to a where that is sound. @returns whether it was */
export function collapseEdge(work: SettleWork, a: number, b: number): boolean {
  const { vertices, firstCorner, nextCorner, alive } = work;
  mine.clear();
  for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) {
    const t = (c / 3) | 0;
    if (!alive[t]) continue;
    for (let k = 0; k < 3; k++) mine.add(vertices[3 * t + k]);
  }
  mine.delete(a);
  mine.delete(b);
  let shared = 0;
  let common = 0;
  const met: number[] = [];
  for (let c = firstCorner[b]; c >= 0; c = nextCorner[c]) {
    const t = (c / 3) | 0;
    if (!alive[t]) continue;
    let both = false;
    for (let k = 0; k < 3; k++) {
      const w = vertices[3 * t + k];
      if (w === a) both = true;
      if (mine.has(w) && !met.includes(w)) {
        met.push(w);
        common++;
      }
    }
    if (both) shared++;
    else if (turnsOver(work, t, b, a)) return false;
  }
  if (!shared || shared > 2 || common !== shared) return false;
  let tail = -1;
  for (let c = firstCorner[a]; c >= 0; c = nextCorner[c]) tail = c;
  for (let c = firstCorner[b]; c >= 0;) {
    const next = nextCorner[c];
    const t = (c / 3) | 0;
    if (alive[t]) {
      const i = 3 * t;
      if (vertices[i] === a || vertices[i + 1] === a || vertices[i + 2] === a)
        work.drop(t);
      else {
        vertices[c] = a;
        nextCorner[tail] = c;
        nextCorner[c] = -1;
        tail = c;
      }
    }
    c = next;
  }
  firstCorner[b] = -1;
  work.touch();
  return true;
}

/** Whether a triangle that has a side to speak of faces another way once its corner at v lies at w. */
function turnsOver(
  { positions: p, vertices }: SettleWork,
  t: number,
  v: number,
  w: number,
): boolean {
  const at = (k: number, moved: boolean) => {
    const x = vertices[3 * t + k];
    return 3 * (moved && x === v ? w : x);
  };
  const old = normalOf(p, at(0, false), at(1, false), at(2, false));
  const now = normalOf(p, at(0, true), at(1, true), at(2, true));
  const dot = old[0] * now[0] + old[1] * now[1] + old[2] * now[2];
  return dot < 0 || (dot === 0 && old.some((x) => x !== 0));
}

function normalOf(p: Float32Array, a: number, b: number, c: number) {
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}
