import { meshFromTriangles } from "../../mesh/change-faces";
import { lengthAlong } from "./grading";
import { ProjectionTarget } from "./projection-target";
import type { Mesh } from "../../mesh/mesh";
import { faceCount } from "../../mesh/mesh";
import { pairQuads } from "../pair-quads";
import { quadFields } from "./fields";
import { stepsBetween } from "./place-field";
import { mergeSingles } from "./merge-singles";
import { squareUp } from "./square-up";
import { Topology } from "./topology";
import type { WorkMesh } from "./work-mesh";
import type { EvenOptions } from "./even-options";

/**
 * Collapses a work mesh onto the lattice of its fields and pairs what comes out into quads.
 * @param step length of an edge to come, metres
 */
export function onLattice(
  work: WorkMesh,
  step: number,
  options: EvenOptions,
  ground: ProjectionTarget,
  check: () => void,
): Mesh {
  const fields = quadFields(
    work,
    step,
    guideDirections(work, options.guides, step),
    check,
  );
  const border = Uint8Array.from(work.bound, (b) => (b && b < 3 ? 1 : 0));
  const positions = fields.o.slice();
  const topology = new Topology(
    work.positions.slice(),
    work.triangles.slice(),
    openBorder(work),
  );
  const weight = new Float64Array(border.length).fill(1);
  const pinned = work.bound.slice();
  const wish = positions;
  const order = topology
    .edges()
    .map(([a, b]) => {
      const [du, dv] = stepsBetween(work, fields, a, b, step);
      const far = Math.hypot(
        ...[0, 1, 2].map((k) => wish[3 * a + k] - wish[3 * b + k]),
      );
      return { a, b, steps: du + dv, far };
    })
    .filter(({ steps }) => steps === 0)
    .sort((x, y) => x.far - y.far || x.a - y.a || x.b - y.b);
  check();
  const standsFor = new Int32Array(weight.length).map((_, v) => v);
  const find = (v: number) => {
    while (standsFor[v] !== v) v = standsFor[v] = standsFor[standsFor[v]];
    return v;
  };
  for (let round = 0; round < 3; round++)
    for (const edge of order) {
      let a = find(edge.a);
      let b = find(edge.b);
      if (a === b) continue;
      if (pinned[b] === 2 || (pinned[b] === 1 && pinned[a] !== 2))
        [a, b] = [b, a];
      if (pinned[a] === 2 && pinned[b] === 2) continue;
      const total = weight[a] + weight[b];
      const place = [0, 1, 2].map((k) =>
        pinned[a] > pinned[b] && pinned[a] < 3
          ? wish[3 * a + k]
          : (weight[a] * wish[3 * a + k] + weight[b] * wish[3 * b + k]) / total,
      );
      if (!topology.collapse(a, b, place)) continue;
      standsFor[b] = a;
      weight[a] = total;
      for (let k = 0; k < 3; k++) wish[3 * a + k] = place[k];
    }
  settle(topology, wish);
  tidy(topology, work, pinned, step, check);
  const paired = pairQuads(compact(topology), {
    bend: 50,
    squareness: 0.02,
    reach: 40,
  });
  const leave = options.pure ? 0 : Math.floor(SINGLES * faceCount(paired));
  const mesh = mergeSingles(paired, options.pure ? 10_000 : 8, leave);
  return squareUp(mesh, ground, 10, options.grading > 1);
}

const openBorder = (work: WorkMesh) => {
  const uses = new Map<number, number>();
  const count = work.positions.length / 3;
  const { triangles } = work;
  for (let c = 0; c < triangles.length; c++) {
    const a = triangles[c];
    const b = triangles[c % 3 === 2 ? c - 2 : c + 1];
    const key = Math.min(a, b) * count + Math.max(a, b);
    uses.set(key, (uses.get(key) ?? 0) + 1);
  }
  const border = new Uint8Array(count);
  for (const [key, used] of uses)
    if (used === 1) border[Math.floor(key / count)] = border[key % count] = 1;
  return border;
};

/** Moves what no collapse moved to its lattice point, where no face turns over. */
function settle(topology: Topology, wish: Float64Array): void {
  for (let v = 0; v < wish.length / 3; v++) {
    const faces = topology.facesAt(v);
    if (!faces.length) continue;
    const place = [wish[3 * v], wish[3 * v + 1], wish[3 * v + 2]];
    if (faces.some((t) => topology.turns(t, v, place))) continue;
    for (let k = 0; k < 3; k++) topology.positions[3 * v + k] = place[k];
  }
}

/** Share of the faces that may stay triangles where quads are not asked for throughout. */
export const SINGLES = 0.02;

/**
 * 3 × vertexCount of the work mesh: unit vectors along guides that run near, zero elsewhere.
 * @param guides 6 × count: both ends of each, metres
 */
export function guideDirections(
  work: WorkMesh,
  guides: Float32Array | null,
  step: number,
) {
  if (!guides?.length) return null;
  const found = new Float64Array(work.positions.length);
  for (let v = 0; v < found.length; v += 3) {
    let least = (0.75 * step) ** 2;
    for (let g = 0; g < guides.length; g += 6) {
      const d = [0, 1, 2].map((k) => guides[g + 3 + k] - guides[g + k]);
      const e = [0, 1, 2].map((k) => work.positions[v + k] - guides[g + k]);
      const dd = d[0] ** 2 + d[1] ** 2 + d[2] ** 2 || 1;
      const t = Math.max(
        0,
        Math.min(1, (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / dd),
      );
      const far = e.reduce((sum, x, k) => sum + (x - t * d[k]) ** 2, 0);
      if (far >= least) continue;
      least = far;
      for (let k = 0; k < 3; k++) found[v + k] = d[k] / Math.sqrt(dd);
    }
  }
  return found;
}

/**
 * Collapses what is far too short, and flips edges towards right angles.
 * @param pinned vertexCount: 1 for vertices that stay
 * @param step length of an edge to come, metres
 */
export function tidy(
  topology: Topology,
  work: WorkMesh,
  pinned: Uint8Array,
  step: number,
  check: () => void,
): void {
  const { positions: p } = topology;
  const length = (a: number, b: number) =>
    Math.hypot(
      p[3 * a] - p[3 * b],
      p[3 * a + 1] - p[3 * b + 1],
      p[3 * a + 2] - p[3 * b + 2],
    );
  const wantedAlong = (u: number, v: number, far: number) => {
    const [x, y, z] = [0, 1, 2].map((k) => (p[3 * v + k] - p[3 * u + k]) / far);
    return (
      0.5 *
      (lengthAlong(work.metric, u, x, y, z) +
        lengthAlong(work.metric, v, x, y, z))
    );
  };
  for (let round = 0; round < 4; round++) {
    check();
    let changed = 0;
    for (const [u, v] of topology.edges()) {
      const far = length(u, v);
      const own = far && step * wantedAlong(u, v, far);
      if (far > 0.45 * own) continue;
      let [a, b] = [u, v];
      if (pinned[b] === 2 || (pinned[b] === 1 && pinned[a] !== 2))
        [a, b] = [b, a];
      if (
        pinned[a] &&
        pinned[b] &&
        pinned[a] < 3 &&
        pinned[b] < 3 &&
        length(a, b) > 0.2 * own
      )
        continue;
      const place = [0, 1, 2].map((k) =>
        pinned[a] && pinned[a] < 3
          ? p[3 * a + k]
          : (p[3 * a + k] + p[3 * b + k]) / 2,
      );
      if (topology.collapse(a, b, place)) changed++;
    }
    for (const [a, b] of topology.edges()) {
      const pair = topology.pair(a, b);
      if (!pair || crease(topology, pair.s, pair.t)) continue;
      const { c, d } = pair;
      const now = Math.min(worstAngle(p, a, b, c), worstAngle(p, b, a, d));
      const then = Math.min(worstAngle(p, a, d, c), worstAngle(p, d, b, c));
      if (then > now + 0.05 && topology.flip(a, b)) changed++;
    }
    if (!changed) break;
  }
}

/** What stands of a topology, as a mesh. */
export function compact(topology: Topology): Mesh {
  const name = new Int32Array(topology.positions.length / 3).fill(-1);
  const points: number[] = [];
  const corners: number[] = [];
  topology.alive.forEach((alive, t) => {
    if (!alive) return;
    for (let k = 0; k < 3; k++) {
      const v = topology.triangles[3 * t + k];
      if (name[v] < 0) {
        name[v] = points.length / 3;
        for (let i = 0; i < 3; i++) points.push(topology.positions[3 * v + i]);
      }
      corners.push(name[v]);
    }
  });
  return meshFromTriangles(
    Float32Array.from(points),
    Uint32Array.from(corners),
  );
}

/** Whether two triangles bend enough for the edge between them to be kept. */
export function crease(topology: Topology, s: number, t: number): boolean {
  const n = topology.normal(s);
  const m = topology.normal(t);
  const size = Math.hypot(...n) * Math.hypot(...m);
  return n[0] * m[0] + n[1] * m[1] + n[2] * m[2] < 0.8 * size;
}

/**
 * The smallest angle of a triangle, radians.
 * @param p 3 × vertexCount, metres
 */
export function worstAngle(
  p: Float64Array,
  a: number,
  b: number,
  c: number,
): number {
  const d = (u: number, v: number) =>
    (p[3 * u] - p[3 * v]) ** 2 +
    (p[3 * u + 1] - p[3 * v + 1]) ** 2 +
    (p[3 * u + 2] - p[3 * v + 2]) ** 2;
  const [ab, bc, ca] = [d(a, b), d(b, c), d(c, a)];
  const angle = (x: number, y: number, far: number) =>
    Math.acos(
      Math.max(
        -1,
        Math.min(1, (x + y - far) / (2 * Math.sqrt(x * y) || 1e-300)),
      ),
    );
  return Math.min(angle(ab, ca, bc), angle(ab, bc, ca), angle(bc, ca, ab));
}
